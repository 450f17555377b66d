import { useQuery } from "@tanstack/react-query";

import { type HandCheck, type StudyDocument, api, unwrap } from "@/api/client";
import { inChosenUnits, say } from "@/api/units";
import { figure, percent } from "@/ui/format";
import { Section } from "@/ui/Section";

import type { Shown } from "./fields";

type Checked = HandCheck["values"][number];
/** Values nearer than this share of the one by hand are the same. */
const AGREES = 0.1;

/** Hand calculations at an increment of a run. */
export const useHandChecks = (runId: number | undefined, increment: number | undefined) =>
  useQuery({
    queryKey: ["checks", runId, increment],
    queryFn: async () =>
      unwrap<HandCheck[]>(
        await api.GET("/api/runs/{run_id}/checks", {
          params: { path: { run_id: runId ?? 0 }, query: { increment: increment ?? 0 } },
        }),
      ),
    enabled: runId !== undefined && increment !== undefined,
    staleTime: Infinity,
    placeholderData: (before, query) => (query?.queryKey[1] === runId ? before : undefined),
  });

/** Those of what is shown: a pair, with the joint that it is a piece of and its bolts, or a part, with those of its bolts. */
export function checksOf(study: StudyDocument, checks: HandCheck[], shown: Shown): HandCheck[] {
  const bolts = new Set(
    (study.bolts ?? []).filter((b) => shown.kind === "part" && b.part === shown.part).map((b) => b.id),
  );
  const joints = (study.joints ?? []).filter(
    (j) =>
      (shown.kind === "pair" && shown.pair in (j.pieces?.pairs ?? {})) ||
      Object.keys(j.pieces?.bolts ?? {}).some((b) => bolts.has(b)),
  );
  for (const joint of joints) Object.keys(joint.pieces?.bolts ?? {}).forEach((b) => bolts.add(b));
  const own = {
    pair: new Set(shown.kind === "pair" ? [shown.pair] : []),
    joint: new Set(joints.map((j) => j.id)),
    bolt: bolts,
    part: new Set(shown.kind === "part" && shown.part !== undefined ? [shown.part] : []),
  };
  return checks.filter((c) => own[c.kind].has(c.id));
}

const said = (value: number, { quantity }: Checked) => (quantity === "share" ? figure(value) : say(value, quantity));

/** How what is computed stands to what is reckoned: "−8 %", or of a limit "57 % of it". */
export function standing({ difference, sense }: Checked): string {
  if (difference == null) return "";
  if (sense === "below") return `${percent(difference)} of it`;
  const off = Math.round(difference * 1000) / 10;
  return `${off > 0 ? "+" : off < 0 ? "−" : "±"}${figure(Math.abs(off), 2)} %`;
}

/** Whether what is computed is what is reckoned, or below a limit. */
export const agrees = ({ difference, sense }: Checked) =>
  difference != null && (sense === "below" ? difference <= 1 : Math.abs(difference) <= AGREES);

/** What can be reckoned by hand of what is shown, beside what was computed, with what it rests on. */
export function HandChecks({ checks }: { checks: HandCheck[] }) {
  return (
    <>
      {checks.map((check) => (
        <Section key={`${check.kind} ${check.id} ${check.title}`} title={`By hand · ${check.title}`}>
          <table className="w-full text-[13px]" data-testid="hand-check">
            <thead className="text-left text-[12px] text-quiet">
              <tr>
                <th className="font-normal">what</th>
                <th className="pl-2 text-right font-normal">by hand</th>
                <th className="pl-2 text-right font-normal">computed</th>
              </tr>
            </thead>
            <tbody>
              {check.values.map((v) => (
                <tr key={v.name} className="align-top" title={v.source}>
                  <td>{inChosenUnits(v.name)}</td>
                  <td className="pl-2 text-right whitespace-nowrap tabular-nums">{said(v.hand, v)}</td>
                  <td className="pl-2 text-right whitespace-nowrap tabular-nums">
                    {v.computed == null ? "–" : said(v.computed, v)}
                    {v.difference != null && (
                      <span className={`block text-[12px] ${tone(check, v)}`}>{standing(v)}</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <ul className="pt-1 text-[12.5px]">
            {check.conditions.map((c) => (
              <li key={c.text} className={c.met === false ? "text-copper" : "text-quiet"}>
                <span aria-hidden>{c.met === false ? "✗" : c.met ? "✓" : "?"}</span> {inChosenUnits(c.text)}
                <span className="sr-only">{c.met === false ? ": not met" : c.met ? ": met" : ": cannot be told"}</span>
              </li>
            ))}
          </ul>
        </Section>
      ))}
    </>
  );
}

/** What does not hold neither agrees nor differs: it is no check then. */
const tone = (check: HandCheck, v: Checked) =>
  !check.holds ? "text-quiet" : agrees(v) ? "text-verdigris" : "text-copper";
