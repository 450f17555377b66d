import type { SketchState } from "./useSketch";

/** The outlines of a drawing by name; one is chosen here or on the sheet. */
export function OutlineList({ sketch }: { sketch: SketchState }) {
  const { shape, chosen, choose } = sketch;
  return (
    <ul aria-label="Outlines">
      {shape.outlines.map((o, i) => (
        <li key={i}>
          <button
            type="button"
            aria-pressed={chosen?.outline === i}
            onClick={() => choose({ outline: i })}
            className="flex w-full justify-between gap-2 rounded px-2 py-0.5 text-left aria-pressed:bg-verdigris-pale aria-pressed:font-semibold hover:bg-panel"
          >
            <span className="truncate">{o.name}</span>
            <span className="shrink-0 text-quiet">
              {o.circle ? "circle" : `${o.edges?.length ?? 0} edges`}
              {o.takes_out ? ", out" : ""}
            </span>
          </button>
        </li>
      ))}
      {!shape.outlines.length && <li className="px-2 text-quiet">Nothing drawn yet.</li>}
    </ul>
  );
}
