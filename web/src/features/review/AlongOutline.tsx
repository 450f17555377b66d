import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { type AlongPair, api, unwrap } from "@/api/client";
import { length, spoken, stress } from "@/api/units";
import { COLOURS } from "@/ui/colours";
import type { Line } from "@/ui/CurvePlot";

import { KeptPlot } from "./KeptPlot";

type Props = { run: number; increment: number; pair: string; name: string };

/** A pair of a section along its outline: pressure, friction between what it can hold either way, and the gap. */
export function AlongOutline({ run, increment, pair, name }: Props) {
  const [at, setAt] = useState<number>();
  const found = useQuery({
    queryKey: ["along", run, increment, pair],
    queryFn: async () =>
      unwrap<AlongPair>(
        await api.GET("/api/runs/{run_id}/increments/{increment}/along/{pair}", {
          params: { path: { run_id: run, increment, pair } },
        }),
      ),
    staleTime: Infinity,
    placeholderData: (before, query) => (query?.queryKey[3] === pair ? before : undefined),
  }).data;
  if (!found) return null;
  const [mm, mpa] = [spoken("length"), spoken("stress")];
  const x = found.way.map((w) => w * mm.factor);
  const line = (label: string, values: number[], colour: string, isFaint = false): Omit<Line, "x"> => ({
    label,
    unit: mpa.unit,
    y: values.map((v) => v * mpa.factor),
    colour,
    isFaint,
  });
  const held = found.held ?? [];
  const lines = [
    line("pressure", found.pressure, COLOURS.verdigris),
    line("friction", found.friction, COLOURS.copper),
    ...(found.held
      ? [
          line("µp", held, COLOURS.copper, true),
          line(
            "−µp",
            held.map((v) => -v),
            COLOURS.copper,
            true,
          ),
        ]
      : []),
    {
      label: "gap",
      unit: mm.unit,
      y: found.gap.map((g) => (g === null ? null : g * mm.factor)),
      colour: COLOURS.quiet,
    },
  ];
  const presses = pressing(found);
  const index = at !== undefined && at < x.length ? at : found.pressure.indexOf(Math.max(...found.pressure));
  return (
    <section aria-label="Along the outline">
      <KeptPlot
        label={`${name} along its outline`}
        way={{ label: "way along the outline", unit: mm.unit, values: x }}
        lines={lines}
        file="outline.csv"
        at={index}
        onAt={setAt}
      />
      <p className="text-[13px]" data-testid="along-outline">
        {presses
          ? `Presses over ${length(presses.wide)}, ${stress(presses.mean)} on average, ${stress(presses.most)} at most.`
          : "Presses nowhere."}
      </p>
      <p className="text-[13px]">
        At {length(found.way[index] ?? 0)}: {stress(found.pressure[index] ?? 0)}, friction{" "}
        {stress(found.friction[index] ?? 0)}, gap {found.gap[index] == null ? "unknown" : length(found.gap[index])}
      </p>
    </section>
  );
}

/** How wide (mm) a pair presses, and its mean and highest pressure there (MPa); nothing where it does not. */
export function pressing({ way, pressure }: Pick<AlongPair, "way" | "pressure">) {
  let [wide, force] = [0, 0];
  for (let i = 1; i < way.length; i++) {
    const step = way[i]! - way[i - 1]!;
    if (!(pressure[i]! > 0 && pressure[i - 1]! > 0)) continue;
    wide += step;
    force += (step * (pressure[i]! + pressure[i - 1]!)) / 2;
  }
  return wide > 0 ? { wide, mean: force / wide, most: Math.max(...pressure) } : undefined;
}
