import { useState } from "react";

import type { Carrier, LargestForces, LedgerRow, Resultant, StudyDocument, Summary } from "@/api/client";
import { force, inChosenUnits, length, moment, momentAbout, say, spoken, stress } from "@/api/units";
import { faceName } from "@/features/items";
import type { Sight } from "@/features/selection";
import type { Vec } from "@/scene/drawSigns";
import type { Mirrors } from "@/scene/mirrors";
import { Choice } from "@/ui/Choice";
import { figure, percent } from "@/ui/format";
import { Row, Section } from "@/ui/Section";

import type { Shown } from "./fields";
import { AxisSelect } from "./AxisSelect";
import { carrierName } from "./quantities";
import { type Acting, type InAxes, axesName, componentsIn, withImages } from "./resultants";

type Props = {
  study: StudyDocument;
  now: Summary;
  shown: Shown;
  rows: LedgerRow[];
  /** What passes through the cut of the part that is shown. */
  through?: Resultant | undefined;
  /** Parts that are hidden or seen through. */
  sight: Record<string, Sight>;
  onSight: (sight: Record<string, Sight>) => void;
  /** Planes that everything is seen mirrored in: then what acts on the whole is told too. */
  mirrors: Mirrors;
  /** What acts on the face that was picked. */
  overFace?: { face: string; found: Resultant } | undefined;
};

/** Numbers of what is shown, and the balance of the whole. */
export function DetailPanel({ study, now, shown, rows, through, overFace, mirrors, sight, onSight }: Props) {
  const [about, setAbout] = useState<InAxes>();
  const told = { mirrors, about };
  return (
    <div className="px-4 py-2">
      {shown.kind === "pair" && <PairNumbers study={study} now={now} pair={shown.pair} told={told} />}
      {shown.kind === "part" && <PartNumbers study={study} now={now} part={shown.part} />}
      {shown.kind === "part" && (
        <p className="flex gap-4 pb-2 text-[13px]">
          {shown.part !== undefined &&
            (["hidden", "ghost"] as const).map((how) => (
              <button
                key={how}
                type="button"
                className="text-verdigris hover:underline"
                onClick={() => onSight({ ...sight, [shown.part ?? ""]: how })}
              >
                {how === "hidden" ? "Hide it" : "See through it"}
              </button>
            ))}
          {Object.keys(sight).length > 0 && (
            <button type="button" className="text-verdigris hover:underline" onClick={() => onSight({})}>
              Show all parts
            </button>
          )}
        </p>
      )}
      {through && (
        <Through
          title="Through the cut, from what is taken away"
          where="the middle of the cut"
          found={through}
          told={told}
        />
      )}
      {overFace && (
        <Through
          title={`On ${faceName(study, overFace.face)}, from outside`}
          where="the middle of the face"
          found={overFace.found}
          told={told}
        />
      )}
      {(shown.kind === "pair" || through || overFace) && (
        <p className="flex flex-wrap items-center gap-2 text-[13px]">
          Components in <AxisSelect own="x, y, z" about={about} onAbout={setAbout} />
        </p>
      )}
      <Section title="Verdicts">
        {verdicts(rows, shown).map((v) => (
          <p key={v.title} className="py-0.5">
            <span className="text-quiet">{v.title}: </span>
            {v.text}
          </p>
        ))}
      </Section>
      {Object.keys(now.bolts).length > 0 && (
        <Section title="Bolts">
          {Object.entries(now.bolts).map(([name, bolt], i) => (
            <Row key={name} label={`Bolt ${i + 1}`}>
              {force(bolt.force)}
              {bolt.worst && (
                <span className="block text-quiet">
                  shear {force(bolt.worst.shear)}, bending {moment(bolt.worst.bending)},{" "}
                  {length(Math.abs(bolt.worst.at))} from its middle towards the {bolt.worst.at > 0 ? "head" : "foot"}
                </span>
              )}
            </Row>
          ))}
        </Section>
      )}
      <Balance now={now} study={study} />
    </div>
  );
}

