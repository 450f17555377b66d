import type { PartUse } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";

import { type EditFn, replace } from "./edits";
import { Three } from "./Three";

const SORTS = [
  { value: "ball", label: "within a distance" },
  { value: "box", label: "within a box" },
];

/** Regions of the faces of a part, in its own axes: each is a face of its own. */
export function Regions({ part, path, onEdit }: { part: PartUse; path: string; onEdit: EditFn }) {
  const regions = part.regions ?? [];
  if (!regions.length) return null;
  return (
    <Section title="Regions of faces, in the part's own axes">
      {regions.map((region, i) => {
        const at = `${path}/regions/${i}`;
        const label = `Region ${region.name} of ${part.name}`;
        const size = region.reach ?? region.sizes?.[0] ?? "10 mm";
        return (
          <div key={i} className="border-b border-line py-1 last:border-b-0">
            <Field
              label={`region ${i + 1}, name`}
              value={region.name}
              onCommit={(text) => onEdit([replace(`${at}/name`, text)], label)}
            />
            <Field
              label={`region ${i + 1}, of the face`}
              value={region.of}
              onCommit={(text) => onEdit([replace(`${at}/of`, text)], label)}
            />
            <Three
              label={(axis) => `region ${i + 1}, ${axis}`}
              values={region.at}
              path={`${at}/at`}
              name={label}
              onEdit={onEdit}
            />
            <Select
              label={`region ${i + 1}, what lies`}
              value={region.sizes ? "box" : "ball"}
              options={SORTS}
              onChange={(sort) =>
                tell(
                  onEdit(
                    [
                      replace(`${at}/reach`, sort === "ball" ? size : null),
                      replace(`${at}/sizes`, sort === "box" ? [size, size, size] : null),
                    ],
                    label,
                  ),
                )
              }
            />
            {region.sizes ? (
              <Three
                label={(axis) => `region ${i + 1}, size ${axis}`}
                values={region.sizes}
                path={`${at}/sizes`}
                name={label}
                onEdit={onEdit}
              />
            ) : (
              <Field
                label={`region ${i + 1}, distance`}
                value={region.reach ?? ""}
                onCommit={(text) => onEdit([replace(`${at}/reach`, text)], label)}
              />
            )}
            <Button onClick={() => tell(onEdit([{ op: "remove", path: at }], `Take ${label} out`))}>
              Take region {i + 1} out
            </Button>
          </div>
        );
      })}
    </Section>
  );
}
