import type { HandCheck, Ledger, LedgerCell, LedgerRow, PatchStep, Settled, SettledMeasure } from "@/api/client";
import { inChosenUnits, say, standsFor } from "@/api/units";
import type { EditFn } from "@/features/bench/edits";
import { agrees, standing } from "@/features/Reckonings";
import { figure } from "@/ui/format";
import { tell } from "@/ui/notices";
import { useFilter } from "@/ui/useFilter";

import type { Shown } from "./fields";
import { MeshCourse, courseText } from "./MeshCourse";
import { Sparkline } from "./Sparkline";
import { COLOURS } from "@/ui/colours";

const COLUMNS = ["pressure", "penetration", "sliding", "yielding"] as const;
type Column = (typeof COLUMNS)[number];
const TITLES: Record<Column, string> = {
  pressure: "Pressure",
  penetration: "Penetr.",
  sliding: "Sliding",
  yielding: "Yield",
};
const MARK = { good: "✓", watch: "▲", bad: "■", unsure: "?", none: "" } as const;
const TONE = {
  good: "text-verdigris",
  watch: "text-copper",
  bad: "text-vermilion",
  unsure: "font-semibold text-ink",
  none: "text-quiet",
} as const;
/** Bands narrower than this share of their value go without saying. */
const NARROW = 0.02;
/** What is smaller is nothing, in any unit of the ledger. */
const ROUNDING = 1e-6;

type Props = {
  ledger: Ledger;
  settled?: Settled | null;
  checks?: HandCheck[] | undefined;
  shown: Shown;
  onShow: (next: Shown) => void;
  /** What another run came to at the same place, told beside what is other. */
  before?: Ledger | undefined;
  /** How that is called: what was, or what stands beside. */
  beforeWord?: string;
  /** Edit the study as it stands, for what a remark offers. */
  onMend?: EditFn;
};

/** The ledger: pairs and parts against pressure, penetration, sliding and yield, each with verdict and trend. */
export function LedgerPanel({ ledger, settled, checks, shown, onShow, before, beforeWord = "was", onMend }: Props) {
  const [rows, filter] = useFilter(ledger.rows, (row) => row.name, "Find in the ledger");
  return (
    <div className="px-3 pb-3" data-testid="ledger">
      <div className="sticky top-0 z-10 grid grid-cols-4 gap-1 border-b border-line bg-panel pt-1 text-[12px] text-quiet">
        {COLUMNS.map((c) => (
          <span key={c} className="px-1 pb-1">
            {TITLES[c]}
          </span>
        ))}
      </div>
      {(ledger.remarks ?? []).map((remark) => (
        <p
          key={remark.text}
          className={`mt-2 border-l-[3px] bg-paper px-3 py-1.5 ${remark.grade === "bad" ? "border-vermilion" : "border-copper"}`}
        >
          {inChosenUnits(remark.text)}
          {onMend &&
            (remark.remedies ?? []).map((remedy) => (
              <button
                key={remedy.does}
                type="button"
                className="mt-0.5 block text-left text-verdigris underline"
                onClick={() => tell(onMend(remedy.edit as unknown as PatchStep[], remedy.does))}
              >
                {remedy.does}
              </button>
            ))}
        </p>
      ))}
      {filter && <div className="pt-1.5">{filter}</div>}
      {rows.map((row, i) => (
        <section key={row.id} data-row={row.id} className="border-b border-line py-1.5">
          {row.joint !== rows[i - 1]?.joint && (row.joint ?? i > 0) && (
            <p className="mb-1 rounded bg-paper px-1 text-[12px] font-semibold tracking-wide text-verdigris">
              {row.joint ?? "In no joint"}
            </p>
          )}
          <h3 className="px-1 font-semibold">{row.name}</h3>
          <div className="grid grid-cols-4 gap-1">
            {COLUMNS.map((column) => {
              const cell = row[column];
              const next = showing(row, column);
              return cell ? (
                <CellButton
                  key={column}
                  row={row}
                  column={column}
                  cell={cell}
                  wasWord={beforeWord}
                  was={before?.rows.find((r) => r.id === row.id)?.[column]}
                  course={settled?.measures?.find((m) => m.row === row.id && m.column === column)}
                  on={next !== undefined && same(next, shown)}
                  onClick={next && (() => onShow(next))}
                />
              ) : (
                <span key={column} className="px-1 text-quiet">
                  –
                </span>
              );
            })}
          </div>
          <ByHand checks={(checks ?? []).filter((c) => isOfRow(c, row))} />
          {row.shares && (
            <Shares shares={row.shares} onClick={() => onShow({ kind: "pair", pair: row.id, field: "status" })} />
          )}
        </section>
      ))}
    </div>
  );
}

/** Whether a hand check is of what a row is of. */
const isOfRow = (check: HandCheck, row: LedgerRow) =>
  check.kind === "bolt" ? `bolts:${check.id}` === row.id : check.kind === row.kind && check.id === row.id;

