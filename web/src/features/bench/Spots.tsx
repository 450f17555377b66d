import type { PartUse } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { figure } from "@/ui/format";
import { tell } from "@/ui/notices";
import { type EditFn, put } from "./edits";
import { Three } from "./Three";

/** Points of a part around which its mesh is finer. */
export function Spots({ part, path, onEdit }: { part: PartUse; path: string; onEdit: EditFn }) {
  const spots = part.mesh.spots ?? [];
  const found = part.mesh.found ?? [];
  const at = `${path}/mesh/spots`;
  return (
    <Section title="Finer around points, in the part's own axes">
      {spots.map((spot, i) => (
        <div key={i} className="border-b border-line py-1 last:border-b-0">
          <Three
            label={(axis) => `point ${i + 1}, ${axis}`}
            values={spot.at}
            path={`${at}/${i}/at`}
            name={`Finer point of ${part.name}`}
            onEdit={onEdit}
          />
          <Field
            label={`point ${i + 1}, size`}
            value={spot.size}
            onCommit={(text) =>
              onEdit([{ op: "replace", path: `${at}/${i}/size`, value: text }], `Size at a point of ${part.name}`)
            }
          />
          <Button
            onClick={() =>
              tell(onEdit([{ op: "remove", path: `${at}/${i}` }], `Take a finer point of ${part.name} out`))
            }
          >
            Take point {i + 1} out
          </Button>
        </div>
      ))}
      <Button
        className="my-1"
        onClick={() =>
          tell(
            onEdit(
              [put(at, [...spots, { at: ["0 mm", "0 mm", "0 mm"], size: part.mesh.size }])],
              `A finer point of ${part.name}`,
            ),
          )
        }
      >
        Add a point
      </Button>
      {found.length > 0 && (
        <p className="flex items-center justify-between gap-2 border-t border-line pt-1.5">
          <span>
            {found.length} finer {found.length === 1 ? "point" : "points"} found by settling, down to{" "}
            {figure(Math.min(...found.map((f) => f[3])))} mm
          </span>
          <Button onClick={() => tell(onEdit([put(`${path}/mesh/found`, [])], `Sizes found for ${part.name} let go`))}>
            Let them go
          </Button>
        </p>
      )}
    </Section>
  );
}
