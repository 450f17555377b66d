import { describe, expect, it } from "vitest";

import type { MeshReport, StudyDocument } from "@/api/client";

import { scaled, worstLabels } from "./MeshPanel";

const part = (id: string, size: string) => ({ id, mesh: { size } });
const study = { parts: [part("plate", "11 mm"), part("pin", "0.25 in"), part("odd", "?")] } as unknown as StudyDocument;
const worst = (quality: number) => [{ at: [1, 2, 3] as [number, number, number], quality }];
const report = {
  parts: [
    { part: "plate", least: 0.5, worst: worst(0.5) },
    { part: "pin", least: 0.2, worst: worst(0.2) },
  ],
} as MeshReport;

describe("mesh panel", () => {
  it("scales sizes in their own units and leaves alone what it cannot read", () => {
    expect(scaled(study, 0.8).map((s) => [s.path, s.value])).toEqual([
      ["/parts/0/mesh/size", "8.8 mm"],
      ["/parts/1/mesh/size", "0.2 in"],
    ]);
  });
  it("marks the worst elements of the selected part, or of all", () => {
    expect(worstLabels(report, "plate").map((l) => l.text)).toEqual(["0.50"]);
    expect(worstLabels(report, undefined).map((l) => l.text)).toEqual(["0.20"]);
  });
});