function PairNumbers({ study, now, pair, told }: { study: StudyDocument; now: Summary; pair: string; told: Told }) {
  const p = now.pairs[pair];
  const name = study.pairs?.find((x) => x.id === pair)?.name ?? pair;
  if (!p) return null;
  return (
    <Section title={name}>
      <Row label="Force across">{force(p.normal_force ?? 0)}</Row>
      <Row label="Force along">{force(p.friction_force ?? 0)}</Row>
      {p.moment && p.about && (
        <Components
          what="On side A"
          where="the middle of the pair"
          acting={{ force: p.force, moment: p.moment, about: p.about }}
          told={told}
        />
      )}
      <Row label="Peak pressure">{stress(p.peak_pressure ?? 0)}</Row>
      <Row label="Widest gap">{length(p.max_gap ?? 0)}</Row>
      <Row label="Deepest penetration">{length(p.max_penetration ?? 0)}</Row>
      <Row label="Longest sliding">{length(p.max_sliding ?? 0)}</Row>
      <Row label="Open · sliding · sticking">
        {[p.share_open, p.share_sliding, p.share_sticking].map((s) => percent(s ?? 0)).join(" · ")}
      </Row>
      <Row label="Heat of friction">{say(p.dissipated ?? 0, "energy")}</Row>
    </Section>
  );
}

function PartNumbers({ study, now, part }: { study: StudyDocument; now: Summary; part: string | undefined }) {
  const bodies = Object.entries(now.parts).filter(([n]) => part === undefined || n.split("#")[0] === part);
  const known = bodies.flatMap(([, p]) => (p.safety === null ? [] : [p.safety]));
  const safety = known.length ? Math.min(...known) : undefined;
  const highest = (pick: (p: Summary["parts"][string]) => number) => Math.max(...bodies.map(([, p]) => pick(p)), 0);
  return (
    <Section title={study.parts?.find((p) => p.id === part)?.name ?? "All parts"}>
      <Row label="Highest von Mises">{stress(highest((p) => p.max_von_mises))}</Row>
      {highest((p) => p.max_plastic_strain) > 0 && (
        <Row label="Plastic strain">{figure(100 * highest((p) => p.max_plastic_strain))} %</Row>
      )}
      <Row label="Elements disagree by">{stress(highest((p) => p.stress_error))}</Row>
      <Row label="Largest displacement">{length(highest((p) => p.max_displacement))}</Row>
      <Row label="Use of yield">{figure(highest((p) => p.yield_share ?? 0))}</Row>
      {safety !== undefined && <Row label="Safety">{figure(safety)}</Row>}
      {bodies.flatMap(([name, p]) =>
        p.section_forces
          ? [<SectionForces key={name} name={bodies.length > 1 ? name : undefined} forces={p.section_forces} />]
          : [],
      )}
    </Section>
  );
}

function SectionForces({ name, forces }: { name: string | undefined; forces: LargestForces }) {
  return (
    <>
      {name !== undefined && <p className="pt-1 text-quiet">Beam {name}</p>}
      <Row label="Axial force">{force(forces.axial)}</Row>
      <Row label="Shear force">{force(forces.shear)}</Row>
      <Row label="Bending moment">
        {moment(forces.bending)} at {length(forces.bending_at)}
      </Row>
      <Row label="Torsion">{moment(forces.torsion)}</Row>
    </>
  );
}

function verdicts(rows: LedgerRow[], shown: Shown): { title: string; text: string }[] {
  const row = rows.find((r) => r.id === (shown.kind === "pair" ? shown.pair : shown.part));
  if (!row) return [];
  const titles = { pressure: "Opening", penetration: "Penetration", sliding: "Sliding", yielding: "Yield" } as const;
  return (Object.keys(titles) as (keyof typeof titles)[]).flatMap((key) => {
    const cell = row[key];
    return cell ? [{ title: titles[key], text: inChosenUnits(cell.verdict) }] : [];
  });
}

