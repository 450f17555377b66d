import { useEffect, useRef } from "react";
import { Link } from "wouter";

import type { StudyInfo } from "@/api/client";
import { inChosenUnits } from "@/api/units";
import { bodyName } from "@/features/items";
import { useSelection } from "@/features/selection";

import type { Line } from "./story";

const TONE = {
  plain: "border-line",
  good: "border-verdigris",
  watch: "border-copper",
  bad: "border-vermilion",
} as const;

/** The story, kept at its newest line while the run goes on, and at what ended it where it went wrong. */
export function StoryList({ info, lines, active }: { info: StudyInfo; lines: Line[]; active: boolean }) {
  const show = useSelection((s) => s.show);
  const end = useRef<HTMLLIElement>(null);
  const wrong = lines.at(-1)?.tone === "bad";
  useEffect(() => {
    if (active || wrong) end.current?.scrollIntoView({ block: "end" });
  }, [lines, active, wrong]);
  return (
    <ol
      aria-label="Run log"
      aria-live="polite"
      tabIndex={0}
      className="min-h-0 overflow-auto border-r border-line bg-panel px-4 py-3"
    >
      {!lines.length && <li className="text-quiet">Waiting for the first news…</li>}
      {lines.map((line) => (
        <li key={line.key} className={`mb-1.5 border-l-[3px] pl-3 ${TONE[line.tone]}`}>
          <p className={line.tone === "bad" ? "font-semibold text-vermilion" : ""}>{inChosenUnits(line.text)}</p>
          {line.detail && <p className="text-[13px] text-quiet">{line.detail}</p>}
          {(line.moving ?? []).map((swing) => (
            <Link
              key={swing.body}
              href={`/studies/${info.id}/bench`}
              onClick={() => show(swing)}
              className="block text-[13px] text-verdigris underline"
            >
              Show how {bodyName(info.document, swing.body)} moves
            </Link>
          ))}
        </li>
      ))}
      <li ref={end} />
    </ol>
  );
}
