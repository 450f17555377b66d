import { useEffect, useMemo, useRef, useState } from "react";

import type { PatchStep, Preflight, StudyInfo } from "@/api/client";
import { isSelected, useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { percent } from "@/ui/format";
import { tell } from "@/ui/notices";
import { useFilter } from "@/ui/useFilter";

import { type EditFn, number } from "./edits";
import { LAWS } from "./jointGraph";
import { FITS, type PairChange, type PairRow, changed, likeness, pairRows, swapped } from "./pairRows";

type Props = {
  info: StudyInfo;
  preflight: Preflight | undefined;
  onEdit: EditFn;
  onFind: () => void;
  onClose: () => void;
};

type Column = {
  key: string;
  title: string;
  width: string;
  text: (row: PairRow) => string;
  order?: (row: PairRow) => number;
};

const mu = ({ pair }: PairRow) => (pair.law.may_slide === "friction" ? pair.law.mu : -1);

const COLUMNS: Column[] = [
  { key: "name", title: "Pair", width: "minmax(120px,1.4fr)", text: (r) => r.pair.name },
  { key: "parts", title: "Parts", width: "minmax(110px,1.3fr)", text: (r) => r.parts },
  { key: "joint", title: "Joint", width: "minmax(70px,0.8fr)", text: (r) => r.joint },
  { key: "property", title: "Property", width: "minmax(60px,0.7fr)", text: (r) => r.property },
  { key: "law", title: "Law", width: "62px", text: (r) => r.law, order: mu },
  { key: "start", title: "Starts", width: "104px", text: (r) => r.start, order: (r) => r.gap },
  {
    key: "cover",
    title: "A covered",
    width: "88px",
    text: (r) => (r.cover === undefined ? "" : `${percent(r.cover)}${r.shouldSwap ? " swap" : ""}`),
    order: (r) => r.cover ?? -1,
  },
  {
    key: "fit",
    title: "Fit",
    width: "112px",
    text: ({ pair }) => (pair.fit === "value" ? pair.interference : (FITS[pair.fit] ?? pair.fit)),
  },
  {
    key: "search",
    title: "Search",
    width: "72px",
    text: (r) => r.pair.search,
    order: (r) => parseFloat(r.pair.search),
  },
  { key: "method", title: "Enforced", width: "76px", text: (r) => r.pair.enforcement.method },
  { key: "released", title: "Not in", width: "minmax(60px,0.7fr)", text: (r) => r.released },
  { key: "state", title: "State", width: "58px", text: (r) => (r.isAsleep ? "asleep" : "") },
];
const GRID = `28px ${COLUMNS.map((c) => c.width).join(" ")}`;
/** Height of a row (px), and rows that are drawn beyond what is seen: of 200 pairs only these are in the page. */
const ROW = 25;
const BEYOND = 6;

/** All pairs at a glance: sorted, filtered, several marked and set at once; selecting one selects it everywhere. */
export function PairTable({ info, preflight, onEdit, onFind, onClose }: Props) {
  const { selected, select } = useSelection();
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const [sorting, setSorting] = useState<{ key: string; isDown: boolean }>();
  const [view, setView] = useState({ top: 0, height: 200 });
  const last = useRef<string>(undefined);
  const body = useRef<HTMLDivElement>(null);
  const all = useMemo(() => pairRows(info, preflight), [info, preflight]);
  const [left, filter] = useFilter(all, (r) => COLUMNS.map((c) => c.text(r)).join(" "), "Find among the pairs");
  const rows = useMemo(() => sorted(left, sorting), [left, sorting]);
  const chosen = rows.filter((r) => marked.has(r.pair.id));
  useEffect(() => {
    const sheet = body.current;
    if (!sheet) return;
    // The panel is dragged higher and lower.
    const watch = new ResizeObserver(() => setView((v) => ({ ...v, height: sheet.clientHeight || v.height })));
    watch.observe(sheet);
    return () => watch.disconnect();
  }, []);

  const mark = (row: PairRow, isRange: boolean) => {
    const next = new Set(marked);
    const from = rows.findIndex((r) => r.pair.id === last.current);
    const to = rows.indexOf(row);
    if (isRange && from >= 0)
      rows.slice(Math.min(from, to), Math.max(from, to) + 1).forEach((r) => next.add(r.pair.id));
    else if (!next.delete(row.pair.id)) next.add(row.pair.id);
    last.current = row.pair.id;
    setMarked(next);
  };
  const counted = chosen.length === 1 ? (chosen[0]?.pair.name ?? "") : `${chosen.length} pairs`;
  const edit = (patch: PatchStep[], what: string) => onEdit(patch, `${what} of ${counted}`);
  const from = Math.max(0, Math.floor(view.top / ROW) - BEYOND);
  const shown = rows.slice(from, Math.ceil((view.top + view.height) / ROW) + BEYOND);

  return (
    <section aria-label="All pairs" className="flex h-full flex-col bg-paper px-3 pb-1 text-[13px]">
      <header className="flex items-center gap-3 py-1">
        <h2 className="text-[12px] font-semibold tracking-wide whitespace-nowrap text-quiet">
          {all.length} {all.length === 1 ? "pair" : "pairs"}
        </h2>
        <div className="w-36">{filter}</div>
        {chosen.length > 0 ? (
          <Together rows={chosen} counted={counted} contacts={info.document.contacts ?? []} onEdit={edit} />
        ) : (
          <p className="text-quiet">Mark pairs, with shift a range, to set them together.</p>
        )}
        <span className="ml-auto flex gap-2 whitespace-nowrap">
          <button type="button" className="text-verdigris hover:underline" onClick={onFind}>
            Find more
          </button>
          <button type="button" className="text-verdigris hover:underline" onClick={onClose}>
            Back to the sequence
          </button>
        </span>
      </header>
      <div
        ref={body}
        className="min-h-0 flex-1 overflow-auto"
        onScroll={(e) => setView({ top: e.currentTarget.scrollTop, height: e.currentTarget.clientHeight })}
      >
        <div role="table" aria-label="Pairs" aria-rowcount={rows.length + 1} className="min-w-[1080px]">
          <div
            role="row"
            className="sticky top-0 z-10 grid gap-x-2 border-b border-line bg-paper"
            style={{ gridTemplateColumns: GRID }}
          >
            <span role="columnheader">
              <input
                type="checkbox"
                aria-label="Mark all that are shown"
                checked={rows.length > 0 && chosen.length === rows.length}
                onChange={(e) => setMarked(new Set(e.target.checked ? rows.map((r) => r.pair.id) : []))}
              />
            </span>
            {COLUMNS.map((c) => (
              <button
                key={c.key}
                type="button"
                role="columnheader"
                aria-sort={sorting?.key === c.key ? (sorting.isDown ? "descending" : "ascending") : "none"}
                className="truncate text-left text-[12px] text-quiet hover:text-ink"
                onClick={() => setSorting({ key: c.key, isDown: sorting?.key === c.key && !sorting.isDown })}
              >
                {c.title}
                {sorting?.key === c.key && (sorting.isDown ? " ▾" : " ▴")}
              </button>
            ))}
          </div>
          <div role="rowgroup" className="relative" style={{ height: rows.length * ROW }}>
            {shown.map((row, i) => (
              <div
                key={row.pair.id}
                role="row"
                aria-rowindex={from + i + 2}
                data-pair-row={row.pair.id}
                className={`absolute right-0 left-0 grid cursor-pointer items-center gap-x-2 ${isSelected(selected, "pair", row.pair.id) ? "bg-verdigris-pale" : "hover:bg-panel"} ${row.isAsleep ? "text-quiet" : ""}`}
                style={{ gridTemplateColumns: GRID, top: (from + i) * ROW, height: ROW }}
                onClick={() => select({ kind: "pair", id: row.pair.id })}
              >
                <span role="cell">
                  <input
                    type="checkbox"
                    aria-label={`Mark ${row.pair.name}`}
                    checked={marked.has(row.pair.id)}
                    onClick={(e) => {
                      e.stopPropagation();
                      mark(row, e.shiftKey);
                    }}
                    readOnly
                  />
                </span>
                {COLUMNS.map((c) => (
                  <span key={c.key} role="cell" className="truncate" title={c.text(row)}>
                    {c.key === "name" ? <button type="button">{c.text(row)}</button> : c.text(row)}
                  </span>
                ))}
              </div>
            ))}
          </div>
        </div>
      </div>
    </section>
  );
}

/** Numbers by size where a column has some, else by their texts. */
function sorted(rows: PairRow[], sorting: { key: string; isDown: boolean } | undefined): PairRow[] {
  const column = COLUMNS.find((c) => c.key === sorting?.key);
  if (!column) return rows;
  const { order, text } = column;
  const compare = order
    ? (a: PairRow, b: PairRow) => order(a) - order(b)
    : (a: PairRow, b: PairRow) => text(a).localeCompare(text(b), undefined, { numeric: true });
  return [...rows].sort((a, b) => (sorting?.isDown ? compare(b, a) : compare(a, b)));
}

/** Sets entries of all pairs that are marked, each as one edit. */
function Together({
  rows,
  counted,
  contacts,
  onEdit,
}: {
  rows: PairRow[];
  counted: string;
  contacts: { id: string; name: string }[];
  onEdit: (patch: PatchStep[], what: string) => Promise<unknown>;
}) {
  const set = (change: PairChange, what: string) => onEdit(changed(rows, change), what);
  const [first, ...others] = rows;
  const common = (textOf: (row: PairRow) => string) =>
    rows.every((r) => first && textOf(r) === textOf(first)) && first ? textOf(first) : "";
  const list = (label: string, options: [string, string][], onChoose: (value: string) => void) => (
    <select
      aria-label={label}
      value="-"
      className="rounded border border-line bg-white px-1 py-0.5"
      onChange={(e) => onChoose(e.target.value)}
    >
      <option value="-" disabled>
        {label}
      </option>
      {options.map(([value, text]) => (
        <option key={value} value={value}>
          {text}
        </option>
      ))}
    </select>
  );
  return (
    <div role="group" aria-label="Set together" className="flex items-center gap-2 whitespace-nowrap">
      <b className="max-w-32 truncate">{counted}</b>
      {list(
        "Law",
        Object.keys(LAWS).map((name) => [name, name]),
        (name) => tell(set({ law: LAWS[name]! }, "Law")),
      )}
      <Field
        label="µ"
        value={common((r) => String(r.pair.law.mu))}
        onCommit={(text) => set({ law: { ...LAWS.friction, mu: number(text) as number } }, "µ")}
      />
      {contacts.length > 0 &&
        list("Property", [["", "their own"], ...contacts.map((c): [string, string] => [c.id, c.name])], (id) =>
          tell(set({ contact: id || null }, "Property")),
        )}
      {list("Fit", Object.entries(FITS), (fit) => tell(set({ fit: fit as NonNullable<PairChange["fit"]> }, "Fit")))}
      <Field
        label="Search"
        value={common((r) => r.pair.search)}
        onCommit={(text) => set({ search: text }, "Search distance")}
      />
      {list(
        "Method",
        ["exact", "augmented", "penalty"].map((m) => [m, m]),
        (method) => tell(set({ enforcement: { method: method as "exact" } }, "Enforcement")),
      )}
      <Button
        className="px-1.5 py-0"
        disabled={!others.length}
        onClick={() => first && tell(onEdit(changed(others, likeness(first)), `As ${first.pair.name}: law, fit`))}
      >
        Fill from the first
      </Button>
      <Button className="px-1.5 py-0" onClick={() => tell(onEdit(swapped(rows), "Sides"))}>
        Swap sides
      </Button>
    </div>
  );
}
