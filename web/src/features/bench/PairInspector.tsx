import { type FitInfo, type PairUse, api, unwrap } from "@/api/client";
import { Choice } from "@/ui/Choice";
import { Field } from "@/ui/Field";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { Switch } from "@/ui/Switch";
import { tell } from "@/ui/notices";

import { startText } from "./jointGraph";
import { type InspectorProps, number, put } from "./edits";
import { FaceList } from "./FaceList";
import { Head } from "./Head";
import { InSteps } from "./InSteps";
import { NameField } from "./NameField";
import { FITS } from "./pairRows";
import { TakeOut } from "./TakeOut";

const SLIDES = [
  { value: "no", label: "no" },
  { value: "freely", label: "freely" },
  { value: "friction", label: "with µ" },
] as const;
const METHODS = [
  { value: "exact", label: "exact" },
  { value: "augmented", label: "augmented" },
  { value: "penalty", label: "penalty" },
] as const;

export function PairInspector({
  info,
  study,
  pair,
  path,
  onEdit,
  preflight,
}: InspectorProps & { pair: PairUse; path: string }) {
  const law = pair.law;
  const enforcement = pair.enforcement;
  const start = preflight?.pairs.find((p) => p.id === pair.id);
  const setLaw = (change: Partial<typeof law>) =>
    // A pair that cannot open has no friction to slide with.
    onEdit(
      Object.entries(normal(law, change)).map(([key, value]) => put(`${path}/law/${key}`, value)),
      `Law of ${pair.name}`,
    );
  return (
    <>
      <Head kind="Pair" name={pair.name} />
      <NameField name={pair.name} path={path} onEdit={onEdit} />
      <Switch label="May open" checked={law.may_open} onChange={(may_open) => tell(setLaw({ may_open }))} />
      <Choice
        label="May slide"
        value={law.may_slide}
        options={law.may_open ? SLIDES : SLIDES.slice(0, 2)}
        onChange={(may_slide) => tell(setLaw({ may_slide }))}
      />
      {law.may_slide === "friction" && (
        <Field
          label="Friction coefficient µ"
          value={String(law.mu)}
          onCommit={(text) => onEdit([put(`${path}/law/mu`, number(text))], `µ of ${pair.name}`)}
        />
      )}
      <Section title="Fit at the start">
        <Row label="Drawn">{startText(start?.gap) || "…"}</Row>
        <Select
          label="Count it"
          value={pair.fit}
          options={Object.entries(FITS).map(([value, label]) => ({ value, label }))}
          onChange={(fit) => tell(onEdit([put(`${path}/fit`, fit)], `Fit of ${pair.name}`))}
        />
        {pair.fit === "value" && (
          <>
            <Field
              label="Overlap across the faces"
              value={pair.interference}
              onCommit={(text) => onEdit([put(`${path}/interference`, text)], `Overlap of ${pair.name}`)}
            />
            <Field
              label="from a fit"
              wide
              value=""
              placeholder="H7/s6 60 mm most"
              onCommit={(text) =>
                fromFit(text).then((overlap) =>
                  onEdit([put(`${path}/interference`, overlap)], `${text} for ${pair.name}`),
                )
              }
            />
          </>
        )}
        <Field
          label="Search distance"
          value={pair.search}
          onCommit={(text) => onEdit([put(`${path}/search`, text)], `Search distance of ${pair.name}`)}
        />
      </Section>
      <Section title="Sides">
        <FaceList label="A" study={study} path={`${path}/a`} name={pair.name} faces={pair.a} onEdit={onEdit} />
        {pair.wall ? (
          <Select
            label="Datum wall"
            value={pair.wall}
            options={(study.walls ?? []).map((w) => ({ value: w.id, label: w.name }))}
            onChange={(id) => tell(onEdit([put(`${path}/wall`, id)], `Wall of ${pair.name}`))}
          />
        ) : (
          <FaceList label="B" study={study} path={`${path}/b`} name={pair.name} faces={pair.b} onEdit={onEdit} />
        )}
        <div className="flex items-center justify-between text-[13px] text-quiet">
          <span>
            {start ? `A is ${Math.round(start.cover * 100)} % covered, ${start.nodes} nodes` : "A carries the check"}
          </span>
          <button
            type="button"
            disabled={!!pair.wall}
            className="text-verdigris underline disabled:text-quiet disabled:no-underline"
            onClick={() =>
              tell(onEdit([put(`${path}/a`, pair.b), put(`${path}/b`, pair.a)], `Sides of ${pair.name} swapped`))
            }
          >
            swap
          </button>
        </div>
      </Section>
      <Section title="Enforcement">
        <Choice
          label="Method"
          value={enforcement.method}
          options={METHODS}
          onChange={(method) =>
            tell(onEdit([put(`${path}/enforcement/method`, method)], `Enforcement of ${pair.name}`))
          }
        />
        {enforcement.method === "augmented" && (
          <Field
            label="Penetration at most"
            value={enforcement.allowed}
            onCommit={(text) =>
              onEdit([put(`${path}/enforcement/allowed`, text)], `Penetration allowed of ${pair.name}`)
            }
          />
        )}
        {enforcement.method !== "exact" && (
          <Field
            label="Stiffness × E/h"
            value={String(enforcement.stiffness)}
            onCommit={(text) => onEdit([put(`${path}/enforcement/stiffness`, number(text))], `Penalty of ${pair.name}`)}
          />
        )}
      </Section>
      <InSteps
        title="Acts in"
        study={study}
        path={path}
        name={pair.name}
        released={pair.released ?? []}
        onEdit={onEdit}
      />
      <TakeOut study={info.id} kind="pair" item={pair} />
    </>
  );
}

/** Overlap of the radii by a fit class, a diameter, and which of its limits: `H7/s6 60 mm most`. */
async function fromFit(text: string): Promise<string> {
  const [fit = "", ...rest] = text.trim().split(/\s+/);
  const limit = ["least", "mean", "most"].find((w) => rest.at(-1) === w) as "least" | "mean" | "most" | undefined;
  const diameter = (limit ? rest.slice(0, -1) : rest).join(" ");
  const found = unwrap<FitInfo>(await api.GET("/api/fits", { params: { query: { fit, diameter } } }));
  return `${Number(found[limit ?? "mean"].toFixed(6))} mm`;
}

/** What a change of a law changes with it. */
function normal<T extends { may_open: boolean; may_slide: string }>(law: T, change: Partial<T>): Partial<T> {
  const after = { ...law, ...change };
  return !after.may_open && after.may_slide === "friction" ? { ...change, may_slide: "no" } : change;
}
