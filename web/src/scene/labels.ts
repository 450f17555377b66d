export type Placed = { x: number; y: number };
type Wanted = Placed & { id: string; text: string };

/** Size of a label in pixels: of a line of text, and of a letter across. */
const LINE = 21;
const LETTER = 6.9;
const PADDING = 22;
const MOST_STEPS = 24;

/** Where labels stand, right of their points: moved up or down until none covers another. */
export function placeLabels(labels: Wanted[]): Record<string, Placed> {
  const boxes: { x: number; y: number; width: number }[] = [];
  const places: Record<string, Placed> = {};
  for (const label of [...labels].sort((a, b) => a.y - b.y || a.x - b.x)) {
    const width = PADDING + LETTER * label.text.length;
    const isFree = (y: number) =>
      boxes.every((b) => Math.abs(b.y - y) >= LINE || b.x + b.width <= label.x || label.x + width <= b.x);
    let y = label.y;
    for (let step = 1; step <= MOST_STEPS && !isFree(y); step++)
      y = label.y + (step % 2 ? 1 : -1) * Math.ceil(step / 2) * LINE;
    boxes.push({ x: label.x, y, width });
    places[label.id] = { x: label.x, y };
  }
  return places;
}
