import { ApiProblem } from "@/api/client";
import type { FieldInfo } from "@/api/vocabulary";
import type { Limits } from "@/scene/Stage3D";
import { Field } from "@/ui/Field";
import { figure } from "@/ui/format";

import { inSpoken } from "./readings";

type Props = {
  /** The value, as it is stored. */
  level: number;
  onLevel: (level: number) => void;
  meaning: FieldInfo;
  limits: Limits;
};

/** The value of which the surface inside the parts is shown. */
export function SurfaceControl({ level, onLevel, meaning, limits }: Props) {
  const { unit, factor } = inSpoken(meaning);
  const [low, high] = [limits.low / meaning.factor, limits.high / meaning.factor];
  return (
    <div
      role="group"
      aria-label="Surface of equal value"
      className="flex items-center gap-3 rounded-md border border-line bg-paper px-3 py-1 shadow"
    >
      <span>
        where it is <span className="text-quiet">({unit})</span>
      </span>
      <input
        type="range"
        min={0}
        max={1}
        step={0.005}
        value={(level - low) / (high - low || 1)}
        aria-label="Value of the surface"
        className="w-36 accent-verdigris"
        onChange={(e) => onLevel(low + Number(e.target.value) * (high - low))}
      />
      <span className="w-20">
        <Field
          label={`Value of the surface (${unit})`}
          hideLabel
          value={figure(level * factor)}
          onCommit={(text) => {
            const typed = Number(text.replace(",", "."));
            if (!text || !Number.isFinite(typed))
              return Promise.reject(new ApiProblem("number", `“${text}” is no number.`, "", `Give one in ${unit}.`));
            onLevel(typed / factor);
            return Promise.resolve();
          }}
        />
      </span>
    </div>
  );
}
