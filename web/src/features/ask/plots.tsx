import type { InputInfo, SampleRow, Sure } from "@/api/client";
import { COLOURS } from "@/ui/colours";
import { figure } from "@/ui/format";

const COLOUR: Record<SampleRow["grade"], string> = {
  good: COLOURS.verdigris,
  watch: COLOURS.verdigris,
  bad: COLOURS.copper,
  unsure: COLOURS.stone,
  none: COLOURS.faint,
};
/** What a grade means for a verdict, and how a sample of it is drawn. */
export const MEANS: Record<SampleRow["grade"], string> = {
  good: "holds",
  watch: "holds",
  bad: "fails",
  unsure: "cannot be told",
  none: "nothing to judge",
};

type Axis = { label: string; ends: [number, number]; of: (row: SampleRow) => number | null };

/** Values with a little room about them. */
function about(values: number[]): [number, number] {
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const room = (high - low || Math.abs(high) || 1) * 0.06;
  return [low - room, high + room];
}

/** The axis of an input, or of the measure itself. */
export function axisOf(key: string, inputs: InputInfo[], rows: SampleRow[], sure: Sure): Axis {
  const at = inputs.findIndex((i) => i.id === key);
  const of = at < 0 ? (row: SampleRow) => row.value : (row: SampleRow) => row.numbers[at] ?? null;
  const values = rows.map(of).filter((v): v is number => v !== null);
  const input = inputs[at];
  const label = input ? `${input.name}${input.unit && `, ${input.unit}`}` : `${sure.column}, ${sure.unit}`;
  return { label, ends: values.length ? about(values) : [0, 1], of };
}

type MapProps = {
  rows: SampleRow[];
  x: Axis;
  y: Axis;
  chosen: number | undefined;
  onChoose: (sample: number) => void;
  /** Where the verdict turns, on either axis. */
  turns: { x?: number | undefined; y?: number | undefined };
};

const SIZE = { width: 600, height: 330, left: 62, right: 12, top: 10, bottom: 40 };

/** Samples as dots over two inputs: those that hold, fail, or cannot be told. */
export function SampleMap({ rows, x, y, chosen, onChoose, turns }: MapProps) {
  const px = (v: number) =>
    SIZE.left + ((v - x.ends[0]) / (x.ends[1] - x.ends[0])) * (SIZE.width - SIZE.left - SIZE.right);
  const py = (v: number) =>
    SIZE.height - SIZE.bottom - ((v - y.ends[0]) / (y.ends[1] - y.ends[0])) * (SIZE.height - SIZE.top - SIZE.bottom);
  const shares = [0.1, 0.3, 0.5, 0.7, 0.9];
  const at = (axis: Axis, share: number) => axis.ends[0] + share * (axis.ends[1] - axis.ends[0]);
  return (
    <svg viewBox={`0 0 ${SIZE.width} ${SIZE.height}`} className="h-full w-full" role="group" aria-label="Samples">
      {shares.map((share) => (
        <g key={share} fontSize="12" fill={COLOURS.quiet}>
          <line
            x1={SIZE.left}
            x2={SIZE.width - SIZE.right}
            y1={py(at(y, share))}
            y2={py(at(y, share))}
            stroke={COLOURS.grid}
          />
          <text x={SIZE.left - 6} y={py(at(y, share)) + 4} textAnchor="end">
            {figure(at(y, share))}
          </text>
          <text x={px(at(x, share))} y={SIZE.height - SIZE.bottom + 16} textAnchor="middle">
            {figure(at(x, share))}
          </text>
        </g>
      ))}
      <text x={SIZE.width - SIZE.right} y={SIZE.height - 6} textAnchor="end" fontSize="12.5" fill={COLOURS.ink}>
        {x.label}
      </text>
      <text transform={`translate(13 ${SIZE.top}) rotate(-90)`} textAnchor="end" fontSize="12.5" fill={COLOURS.ink}>
        {y.label}
      </text>
      {turns.x !== undefined && (
        <line x1={px(turns.x)} x2={px(turns.x)} y1={SIZE.top} y2={SIZE.height - SIZE.bottom} stroke={COLOURS.ink} />
      )}
      {turns.y !== undefined && (
        <line x1={SIZE.left} x2={SIZE.width - SIZE.right} y1={py(turns.y)} y2={py(turns.y)} stroke={COLOURS.ink} />
      )}
      {rows.map((row) => {
        const [u, v] = [x.of(row), y.of(row)];
        if (u === null || v === null) return null;
        const [cx, cy] = [px(u), py(v)];
        return (
          <g
            key={row.number}
            role="button"
            tabIndex={-1}
            aria-label={`Sample ${row.number}, ${MEANS[row.grade]}`}
            onClick={() => onChoose(row.number)}
            className="cursor-pointer"
            stroke={COLOUR[row.grade]}
          >
            <circle cx={cx} cy={cy} r="9" fill="transparent" stroke={row.number === chosen ? COLOURS.ink : "none"} />
            {row.grade === "bad" ? (
              <path d={`M${cx - 4} ${cy - 4} l8 8 m0 -8 l-8 8`} strokeWidth="2" />
            ) : (
              <circle cx={cx} cy={cy} r="4" fill={row.grade === "unsure" ? "none" : COLOUR[row.grade]} />
            )}
          </g>
        );
      })}
    </svg>
  );
}

