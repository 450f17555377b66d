import { DropdownMenu } from "radix-ui";
import { useRef, useState } from "react";
import { Link } from "wouter";

import type { StudySummary } from "@/api/client";
import { useDeleteStudy, useDuplicateStudy, useRenameStudy } from "@/api/hooks";
import { Thumbnail } from "@/scene/Thumbnail";
import { Field } from "@/ui/Field";

const STATES: Record<string, string> = {
  queued: "waiting to run",
  running: "running",
  solved: "solved",
  "not-converged": "did not converge",
  stopped: "stopped",
  failed: "failed",
};
const counted = (count: number, what: string) => `${count} ${what}${count === 1 ? "" : "s"}`;
const ITEM = "block cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-verdigris-pale";

/** One study on the shelf: its picture, how its last run ended, and what can be done with it. */
export function StudyCard({ study }: { study: StudySummary }) {
  const remove = useDeleteStudy();
  const duplicate = useDuplicateStudy();
  const rename = useRenameStudy();
  const [isRenaming, setRenaming] = useState(false);
  /** What waits until the menu is closed and holds the focus no longer. */
  const waiting = useRef<() => void>(undefined);
  const status = study.run?.status;
  const reviewable = (study.run?.increments ?? 0) > 0;
  return (
    <li className="flex flex-col overflow-hidden rounded-lg border border-line bg-panel" data-study={study.id}>
      <Link
        href={`/studies/${study.id}/${reviewable ? "review" : "bench"}`}
        className="block"
        aria-label={`Open ${study.title}`}
      >
        <Thumbnail study={study.id} revision={study.revision} bolts={study.bolt_parts} />
      </Link>
      <div className="flex flex-1 flex-col p-3">
        <div className="flex items-baseline justify-between gap-2">
          {isRenaming ? (
            <Field
              label="Title"
              hideLabel
              wide
              autoFocus
              value={study.title}
              onCommit={(title) => rename.mutateAsync({ study: study.id, revision: study.revision, title })}
              onDone={() => setRenaming(false)}
            />
          ) : (
            <p className="truncate text-[16px] font-semibold" title={study.title}>
              {study.title}
            </p>
          )}
          <span className={status === "failed" || status === "not-converged" ? "text-vermilion" : "text-verdigris"}>
            {status ? STATES[status] : "not run yet"}
            {status === "running" && !!study.run?.increments && `, ${study.run.increments} increments`}
          </span>
        </div>
        <p className="text-quiet">
          {study.machine && `${study.machine} · `}
          {counted(study.parts, "part")} · {counted(study.bolts, "bolt")} · {counted(study.pairs, "pair")} · r
          {study.revision}
        </p>
        {study.notes && (
          <p className="line-clamp-2 text-quiet" title={study.notes}>
            {study.notes}
          </p>
        )}
        {study.problem && (
          <p role="alert" className="py-1 text-vermilion">
            ■ {study.problem.message} <span className="text-quiet">{study.problem.hint}</span>
          </p>
        )}
        <ul className="min-h-[44px] flex-1 py-1.5">
          {(study.remarks ?? []).slice(0, 2).map((remark) => (
            <li key={remark.text} className="flex gap-2">
              <span className={remark.grade === "bad" ? "text-vermilion" : "text-copper"}>
                {remark.grade === "bad" ? "■" : "▲"}
              </span>
              <span className="line-clamp-2">{remark.text}</span>
            </li>
          ))}
          {reviewable && !study.problem && status === "solved" && !study.remarks?.length && (
            <li className="text-verdigris">✓ every joint holds</li>
          )}
          {reviewable && !study.is_current && <li className="text-quiet">edited since this run</li>}
        </ul>
        <div className="flex gap-2">
          <Link
            href={`/studies/${study.id}/bench`}
            className="rounded-md border border-line bg-paper px-3 py-1 hover:bg-verdigris-pale"
          >
            Bench
          </Link>
          {reviewable && (
            <Link
              href={`/studies/${study.id}/review`}
              className="rounded-md border border-line bg-paper px-3 py-1 hover:bg-verdigris-pale"
            >
              Review
            </Link>
          )}
          <DropdownMenu.Root>
            <DropdownMenu.Trigger className="ml-auto rounded-md px-2 py-1 text-quiet hover:text-ink">
              More <span aria-hidden>▾</span>
              <span className="sr-only">for {study.title}</span>
            </DropdownMenu.Trigger>
            <DropdownMenu.Portal>
              <DropdownMenu.Content
                align="end"
                className="z-50 rounded-md border border-line bg-white py-1 shadow-lg"
                onCloseAutoFocus={(e) => {
                  if (!waiting.current) return;
                  e.preventDefault();
                  waiting.current();
                  waiting.current = undefined;
                }}
              >
                {(
                  [
                    ["Rename", () => (waiting.current = () => setRenaming(true))],
                    ["Duplicate", () => duplicate.mutate(study.id)],
                  ] as const
                ).map(([label, onSelect]) => (
                  <DropdownMenu.Item key={label} className={ITEM} onSelect={onSelect}>
                    {label}
                  </DropdownMenu.Item>
                ))}
                <DropdownMenu.Item asChild className={ITEM}>
                  <a href={`/api/studies/${study.id}/file`} download>
                    Save as a file
                  </a>
                </DropdownMenu.Item>
                <DropdownMenu.Item
                  className={`${ITEM} text-vermilion`}
                  onSelect={() =>
                    window.confirm(`Take “${study.title}” off the shelf? Its runs go with it.`) &&
                    remove.mutate(study.id)
                  }
                >
                  Remove
                </DropdownMenu.Item>
              </DropdownMenu.Content>
            </DropdownMenu.Portal>
          </DropdownMenu.Root>
        </div>
      </div>
    </li>
  );
}
