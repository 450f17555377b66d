import { BELOW, ABOVE, RAMP, SIGNED_RAMP, valueIn } from "@/scene/ramp";
import { COLOURS } from "@/ui/colours";
import { figure } from "@/ui/format";

import type { Range } from "./Legend";

export const CORNERS = ["top left", "top right", "bottom right"] as const;
export type Corner = (typeof CORNERS)[number];

export type Caption = {
  title: string;
  /** Where title and what is below it stand. */
  corner: Corner;
  /** What is shown, and where. */
  below: string;
  /** None for a field of kinds. */
  labels: { text: string; x: number; y: number }[];
  legend?: Range & { unit: string; signed: boolean; marksBeyond: boolean; isLog: boolean };
};

const FONT = "'Source Sans 3 Variable', sans-serif";
const EDGE = 0.022;

/** A still of the stage with its title and legend, as wide as asked (pixels), as PNG. */
export async function captioned(
  still: string,
  width: number,
  { title, below, corner, labels, legend }: Caption,
): Promise<Blob> {
  const image = await load(still);
  const canvas = document.createElement("canvas");
  canvas.width = width;
  canvas.height = Math.round((width * image.height) / image.width);
  const pen = canvas.getContext("2d");
  if (!pen) throw new Error("This browser cannot draw pictures.");
  pen.fillStyle = COLOURS.stage;
  pen.fillRect(0, 0, canvas.width, canvas.height);
  pen.drawImage(image, 0, 0, canvas.width, canvas.height);
  const edge = EDGE * width;
  const size = 0.02 * width;
  pen.textBaseline = "top";
  pen.textAlign = corner === "top left" ? "left" : "right";
  const [x, y] = [
    corner === "top left" ? edge : width - edge,
    corner === "bottom right" ? canvas.height - edge - 2.4 * size : edge,
  ];
  pen.fillStyle = COLOURS.ink;
  pen.font = `600 ${size}px ${FONT}`;
  pen.fillText(title, x, y);
  pen.fillStyle = COLOURS.quiet;
  pen.font = `400 ${0.8 * size}px ${FONT}`;
  pen.fillText(below, x, y + 1.4 * size);
  pen.textAlign = "left";
  pen.textBaseline = "middle";
  for (const { text, x, y } of labels) {
    const wide = pen.measureText(text).width;
    pen.fillStyle = COLOURS.paper;
    pen.fillRect(x * width - 0.3 * size, y * canvas.height - 0.6 * size, wide + 0.6 * size, 1.2 * size);
    pen.fillStyle = COLOURS.ink;
    pen.fillText(text, x * width, y * canvas.height);
  }
  pen.textBaseline = "top";
  if (legend) {
    const [left, top, long, high] = [edge, canvas.height - edge - 2.4 * size, 0.3 * width, 0.7 * size];
    const stops = legend.signed ? SIGNED_RAMP : RAMP;
    const ramp = pen.createLinearGradient(left, 0, left + long, 0);
    stops.forEach((colour, i) => ramp.addColorStop(i / (stops.length - 1), colour));
    pen.fillStyle = ramp;
    pen.fillRect(left, top, long, high);
    if (legend.marksBeyond) {
      pen.fillStyle = BELOW;
      pen.fillRect(left, top, high, high);
      pen.fillStyle = ABOVE;
      pen.fillRect(left + long - high, top, high, high);
    }
    pen.strokeStyle = COLOURS.line;
    pen.strokeRect(left, top, long, high);
    pen.fillStyle = COLOURS.ink;
    const values = [legend.low, valueIn(legend, 0.5), legend.high];
    values.forEach((value, i) => {
      pen.textAlign = (["left", "center", "right"] as const)[i]!;
      const text = i === 2 ? `${figure(value)} ${legend.unit}` : figure(value);
      pen.fillText(text, left + (i / 2) * long, top + 1.3 * high);
    });
  }
  return new Promise((done, failed) =>
    canvas.toBlob((blob) => (blob ? done(blob) : failed(new Error("The picture could not be made."))), "image/png"),
  );
}

function load(address: string): Promise<HTMLImageElement> {
  return new Promise((done, failed) => {
    const image = new Image();
    image.onload = () => done(image);
    image.onerror = () => failed(new Error("The stage could not be drawn."));
    image.src = address;
  });
}
