import { expect, test } from "vitest";

import { readScene } from "@/api/sceneBlock";
import { force, length } from "@/api/units";
import { figure } from "@/ui/format";

import { limitsOf, perBody } from "./fields";

function block(): ArrayBuffer {
  const header = new TextEncoder().encode(
    JSON.stringify({
      bodies: [{ name: "bolt#1", faces: ["shank"] }],
      arrays: {
        positions0: { kind: "float32", offset: 0, length: 9 },
        triangles0: { kind: "uint32", offset: 36, length: 3 },
        face0: { kind: "uint32", offset: 48, length: 1 },
        features0: { kind: "uint32", offset: 52, length: 0 },
        edges0: { kind: "uint32", offset: 52, length: 0 },
        rims0: { kind: "uint32", offset: 52, length: 0 },
        rimface0: { kind: "uint32", offset: 52, length: 0 },
      },
    }).padEnd(400),
  );
  const out = new Uint8Array(4 + header.length + 52);
  new DataView(out.buffer).setUint32(0, header.length, true);
  out.set(header, 4);
  out.set(new Uint8Array(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer), 4 + header.length);
  out.set(new Uint8Array(new Uint32Array([0, 1, 2, 0]).buffer), 4 + header.length + 36);
  return out.buffer;
}

test("a scene block comes apart into bodies", () => {
  const scene = readScene(block());
  expect(scene.bodies[0]?.name).toBe("bolt#1");
  expect([...(scene.bodies[0]?.triangles ?? [])]).toEqual([0, 1, 2]);
  expect(perBody(scene, new Float32Array([5, 6, 7]))[0]?.length).toBe(3);
});

test("limits include zero, and are even for a signed field", () => {
  const values = [new Float32Array([2, 8]), undefined];
  expect(limitsOf(values, false)).toEqual({ low: 0, high: 8 });
  expect(limitsOf([new Float32Array([-3, 1])], true)).toEqual({ low: -3, high: 3 });
});

test("figures carry their unit and about three digits", () => {
  expect(force(41763)).toBe("41.8 kN");
  expect(force(12.34)).toBe("12.3 N");
  expect(length(0.00966)).toBe("9.66 µm");
  expect(figure(0.4905)).toBe("0.490");
});