function showing(row: LedgerRow, column: Column): Shown | undefined {
  if (row.kind === "pair") {
    if (column === "yielding") return { kind: "part", part: undefined, field: "von_mises" };
    return { kind: "pair", pair: row.id, field: column };
  }
  const part = row.kind === "part" ? row.id : row.part;
  return part == null ? undefined : { kind: "part", part, field: "von_mises" };
}

const same = (a: Shown, b: Shown) => JSON.stringify(a) === JSON.stringify(b);

function CellButton({
  row,
  column,
  cell,
  was,
  wasWord,
  course,
  on,
  onClick,
}: {
  row: LedgerRow;
  column: Column;
  cell: LedgerCell;
  was: LedgerCell | null | undefined;
  wasWord: string;
  course: SettledMeasure | undefined;
  on: boolean;
  onClick: (() => void) | undefined;
}) {
  const { unit, factor } = standsFor(cell.unit);
  const value = cell.value == null ? undefined : cell.value * factor;
  const verdict = inChosenUnits(cell.verdict);
  const band = bandText(cell, factor);
  return (
    <button
      type="button"
      disabled={!onClick}
      onClick={onClick}
      title={course ? `${verdict} ${courseText(course)}` : verdict}
      aria-pressed={on}
      data-grade={cell.grade}
      className={`rounded px-1 py-0.5 text-left ${on ? "bg-verdigris-pale outline outline-2 outline-verdigris" : "enabled:hover:bg-paper"}`}
    >
      <span className="sr-only">
        {`${row.name}, ${TITLES[column]}: ${value === undefined ? "none" : figure(value)} ${unit}${band && `, ${band}`}. ${verdict}`}
      </span>
      <span aria-hidden className="flex items-baseline gap-1 whitespace-nowrap">
        <b>{value === undefined ? "–" : figure(value < ROUNDING ? 0 : value)}</b>
        <span className="text-[11.5px] text-quiet">
          {unit.replace("of yield", "×Y").replace("of allowed", "×A").replace("of proof", "×P")}
        </span>
      </span>
      {was?.value != null && isOther(was.value, cell.value) && (
        <span className="block text-[11.5px] leading-3.5 whitespace-nowrap text-copper" data-testid="was">
          {wasWord} {figure(was.value * factor)}
          {was.grade !== cell.grade && ` ${MARK[was.grade]}`}
        </span>
      )}
      {band && (
        <span aria-hidden className="block text-[11.5px] leading-3.5 whitespace-nowrap text-quiet">
          {band}
        </span>
      )}
      <span aria-hidden className="flex items-center justify-between">
        {course ? <MeshCourse measure={course} /> : <Sparkline values={cell.trend} grade={cell.grade} />}
        <span className={`text-[12px] ${TONE[cell.grade]}`}>{MARK[cell.grade]}</span>
      </span>
    </button>
  );
}

/** Whether a value is another one by more than rounding. */
const isOther = (was: number, now: number | null) =>
  now === null || Math.abs(now - was) > Math.max(1e-4 * Math.abs(was), ROUNDING);

/** What is reckoned by hand of a row, in a line: where the conditions hold, and where they do not. */
function ByHand({ checks }: { checks: HandCheck[] }) {
  return (
    <>
      {checks.flatMap((check) =>
        check.values
          .filter((v) => v.difference != null)
          .slice(0, 1)
          .map((v) => (
            <p key={check.title} className="px-1 text-[12px] text-quiet" title={check.title}>
              By hand: {inChosenUnits(v.name).replace(/^\w/, (c) => c.toLowerCase())}{" "}
              {v.quantity === "share" ? figure(v.hand) : say(v.hand, v.quantity)},{" "}
              <span className={!check.holds ? "" : agrees(v) ? "text-verdigris" : "text-copper"}>{standing(v)}</span>
              {!check.holds && ", but not all it rests on is met"}
            </p>
          )),
      )}
    </>
  );
}

/** Between what a value lies on this mesh, where that is worth saying. */
function bandText({ value, band }: LedgerCell, factor: number): string {
  if (!band || value == null || value < ROUNDING) return "";
  const [low, high] = band;
  if (high === null) return low ? `≥ ${figure(low * factor)}` : "";
  if (low == null || high - low <= NARROW * value) return "";
  return `${figure(low * factor)}–${figure(high * factor)}`;
}

/** Open, sliding and sticking shares as one bar with our patterns. */
function Shares({
  shares: [open, sliding, sticking],
  onClick,
}: {
  shares: [number, number, number];
  onClick: () => void;
}) {
  const text = `${Math.round(open * 100)} % open, ${Math.round(sliding * 100)} % sliding, ${Math.round(sticking * 100)} % sticking`;
  const hatch = `repeating-linear-gradient(135deg, ${COLOURS.verdigris} 0 2px, ${COLOURS.verdigrisPale} 2px 5px)`;
  return (
    <button
      type="button"
      onClick={onClick}
      title={`${text}. Click to see where.`}
      aria-label={text}
      className="mx-1 mt-1 flex h-2.5 w-[calc(100%-8px)] overflow-hidden rounded-sm border border-line bg-paper"
    >
      <span style={{ width: `${sticking * 100}%` }} className="bg-verdigris" />
      <span style={{ width: `${sliding * 100}%`, background: hatch }} />
    </button>
  );
}
