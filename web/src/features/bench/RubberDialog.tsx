import { useState } from "react";

import type { Material, RubberAsked, Sheet } from "@/api/client";
import { useRubber } from "@/api/hooks";
import { standsFor } from "@/api/units";
import { percent } from "@/ui/format";
import { tell } from "@/ui/notices";
import { PointPlot } from "@/ui/PointPlot";
import { Refusal } from "@/ui/Refusal";
import { Row } from "@/ui/Section";
import { Select } from "@/ui/Select";

import { Dialogue } from "./Dialogue";
import { type EditFn, put } from "./edits";
import { SheetInput } from "./SheetInput";

const PULLS = [
  { value: "one way", label: "pulled or pressed one way" },
  { value: "two ways", label: "pulled two ways alike" },
  { value: "wide strip", label: "a wide strip, pulled across" },
] as const;

type Props = { material: Material; path: string; onEdit: EditFn; onClose: () => void };

/** The constants of a rubber from a test in a sheet: plotted as measured and as fitted. */
export function RubberDialog({ material, path, onEdit, onClose }: Props) {
  const [sheet, setSheet] = useState<Sheet>();
  const [pull, setPull] = useState<NonNullable<RubberAsked["pull"]>>("one way");
  const found = useRubber(sheet && { sheet, pull });
  const { unit, factor } = standsFor("MPa");
  const points = (pairs: readonly (readonly [number, number] | number[])[] = []) =>
    pairs.map(([x = 0, y = 0]) => ({ x, y: y * factor }));
  const use = () =>
    tell(onEdit([put(`${path}/rubber`, found.data?.rubber)], `Constants of ${material.name}`).then(onClose));
  return (
    <Dialogue
      title={`Test of ${material.name}`}
      action="Use the constants"
      mayAct={!!found.data}
      onAct={use}
      onClose={onClose}
    >
      <div>
        <PointPlot
          label="Engineering stress over strain"
          line={points(found.data?.fitted)}
          dots={points(found.data?.entered)}
          xLabel="strain"
          yLabel={unit}
        />
        <p className="text-[12.5px] text-quiet">Dots: as measured. Line: with the constants found.</p>
        <Refusal of={found.error} />
      </div>
      <div>
        <Select label="The piece was" value={pull} options={[...PULLS]} onChange={(v) => setPull(v as typeof pull)} />
        {found.data && (
          <>
            <Row label="Constant C10">{found.data.rubber.c10}</Row>
            <Row label="Constant C01">{found.data.rubber.c01}</Row>
            <Row label="Bulk modulus, nearly incompressible">{found.data.rubber.bulk}</Row>
            <Row label="Off on average by">{percent(found.data.off)}</Row>
          </>
        )}
        <div className="pt-2">
          <SheetInput hint="Engineering strain and stress, the unit in the header or the cells:" onSheet={setSheet} />
        </div>
      </div>
    </Dialogue>
  );
}
