import { type FitInfo, type PairUse, api, unwrap } from "@/api/client";
import { Field } from "@/ui/Field";
import { Row, Section } from "@/ui/Section";
import { Select } from "@/ui/Select";
import { tell } from "@/ui/notices";

import { startText } from "./jointGraph";
import { type InspectorProps, freeId, freeName, put } from "./edits";
import { useSelection } from "@/features/selection";
import { FaceList } from "./FaceList";
import { Head } from "./Head";
import { InSteps } from "./InSteps";
import { NameField } from "./NameField";
import { FITS, MEANT } from "./pairRows";
import { EnforcementFields, LawFields } from "./LawFields";
import { TakeOut } from "./TakeOut";

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
  const advice = preflight?.findings.find((f) => f.code === "cover" && f.where === `pairs/${pair.id}`);
  return (
    <>
      <Head kind="Pair" name={pair.name} />
      <NameField name={pair.name} path={path} onEdit={onEdit} />
      <ContactChoice study={study} pair={pair} path={path} onEdit={onEdit} />
      <LawFields name={pair.name} law={law} path={path} onEdit={onEdit} />
      <Select
        label="It is meant"
        value={pair.meant}
        options={Object.entries(MEANT).map(([value, label]) => ({ value, label }))}
        onChange={(meant) => tell(onEdit([put(`${path}/meant`, meant)], `What ${pair.name} is meant to do`))}
      />
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
        {advice && (
          <p className="text-[12.5px] text-copper">
            Better swapped: {advice.text} {advice.hint}
          </p>
        )}
      </Section>
      <EnforcementFields name={pair.name} enforcement={enforcement} path={path} onEdit={onEdit} />
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

const NONE = "-";

/** The contact property that a pair follows, or none; a new one begins as the pair is. */
function ContactChoice({
  study,
  pair,
  path,
  onEdit,
}: Pick<InspectorProps, "study" | "onEdit"> & { pair: PairUse; path: string }) {
  const { select } = useSelection();
  const contacts = study.contacts ?? [];
  const make = async () => {
    const id = freeId("contact", contacts);
    const name = freeName("Contact property", pair.name, contacts);
    const value = { id, name, law: pair.law, enforcement: pair.enforcement };
    await onEdit([put("/contacts/-", value), put(`${path}/contact`, id)], `${name} from ${pair.name}`);
    select({ kind: "contact", id });
  };
  return (
    <>
      <Select
        label="Contact property"
        value={pair.contact ?? NONE}
        options={[{ value: NONE, label: "its own" }, ...contacts.map((c) => ({ value: c.id, label: c.name }))]}
        onChange={(id) => tell(onEdit([put(`${path}/contact`, id === NONE ? null : id)], `Property of ${pair.name}`))}
      />
      <p className="flex justify-end gap-3 text-[13px]">
        {pair.contact && (
          <button
            type="button"
            className="text-verdigris hover:underline"
            onClick={() => select({ kind: "contact", id: pair.contact ?? "" })}
          >
            open it
          </button>
        )}
        <button type="button" className="text-verdigris hover:underline" onClick={() => tell(make())}>
          share it with other pairs
        </button>
      </p>
    </>
  );
}
