import { bodyName } from "@/features/items";
import type { Carrier, StudyDocument, Summary } from "@/api/client";
import { momentAbout, spoken } from "@/api/units";
import { type Quantity, loadSort } from "@/api/vocabulary";
import { type NamedKind, nameOf } from "@/features/items";

/** Something that has a value at every increment, in the unit it is spoken in. */
export type Course = { key: string; label: string; unit: string; values: number[] };

const CARRIERS: Record<Carrier["kind"], NamedKind | undefined> = {
  support: "support",
  motion: "load",
  wall: "wall",
  bolt: "bolt",
  spring: "spring",
  link: "link",
  inertia: undefined,
  damping: undefined,
};

/** Carriers of force as the study names them. */
export function carrierName(study: StudyDocument, { kind, name }: Pick<Carrier, "kind" | "name">): string {
  const named = CARRIERS[kind];
  return named ? nameOf(study, named, name) : kind;
}

const PAIR: [keyof Summary["pairs"][string], string, Quantity | "%"][] = [
  ["normal_force", "force across", "force"],
  ["friction_force", "friction", "force"],
  ["peak_pressure", "peak pressure", "stress"],
  ["max_gap", "widest gap", "length"],
  ["max_penetration", "penetration", "length"],
  ["max_sliding", "sliding", "length"],
  ["share_open", "open", "%"],
  ["share_sticking", "sticking", "%"],
  ["share_sliding", "sliding share", "%"],
  ["dissipated", "heat of friction", "energy"],
];

/** Everything that can be plotted of a run, the time first. */
export function coursesOf(study: StudyDocument, history: Summary[]): Course[] {
  const first = history[0];
  if (!first) return [];
  const made: Course[] = [];
  const add = (key: string, label: string, quantity: Quantity | "%" | "", pick: (s: Summary) => number) => {
    const { unit, factor } =
      quantity === "%" ? { unit: "%", factor: 100 } : quantity ? spoken(quantity) : { unit: "", factor: 1 };
    made.push({ key, label, unit, values: history.map((s) => factor * pick(s)) });
  };
  add("time", "Time in steps", "", (s) => s.step + s.time);
  for (const load of study.loads ?? []) {
    if (load.id in first.values)
      add(`load/${load.id}`, load.name, loadSort(load.kind).quantity, (s) => s.values[load.id] ?? 0);
  }
  for (const carrier of first.carriers) {
    const name = carrierName(study, carrier);
    const at = (s: Summary) => s.carriers.find((c) => c.kind === carrier.kind && c.name === carrier.name) ?? carrier;
    const key = `${carrier.kind}/${carrier.name}`;
    add(`${key}/force`, `${name}: force`, "force", (s) => Math.hypot(...at(s).force));
    for (const [i, axis] of ["x", "y", "z"].entries()) {
      add(`${key}/force-${axis}`, `${name}: force ${axis}`, "force", (s) => at(s).force[i] ?? 0);
      add(`${key}/moment-${axis}`, `${name}: moment ${axis}`, "moment", (s) => {
        const now = at(s);
        return momentAbout(now, now.about)[i] ?? 0;
      });
    }
  }
  for (const name of Object.keys(first.bolts))
    add(`bolt/${name}`, `Bolt ${name}: force`, "force", (s) => s.bolts[name]?.force ?? 0);
  for (const name of Object.keys(first.bolts).filter((n) => first.bolts[n]?.worst)) {
    add(`bolt/${name}/shear`, `Bolt ${name}: shear`, "force", (s) => s.bolts[name]?.worst?.shear ?? 0);
    add(`bolt/${name}/bending`, `Bolt ${name}: bending`, "moment", (s) => s.bolts[name]?.worst?.bending ?? 0);
  }
  for (const pair of study.pairs ?? []) {
    if (!first.pairs[pair.id]) continue;
    for (const [field, label, quantity] of PAIR)
      add(`pair/${pair.id}/${field}`, `${pair.name}: ${label}`, quantity, (s) =>
        Number(s.pairs[pair.id]?.[field] ?? 0),
      );
  }
  for (const name of Object.keys(first.parts)) {
    const label = bodyName(study, name);
    add(`part/${name}/stress`, `${label}: highest von Mises`, "stress", (s) => s.parts[name]?.max_von_mises ?? 0);
    add(`part/${name}/moved`, `${label}: displacement`, "length", (s) => s.parts[name]?.max_displacement ?? 0);
    add(`part/${name}/plastic`, `${label}: plastic strain`, "%", (s) => s.parts[name]?.max_plastic_strain ?? 0);
  }
  if (history.some((s) => s.energy.kinetic > 0)) add("kinetic", "Kinetic energy", "energy", (s) => s.energy.kinetic);
  return made;
}

/** What a run asks first: torque over angle where something is turned, force over travel where something is moved. */
export function firstCurves(study: StudyDocument, courses: Course[]): { x: string; y: string[] } {
  const has = (key: string) => courses.some((c) => c.key === key);
  for (const load of study.loads ?? []) {
    const x = `load/${load.id}`;
    if (!has(x)) continue;
    const direction = [...(load.direction ?? [0, 0, 1])].map((d) => Math.abs(Number(d)));
    const axis = ["x", "y", "z"][direction.indexOf(Math.max(...direction))] ?? "z";
    const what = load.kind === "rotation" ? "moment" : load.kind === "displacement" ? "force" : undefined;
    const y = `motion/${load.id}/${what}-${axis}`;
    if (what && has(y)) return { x, y: [y] };
  }
  const pairs = courses.filter((c) => c.key.endsWith("/normal_force")).slice(0, 3);
  return { x: "time", y: pairs.map((c) => c.key) };
}

/** A table of courses as a spreadsheet reads it. */
export function asCsv(courses: Course[]): string {
  const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;
  const head = courses.map((c) => quoted(c.unit ? `${c.label} (${c.unit})` : c.label)).join(",");
  const rows = (courses[0]?.values ?? []).map((_, i) => courses.map((c) => c.values[i] ?? "").join(","));
  return [head, ...rows].join("\r\n") + "\r\n";
}

/** Hand a table to the reader as a file. */
export const saveText = (name: string, text: string) => saveFile(name, new Blob([text], { type: "text/csv" }));

/** Hand something to the reader as a file. */
export function saveFile(name: string, content: Blob): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