type FanProps = { rows: SampleRow[]; steps: string[]; sure: Sure; chosen: number | undefined };

/** The measure of every sample from step to step. */
export function Fan({ rows, steps, sure, chosen }: FanProps) {
  const [width, height] = [400, 150];
  const top = Math.max(...rows.flatMap((r) => r.course.map((v) => v ?? 0)), 1e-30);
  const px = (k: number) => 12 + (k / steps.length) * (width - 24);
  const py = (v: number | null) => height - 24 - ((v ?? 0) / top) * (height - 40);
  return (
    <figure className="min-w-0" aria-label={`${sure.name}, from step to step`}>
      <figcaption className="text-[12px] font-semibold tracking-wide text-quiet">
        {sure.name}, {sure.column}, from step to step ({sure.unit})
      </figcaption>
      <svg viewBox={`0 0 ${width} ${height}`} className="w-full">
        <text x="12" y="12" fontSize="11.5" fill={COLOURS.quiet}>
          {figure(top)}
        </text>
        {rows.map((row) => (
          <polyline
            key={row.number}
            points={[null, ...row.course].map((v, k) => `${px(k)},${py(v)}`).join(" ")}
            fill="none"
            stroke={row.number === chosen ? COLOURS.ink : COLOUR[row.grade]}
            strokeWidth={row.number === chosen ? 1.8 : 0.8}
            opacity={row.number === chosen ? 1 : 0.5}
          />
        ))}
        {steps.map((name, k) => (
          <text key={k} x={px(k + 1)} y={height - 8} textAnchor="end" fontSize="11.5" fill={COLOURS.quiet}>
            {name}
          </text>
        ))}
      </svg>
    </figure>
  );
}

/** How often the measure comes to what. */
export function Histogram({ rows, sure }: { rows: SampleRow[]; sure: Sure }) {
  const [width, height, bins] = [400, 150, 14];
  const values = rows.filter((r): r is SampleRow & { value: number } => r.value !== null);
  const [low, high] = [sure.least, sure.most > sure.least ? sure.most : sure.least + 1];
  const counts = Array.from({ length: bins }, () => ({ holds: 0, fails: 0, other: 0 }));
  for (const row of values) {
    const bin = counts[Math.min(bins - 1, Math.floor(((row.value - low) / (high - low)) * bins))];
    if (bin) bin[row.grade === "bad" ? "fails" : row.grade === "unsure" ? "other" : "holds"] += 1;
  }
  const most = Math.max(...counts.map((c) => c.holds + c.fails + c.other), 1);
  const unit = (height - 34) / most;
  return (
    <figure className="min-w-0" aria-label={`${sure.name}, how often`}>
      <figcaption className="text-[12px] font-semibold tracking-wide text-quiet">
        {sure.name}, {sure.column}: how often ({sure.unit})
      </figcaption>
      <svg viewBox={`0 0 ${width} ${height}`} className="w-full">
        {counts.map(({ holds, fails, other }, k) => {
          const [x, w, base] = [10 + (k * (width - 20)) / bins, (width - 20) / bins - 2, height - 22];
          return (
            <g key={k}>
              <rect x={x} y={base - holds * unit} width={w} height={holds * unit} fill={COLOURS.verdigrisMid} />
              <rect x={x} y={base - (holds + fails) * unit} width={w} height={fails * unit} fill={COLOURS.copperMid} />
              <rect
                x={x}
                y={base - (holds + fails + other) * unit}
                width={w}
                height={other * unit}
                fill={COLOURS.stone}
              />
            </g>
          );
        })}
        <g fontSize="11.5" fill={COLOURS.quiet}>
          <text x="10" y={height - 6}>
            {figure(low)}
          </text>
          <text x={width - 10} y={height - 6} textAnchor="end">
            {figure(high)}
          </text>
        </g>
      </svg>
    </figure>
  );
}

/** What each input does to the measure between its ends. */
export function Tornado({ sure }: { sure: Sure }) {
  const effects = sure.effects.slice(0, 8);
  const reach = Math.max(...effects.flatMap((e) => [Math.abs(e.low), Math.abs(e.high)]), 1e-30);
  const px = (v: number) => 65 + (v / reach) * 60;
  return (
    <ul className="space-y-1.5" aria-label="What matters">
      {effects.map((e) => {
        const [a, b] = [px(e.low), px(e.high)];
        return (
          <li key={e.input} title={`${figure(e.low)} to ${figure(e.high)} ${sure.unit}`}>
            <div className="text-[13px] leading-4 break-words">{e.name}</div>
            <div className="flex items-center gap-2">
              <svg width="130" height="12" aria-hidden className="shrink-0">
                <rect x={Math.min(65, a)} y="1" width={Math.abs(a - 65)} height="5" fill={COLOURS.copperMid} />
                <rect x={Math.min(65, b)} y="6" width={Math.abs(b - 65)} height="5" fill={COLOURS.verdigrisMid} />
                <line x1="65" x2="65" y1="0" y2="12" stroke={COLOURS.ink} />
              </svg>
              <span className="text-[12.5px] whitespace-nowrap tabular-nums">
                {signed(e.low)} … {signed(e.high)}
              </span>
            </div>
          </li>
        );
      })}
    </ul>
  );
}

const signed = (v: number) => `${v > 0 ? "+" : v < 0 ? "−" : ""}${figure(Math.abs(v))}`;
