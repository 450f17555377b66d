import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { type ProfileInfo, api, unwrap } from "@/api/client";
import { spoken } from "@/api/units";
import type { FieldInfo } from "@/api/vocabulary";
import { COLOURS } from "@/ui/colours";
import { Select } from "@/ui/Select";

import { KeptPlot } from "./KeptPlot";
import { inSpoken, spokenValue } from "./readings";

type Way = ProfileInfo["way"];

type Props = { run: number; increment: number; pair: string; name: string; meaning: FieldInfo };

/** A field of a pair along one way over its imprint: its mean and its highest there, and how even it is. */
export function ImprintProfile({ run, increment, pair, name, meaning }: Props) {
  const [way, setWay] = useState<Way>();
  const found = useQuery({
    queryKey: ["profile", run, increment, pair, meaning.name, way],
    queryFn: async () =>
      unwrap<ProfileInfo>(
        await api.GET("/api/runs/{run_id}/increments/{increment}/profile/{pair}/{field}", {
          params: { path: { run_id: run, increment, pair, field: meaning.name }, query: way ? { way } : {} },
        }),
      ),
    staleTime: Infinity,
    retry: false,
    placeholderData: (before, query) => (query?.queryKey[3] === pair ? before : undefined),
  }).data;
  if (!found) return null;
  const { unit, factor } = inSpoken(meaning);
  const mm = spoken("length");
  const isAngle = found.unit === "°";
  const [least, most] = [Math.min(...found.mean), Math.max(...found.mean)];
  return (
    <section aria-label="Over the imprint" className="pt-2">
      <Select
        label="Over the imprint"
        value={found.way}
        options={found.ways.map((w) => ({ value: w, label: w }))}
        onChange={(w) => setWay(found.ways.find((own) => own === w))}
      />
      <KeptPlot
        label={`${meaning.label} of ${name} ${found.way}`}
        way={{
          label: found.way === "outward" ? "from the middle" : `way ${found.way}`,
          unit: isAngle ? "°" : mm.unit,
          values: isAngle ? found.at : found.at.map((d) => d * mm.factor),
        }}
        lines={[
          { label: "highest", unit, y: found.highest.map((v) => v * factor), colour: COLOURS.copper },
          { label: "mean", unit, y: found.mean.map((v) => v * factor), colour: COLOURS.verdigris },
        ]}
        file="imprint.csv"
      />
      <p className="text-[13px]" data-testid="evenness">
        The mean lies between {spokenValue(least * meaning.factor, meaning.spoken)} and{" "}
        {spokenValue(most * meaning.factor, meaning.spoken)}.
      </p>
    </section>
  );
}
