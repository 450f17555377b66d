import { useQuery } from "@tanstack/react-query";

import { type AlongBeam as Found, api, unwrap } from "@/api/client";
import { spoken } from "@/api/units";
import { COLOURS } from "@/ui/colours";

import { KeptPlot } from "./KeptPlot";

type Props = { run: number; increment: number; body: string; name: string };

/** Axial force, shear, torsion and bending along a part that is led as a beam. */
export function AlongBeam({ run, increment, body, name }: Props) {
  const found = useQuery({
    queryKey: ["beam", run, increment, body],
    queryFn: async () =>
      unwrap<Found>(
        await api.GET("/api/runs/{run_id}/increments/{increment}/beams/{body}", {
          params: { path: { run_id: run, increment, body } },
        }),
      ),
    staleTime: Infinity,
    retry: false,
    placeholderData: (before, query) => (query?.queryKey[3] === body ? before : undefined),
  });
  if (found.error) return <p className="text-[13px] text-quiet">{found.error.message}</p>;
  if (!found.data) return null;
  const { way, axial, shear, torsion, bending } = found.data;
  const [mm, n, nmm] = [spoken("length"), spoken("force"), spoken("moment")];
  const over = { label: "way along the beam", unit: mm.unit, values: way.map((d) => d * mm.factor) };
  const of = (label: string, values: number[] | undefined, { unit, factor }: typeof n, colour: string) => ({
    label,
    unit,
    y: (values ?? []).map((v) => v * factor),
    colour,
  });
  return (
    <section aria-label={`Along ${name}`} className="pt-1">
      <KeptPlot
        label={`Forces along ${name}`}
        way={over}
        lines={[
          of("N", axial, n, COLOURS.ink),
          of("V y", shear[0], n, COLOURS.verdigris),
          of("V z", shear[1], n, COLOURS.copper),
        ]}
        file="forces-along.csv"
      />
      <KeptPlot
        label={`Moments along ${name}`}
        way={over}
        lines={[
          of("T", torsion, nmm, COLOURS.ink),
          of("M y", bending[0], nmm, COLOURS.verdigris),
          of("M z", bending[1], nmm, COLOURS.copper),
        ]}
        file="moments-along.csv"
      />
    </section>
  );
}
