import type { Carrier, LargestForces, LedgerRow, StudyDocument, Summary } from "@/api/client";
import { force, inChosenUnits, length, moment, say, spoken, stress } from "@/api/units";
import { nameOf, type NamedKind } from "@/features/items";
import { figure, percent } from "@/ui/format";
import { Row, Section } from "@/ui/Section";

import type { Shown } from "./fields";

type Props = { study: StudyDocument; now: Summary; shown: Shown; rows: LedgerRow[] };

/** Numbers of what is shown, and the balance of the whole. */
export function DetailPanel({ study, now, shown, rows }: Props) {
  return (
    <div className="px-4 py-2">
      {shown.kind === "pair" && <PairNumbers study={study} now={now} pair={shown.pair} />}
      {shown.kind === "part" && <PartNumbers study={study} now={now} part={shown.part} />}
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
            </Row>
          ))}
        </Section>
      )}
      <Balance now={now} study={study} />
    </div>
  );
}

function PairNumbers({ study, now, pair }: { study: StudyDocument; now: Summary; pair: string }) {
  const p = now.pairs[pair];
  const name = study.pairs?.find((x) => x.id === pair)?.name ?? pair;
  if (!p) return null;
  return (
    <Section title={name}>
      <Row label="Force across">{force(p.normal_force ?? 0)}</Row>
      <Row label="Force along">{force(p.friction_force ?? 0)}</Row>
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

const vector = (f: readonly number[]) =>
  f.map((x) => figure(Math.abs(x) < 0.5 ? 0 : x * spoken("force").factor)).join(", ");

/** Carriers of force as the study names them; those between two handles are told as such, they cancel in the whole. */
function carrierName(study: StudyDocument, carrier: Carrier): string {
  const kinds: Record<Carrier["kind"], NamedKind | undefined> = {
    support: "support",
    motion: "load",
    wall: "wall",
    bolt: "bolt",
    spring: "spring",
    link: "link",
    inertia: undefined,
    damping: undefined,
  };
  const kind = kinds[carrier.kind];
  const name = kind ? nameOf(study, kind, carrier.name) : carrier.kind;
  return carrier.is_outside === false ? `${name} (inside)` : name;
}

function Balance({ now, study }: { now: Summary; study: StudyDocument }) {
  const worst = Math.max(...Object.values(now.balance.parts), 0);
  return (
    <Section title={`Balance (${spoken("force").unit}: x, y, z)`}>
      <Row label="Loads">{vector(now.balance.applied)}</Row>
      {now.carriers.map((c) => (
        <Row key={`${c.kind}/${c.name}`} label={carrierName(study, c)}>
          {vector(c.force)}
        </Row>
      ))}
      <Row label="Closes to">
        {now.balance.closing_error.toExponential(0)} of {force(now.balance.scale)}
      </Row>
      <Row label="Worst part left with">{worst.toExponential(0)} N</Row>
    </Section>
  );
}
