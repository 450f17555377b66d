import { useEffect, useState } from "react";

import { fetchScene } from "@/api/sceneBlock";

import { Stage3D } from "./Stage3D";
import { partColour } from "./ramp";

const kept = new Map<string, string>();

/** A still picture of a study's parts, drawn once per revision. */
export function Thumbnail({ study, revision, bolts }: { study: number; revision: number; bolts: string[] }) {
  const key = `${study}/${revision}`;
  const [picture, setPicture] = useState(kept.get(key));
  useEffect(() => {
    const known = kept.get(key);
    setPicture(known);
    if (known) return;
    let alive = true;
    void fetchScene(`/api/studies/${study}/scene`)
      .then((block) => {
        if (!alive) return;
        const host = document.createElement("div");
        Object.assign(host.style, { position: "fixed", left: "-2000px", width: "760px", height: "352px" });
        document.body.appendChild(host);
        const stage = new Stage3D(host);
        const parts = [...new Set(block.bodies.map((b) => b.name.split("#")[0] ?? ""))];
        stage.show(block, {
          colours: block.bodies.map((b) => {
            const part = b.name.split("#")[0] ?? "";
            return partColour(parts.indexOf(part), bolts.includes(part));
          }),
          looks: block.bodies.map(() => "solid"),
          highlights: [],
          showMesh: false,
          scale: 1,
        });
        const taken = stage.picture();
        stage.dispose();
        host.remove();
        kept.set(key, taken);
        setPicture(taken);
      })
      .catch(() => undefined);
    return () => {
      alive = false;
    };
  }, [key, study, bolts]);
  return (
    <div className="grid h-44 place-items-center overflow-hidden bg-stage text-quiet">
      {picture ? (
        <img src={picture} alt="" className="h-44 w-full object-contain" />
      ) : (
        <span aria-hidden>Drawing…</span>
      )}
    </div>
  );
}
