import { useEffect, useState } from "react";

import { ApiProblem, type Finding, type PatchStep, type Preflight } from "@/api/client";
import { inChosenUnits } from "@/api/units";
import { kindOf } from "@/api/vocabulary";
import { useSelection } from "@/features/selection";
import { tell } from "@/ui/notices";
import { type EditFn } from "./edits";

const MARK = { stop: "■", watch: "▲", good: "✓" } as const;
const TONE = { stop: "text-vermilion", watch: "text-copper", good: "text-verdigris" } as const;

/** What preflight found, worst first; a click selects the place. */
export function PreflightList({
  preflight,
  isChecking,
  problem,
  onEdit,
}: {
  preflight: Preflight | undefined;
  isChecking: boolean;
  problem: Error | null;
  onEdit: EditFn;
}) {
  const findings = grouped(preflight?.findings ?? []);
  const isWrong = findings.some((f) => f.grade === "stop") || problem !== null;
  const [isOpen, setOpen] = useState(isWrong);
  useEffect(() => {
    if (isWrong) setOpen(true);
  }, [isWrong]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "j") return;
      event.preventDefault();
      setOpen((open) => !open);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <section className="flex max-h-full min-h-0 flex-col">
      <h3>
        <button
          type="button"
          aria-expanded={isOpen}
          title={isOpen ? "Fold the findings (Ctrl J)" : "Show the findings (Ctrl J)"}
          onClick={() => setOpen(!isOpen)}
          className="flex w-full items-center gap-1.5 px-4 py-1.5 text-left hover:bg-paper"
        >
          <span className="mr-1 font-semibold">Preflight</span>
          {(["stop", "watch", "good"] as const).map((grade) => (
            <Count key={grade} grade={grade} count={findings.filter((f) => f.grade === grade).length} />
          ))}
          {isChecking && <span className="text-[12.5px] text-quiet">checking…</span>}
          <span className="ml-auto text-quiet">{isOpen ? "⌄" : "⌃"}</span>
        </button>
      </h3>
      {isOpen && (
        <div className="min-h-0 overflow-auto px-4 pb-2">
          <Findings
            findings={findings}
            preflight={preflight}
            isChecking={isChecking}
            problem={problem}
            onEdit={onEdit}
          />
        </div>
      )}
    </section>
  );
}

const PILL = {
  stop: "bg-vermilion text-white",
  watch: "bg-copper-pale text-ink",
  good: "bg-verdigris-pale text-ink",
} as const;
const WORDS = { stop: "to be mended first", watch: "to look at", good: "in order" } as const;

function Count({ grade, count }: { grade: Finding["grade"]; count: number }) {
  if (!count) return null;
  return (
    <span
      title={`${count} ${WORDS[grade]}`}
      aria-label={`${count} ${WORDS[grade]}`}
      className={`rounded-full px-2 text-[12.5px] leading-5 font-semibold ${PILL[grade]}`}
    >
      {count}
    </span>
  );
}

function Findings({
  findings,
  preflight,
  isChecking,
  problem,
  onEdit,
}: {
  findings: Finding[];
  preflight: Preflight | undefined;
  isChecking: boolean;
  problem: Error | null;
  onEdit: EditFn;
}) {
  return (
    <>
      {problem && !isChecking && (
        <p role="alert" className="text-vermilion">
          Preflight could not be made: {problem.message} {problem instanceof ApiProblem && problem.hint}
        </p>
      )}
      {isChecking && (
        <p className="text-quiet" data-testid="checking">
          {preflight ? "Checking the study as it stands now. Found before the last edit:" : "Checking…"}
        </p>
      )}
      <ul className={isChecking ? "text-quiet" : ""} data-testid="preflight">
        {findings.map((finding) => (
          <Entry key={finding.text} finding={finding} onEdit={onEdit} />
        ))}
      </ul>
    </>
  );
}

function Entry({ finding, onEdit }: { finding: Finding; onEdit: EditFn }) {
  const { select, swing, show } = useSelection();
  const { body, motion } = finding;
  const isShown = !!swing && swing.body === body && swing.motion === motion;
  const [list = "", id = ""] = (finding.where ?? "").split("/");
  const kind = kindOf(list);
  return (
    <li>
      <button
        type="button"
        disabled={!kind || kind === "left-out" || !id}
        onClick={() => kind && kind !== "left-out" && select({ kind, id })}
        className="flex w-full gap-2 rounded px-1 py-0.5 text-left hover:bg-paper disabled:hover:bg-transparent"
      >
        <span className={TONE[finding.grade]}>{MARK[finding.grade]}</span>
        <span>
          {inChosenUnits(finding.text)}
          {finding.grade !== "good" && (
            <span className="block text-[12.5px] text-quiet">{inChosenUnits(finding.hint)}</span>
          )}
        </span>
      </button>
      {body && motion && (
        <button
          type="button"
          aria-pressed={isShown}
          className="ml-6 block text-left text-verdigris underline"
          onClick={() => show(isShown ? undefined : { body, motion })}
        >
          {isShown ? "Stop showing the motion" : "Show the motion"}
        </button>
      )}
      {(finding.remedies ?? []).map((remedy) => (
        <button
          key={remedy.does}
          type="button"
          className="ml-6 block text-left text-verdigris underline"
          onClick={() => tell(onEdit(remedy.edit as unknown as PatchStep[], remedy.does))}
        >
          {inChosenUnits(remedy.does)}
        </button>
      ))}
    </li>
  );
}

/** The same words about each copy of a part are said once. */
function grouped(findings: Finding[]): Finding[] {
  const seen = new Set<string>();
  return findings.flatMap((f) => {
    const copy = (f.body ?? "").match(/#\d+$/)?.[0]?.slice(1);
    const text = copy ? f.text.replace(` ${copy} is`, ", each, is") : f.text;
    if (seen.has(text)) return [];
    seen.add(text);
    return [{ ...f, text }];
  });
}