/** Components in the unit spoken; what is lost in the rounding of `scale` is nothing. */
const vector = (f: readonly number[], quantity: "force" | "moment", scale: number) =>
  f.map((x) => figure(Math.abs(x) <= 1e-6 * scale ? 0 : x * spoken(quantity).factor)).join(", ");

const size = (v: readonly number[]) => Math.hypot(...v);

type Told = { mirrors: Mirrors; about: InAxes };
type ThroughProps = { title: string; where: string; found: Resultant; told: Told };

/** Force and moment over a cut or a face. */
function Through({ title, where, found, told }: ThroughProps) {
  return (
    <Section title={title}>
      <Components what="Force" where={where} acting={found as Acting} told={told} />
    </Section>
  );
}

/** Force and moment in the axes that are asked for, and with the images that are seen. */
function Components({ what, where, acting, told }: { what: string; where: string; acting: Acting; told: Told }) {
  const isMirrored = told.mirrors.some(Boolean);
  const rows = [
    { label: what, of: acting, at: where },
    ...(isMirrored
      ? [{ label: "On the whole", of: withImages(acting, told.mirrors), at: "the place between its images" }]
      : []),
  ];
  return rows.map(({ label, of, at }) => {
    const [f, m] = [of.force, of.moment].map((v) => componentsIn(v, of.about, told.about)) as [Vec, Vec];
    return (
      <div key={label}>
        <Row label={`${label} ${axesName(told.about)} (${spoken("force").unit})`}>
          {vector(f, "force", Math.max(size(f), 1e-9))}
        </Row>
        <Row label={`Moment ${axesName(told.about)} (${spoken("moment").unit})`}>
          {vector(m, "moment", Math.max(size(m), 1e-9))}
        </Row>
        <Row label={`About ${at}`}>{of.about.map((c) => length(c)).join(", ")}</Row>
      </div>
    );
  });
}

function Balance({ now, study }: { now: Summary; study: StudyDocument }) {
  const worst = Math.max(...Object.values(now.balance.parts), 0);
  const { scale } = now.balance;
  const [isAboutEach, setAboutEach] = useState(true);
  const about = (c: Carrier) => momentAbout(c, isAboutEach ? c.about : [0, 0, 0]);
  const largest = Math.max(...now.carriers.map((c) => size(about(c))), 1e-12);
  return (
    <>
      <Section title={`Balance (${spoken("force").unit}: x, y, z)`}>
        <Row label="Loads">{vector(now.balance.applied, "force", scale)}</Row>
        {now.carriers.map((c) => (
          <Row key={`${c.kind}/${c.name}`} label={toldName(study, c)}>
            {vector(c.force, "force", scale)}
          </Row>
        ))}
        <Row label="Closes to">
          {now.balance.closing_error.toExponential(0)} of {force(scale)}
        </Row>
        <Row label="Worst part left with">{worst.toExponential(0)} N</Row>
      </Section>
      {now.carriers.length > 0 && (
        <Section title={`Moments (${spoken("moment").unit}: x, y, z)`}>
          <Choice
            label="about"
            value={isAboutEach ? "own" : "origin"}
            options={[
              { value: "own", label: "where each acts" },
              { value: "origin", label: "the origin" },
            ]}
            onChange={(which) => setAboutEach(which === "own")}
          />
          {now.carriers.map((c) => (
            <Row key={`${c.kind}/${c.name}`} label={toldName(study, c)}>
              {vector(about(c), "moment", largest)}
            </Row>
          ))}
        </Section>
      )}
    </>
  );
}

/** A carrier as the study names it; those between two handles are told as such, they cancel in the whole. */
const toldName = (study: StudyDocument, carrier: Carrier) =>
  `${carrierName(study, carrier)}${carrier.is_outside === false ? " (inside)" : ""}`;
