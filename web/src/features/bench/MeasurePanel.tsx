import type { Measured } from "@/api/client";
import { length, standsFor } from "@/api/units";
import { useSelection } from "@/features/selection";
import type { StageLabel } from "@/scene/Stage";
import { figure } from "@/ui/format";
import { Row } from "@/ui/Section";

type Props = { found: Measured | undefined; isPending: boolean; problem: Error | null };

/** Figures of one picked face, or between two, on exact geometry. */
export function MeasurePanel({ found, isPending, problem }: Props) {
  const { measured, measure } = useSelection();
  if (!measured) return null;
  return (
    <section
      aria-label="Measure"
      className="absolute top-9 left-4 z-10 w-[270px] rounded-md border border-line bg-paper px-3 py-2 shadow-lg"
    >
      <header className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold tracking-wide text-quiet">Measure</h2>
        <button
          type="button"
          aria-label="Stop measuring"
          className="text-quiet hover:text-ink"
          onClick={() => measure(undefined)}
        >
          ×
        </button>
      </header>
      {measured.length < 2 && (
        <p className="text-quiet">
          {measured.length ? "Pick a second face to measure between." : "Pick a face, or two."}
        </p>
      )}
      {measured.map((face) => (
        <p key={face} className="truncate font-semibold">
          {face}
        </p>
      ))}
      {isPending && measured.length > 0 && <p className="text-quiet">Measuring…</p>}
      {problem && (
        <p role="alert" className="text-vermilion">
          {problem.message}
        </p>
      )}
      {!isPending &&
        found?.figures.map((f) => (
          <Row key={f.label} label={f.label}>
            {figure(f.value * standsFor(f.unit).factor, 5)} {standsFor(f.unit).unit}
          </Row>
        ))}
    </section>
  );
}

/** The two closest points of what is measured, each end marked. */
export function measureLabels(found: Measured | undefined): StageLabel[] {
  if (!found?.between) return [];
  const [a, b] = found.between;
  const gap = Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
  return [
    { id: "measured-a", at: a, text: "", tone: "hold" },
    { id: "measured-b", at: b, text: length(gap, 5), tone: "load" },
  ];
}
