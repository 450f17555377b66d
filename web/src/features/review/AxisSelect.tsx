import { spoken } from "@/api/units";
import { pointText, readPoint } from "@/features/point";
import { Field } from "@/ui/Field";
import { Select } from "@/ui/Select";

const AXES = ["x", "y", "z"] as const;

type Props = {
  /** What it is called when no axis is chosen. */
  own?: string;
  about: number[] | undefined;
  onAbout: (about: number[] | undefined) => void;
};

/** The axis that a field is about: each part's own, or one along x, y or z through a point. */
export function AxisSelect({ own = "its own axis", about, onAbout }: Props) {
  const mm = spoken("length");
  const along = about ? (AXES[about.slice(3).findIndex(Boolean)] ?? "z") : "own";
  const direction = (axis: string) => AXES.map((a) => (a === axis ? 1 : 0));
  const through = about?.slice(0, 3) ?? [0, 0, 0];
  return (
    <>
      <Select
        label="Axis"
        hideLabel
        value={along}
        options={[{ value: "own", label: own }, ...AXES.map((a) => ({ value: a, label: `axis along ${a}` }))]}
        onChange={(axis) => onAbout(axis === "own" ? undefined : [...through, ...direction(axis)])}
      />
      {about && (
        <span className="w-32 [&_input]:w-full [&_input]:text-left">
          <Field
            label={`Axis through (${mm.unit})`}
            hideLabel
            wide
            value={pointText(through)}
            onCommit={(text) => readPoint(text).then((at) => onAbout([...at, ...about.slice(3)]))}
          />
        </span>
      )}
    </>
  );
}
