import { useState } from "react";

import type { Material, Sheet } from "@/api/client";
import { useCurve } from "@/api/hooks";
import { standsFor } from "@/api/units";
import { type PlotPoint, PointPlot } from "@/ui/PointPlot";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";
import { Refusal } from "@/ui/Refusal";

import { Dialogue } from "./Dialogue";
import { type EditFn, put } from "./edits";
import { SheetInput } from "./SheetInput";

const MEASURES = [
  { value: "engineering", label: "engineering, as tested" },
  { value: "true", label: "true" },
] as const;
const STRAINS = [
  { value: "total", label: "the whole strain" },
  { value: "plastic", label: "plastic strain only" },
] as const;

type Props = { material: Material; path: string; onEdit: EditFn; onClose: () => void };

/** A stress–strain curve from a sheet: plotted as entered and as used. */
export function CurveDialog({ material, path, onEdit, onClose }: Props) {
  const [sheet, setSheet] = useState<Sheet>();
  const [measure, setMeasure] = useState<"engineering" | "true">("engineering");
  const [strain, setStrain] = useState<"total" | "plastic">("total");
  const curve = useCurve(sheet && { sheet, measure, strain, young: material.young ?? "" });
  const used = curve.data?.table.map((r) => ({ x: r.strain, y: Number.parseFloat(r.stress) })) ?? [];
  const { unit, factor } = standsFor("MPa");
  const inUnit = (points: PlotPoint[] = []) => points.map(({ x, y }) => ({ x, y: y * factor }));
  const use = () => {
    const hardening = { kinematic_share: material.hardening?.kinematic_share ?? 0, table: curve.data?.table };
    tell(onEdit([put(`${path}/hardening`, hardening)], `Hardening of ${material.name}`).then(onClose));
  };
  return (
    <Dialogue
      title={`Stress–strain curve of ${material.name}`}
      action={used.length ? `Use ${used.length} rows` : "Use the curve"}
      mayAct={!!curve.data}
      onAct={use}
      onClose={onClose}
    >
      <div>
        <PointPlot
          label="Stress over plastic strain"
          line={inUnit(used)}
          dots={inUnit(curve.data?.entered.map(([x, y]) => ({ x, y })))}
          xLabel="strain"
          yLabel={unit}
        />
        <p className="text-[12.5px] text-quiet">
          Dots: as entered. Line: true stress over plastic strain, as the material is computed with.
        </p>
        <Refusal of={curve.error} />
      </div>
      <div>
        <Select
          label="Values are"
          value={measure}
          options={[...MEASURES]}
          onChange={(v) => setMeasure(v as typeof measure)}
        />
        <Select
          label="Strain is"
          value={strain}
          options={[...STRAINS]}
          onChange={(v) => setStrain(v as typeof strain)}
        />
        <div className="pt-2">
          <SheetInput hint="Strain and stress, the unit in the header or the cells:" onSheet={setSheet} />
        </div>
      </div>
    </Dialogue>
  );
}
