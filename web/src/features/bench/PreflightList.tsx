import type { Finding, PatchStep, Preflight } from "@/api/client";
import { useSelection, type Selected } from "@/features/selection";
import { Section } from "@/ui/Section";

import type { EditFn } from "./Inspector";

const MARK = { stop: "■", watch: "▲", good: "✓" } as const;
const TONE = { stop: "text-vermilion", watch: "text-copper", good: "text-verdigris" } as const;
const KINDS: Record<string, Selected["kind"]> = { parts: "part", pairs: "pair", bolts: "bolt", supports: "support", loads: "load", steps: "step", handles: "handle", walls: "wall", springs: "spring", links: "link" };

/** What preflight found, worst first; a click selects the place. */
export function PreflightList({ preflight, isChecking, onEdit }: { preflight: Preflight | undefined; isChecking: boolean; onEdit: EditFn }) {
  const findings = grouped(preflight?.findings ?? []);
  return (
    <Section title="Preflight">
      {!preflight && <p className="text-quiet">Checking…</p>}
      <ul className={isChecking ? "opacity-50" : ""} data-testid="preflight">
        {findings.map((finding) => (
          <Entry key={finding.text} finding={finding} onEdit={onEdit} />
        ))}
      </ul>
    </Section>
  );
}

function Entry({ finding, onEdit }: { finding: Finding; onEdit: EditFn }) {
  const { select } = useSelection();
  const [list = "", id = ""] = (finding.where ?? "").split("/");
  const kind = KINDS[list];
  return (
    <li>
      <button
        type="button"
        disabled={!kind || !id}
        onClick={() => kind && select({ kind, id })}
        className="flex w-full gap-2 rounded px-1 py-0.5 text-left hover:bg-paper disabled:hover:bg-transparent"
      >
        <span className={TONE[finding.grade]}>{MARK[finding.grade]}</span>
        <span>
          {finding.text}
          {finding.grade === "stop" && <span className="block text-quiet">{finding.hint}</span>}
        </span>
      </button>
      {finding.edit && (
        <button type="button" className="ml-6 text-verdigris underline" onClick={() => void onEdit(finding.edit as unknown as PatchStep[], "Remedy of preflight")}>
          Close the gap at the start
        </button>
      )}
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
