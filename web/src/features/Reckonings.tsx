import type { Reckoning } from "@/api/client";
import { inChosenUnits, say } from "@/api/units";
import { figure, percent } from "@/ui/format";
import { Section } from "@/ui/Section";

type Checked = Reckoning["values"][number];
/** Values nearer than this share of the one by hand are the same. */
const AGREES = 0.1;

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

type Props = {
  checks: (Reckoning & { kind?: string; id?: string })[];
  /** What stands beside the values by hand. */
  beside?: string;
};

/** What can be reckoned by hand, beside what was computed or is given, with what it rests on. */
export function Reckonings({ checks, beside = "computed" }: Props) {
  return (
    <>
      {checks.map((check) => {
        const isOfRun = beside === "computed";
        const hasBeside = isOfRun || check.values.some((v) => v.computed != null);
        return (
          <Section
            key={`${check.kind ?? ""} ${check.id ?? ""} ${check.title}`}
            title={isOfRun ? `By hand · ${check.title}` : check.title}
          >
            <table className="w-full text-[13px]" data-testid="hand-check">
              <thead className="text-left text-[12px] text-quiet">
                <tr>
                  <th className="font-normal">what</th>
                  <th className="pl-2 text-right font-normal">by hand</th>
                  {hasBeside && <th className="pl-2 text-right font-normal">{beside}</th>}
                </tr>
              </thead>
              <tbody>
                {check.values.map((v) => (
                  <tr key={v.name} className="align-top" title={v.source}>
                    <td>{inChosenUnits(v.name)}</td>
                    <td className="pl-2 text-right whitespace-nowrap tabular-nums">{said(v.hand, v)}</td>
                    {hasBeside && (
                      <td className="pl-2 text-right whitespace-nowrap tabular-nums">
                        {v.computed != null ? said(v.computed, v) : isOfRun && "–"}
                        {v.difference != null && (
                          <span className={`block text-[12px] ${tone(check, v)}`}>{standing(v)}</span>
                        )}
                      </td>
                    )}
                  </tr>
                ))}
              </tbody>
            </table>
            <ul className="pt-1 text-[12.5px]">
              {check.conditions.map((c) => (
                <li key={c.text} className={c.met === false ? "text-copper" : "text-quiet"}>
                  <span aria-hidden>{c.met === false ? "✗" : c.met ? "✓" : "?"}</span> {inChosenUnits(c.text)}
                  <span className="sr-only">
                    {c.met === false ? ": not met" : c.met ? ": met" : ": cannot be told"}
                  </span>
                </li>
              ))}
            </ul>
          </Section>
        );
      })}
    </>
  );
}

/** What does not hold neither agrees nor differs: it is no check then. */
const tone = (check: Reckoning, v: Checked) =>
  !check.holds ? "text-quiet" : agrees(v) ? "text-verdigris" : "text-copper";
