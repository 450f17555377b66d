import { useEffect, useState } from "react";

import type { PatchStep, StudyDocument, StudyInfo, Suggestion } from "@/api/client";
import { useTouching } from "@/api/hooks";
import { area, length, usual } from "@/api/units";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { percent } from "@/ui/format";
import { tell } from "@/ui/notices";
import { useFilter } from "@/ui/useFilter";

import type { Peek } from "./benchLook";
import { type EditFn, put } from "./edits";
import { faceWords } from "./FaceList";

type Props = { info: StudyInfo; onEdit: EditFn; onPeek: (peek: Peek | undefined) => void; onClose: () => void };

const keyOf = (s: Suggestion) => `${s.a.join(" ")} | ${s.b.join(" ")}`;

/** What touches or comes close, under the stage that shows each: it can become a pair, be left out, or be joined with others. */
export function FindPairs({ info, onEdit, onPeek, onClose }: Props) {
  const [distance, setDistance] = useState(() => usual("1 mm"));
  const [angle, setAngle] = useState("40 deg");
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const found = useTouching(info.id, info.revision, distance, angle);
  useEffect(() => {
    const leave = (event: KeyboardEvent) => event.key === "Escape" && onClose();
    window.addEventListener("keydown", leave);
    return () => window.removeEventListener("keydown", leave);
  }, [onClose]);
  useEffect(() => () => onPeek(undefined), [onPeek]);
  const fresh = (found.data ?? []).filter((s) => !s.pair && !s.is_left_out);
  const apart = (found.data ?? []).filter((s) => s.is_left_out);
  const known = (found.data ?? []).filter((s) => s.pair);
  const chosen = fresh.filter((s) => marked.has(keyOf(s)));
  const accept = (list: Suggestion[]) =>
    onEdit(
      list.map((s) => ({ op: "add", path: "/pairs/-", value: s.new_pair })),
      list.length === 1 ? "Add a pair" : `Add ${list.length} pairs`,
    );
  const join = () => {
    const [first, ...rest] = chosen;
    if (!first) return;
    // Sides are put together by the parts they are of.
    const owner = (refs: string[]) => refs[0]?.split("/")[0]?.split("#")[0];
    const a = new Set(first.a),
      b = new Set(first.b);
    for (const s of rest) {
      const same = owner(s.a) === owner(first.a) || owner(s.b) === owner(first.b);
      s.a.forEach((f) => (same ? a : b).add(f));
      s.b.forEach((f) => (same ? b : a).add(f));
    }
    tell(
      onEdit(
        [{ op: "add", path: "/pairs/-", value: { ...first.new_pair, a: [...a], b: [...b] } }],
        "Add a joined pair",
      ),
    );
    setMarked(new Set());
  };
  const words = (s: Suggestion) => [...s.a, ...s.b].map((face) => faceWords(info.document, face)).join(" ");
  const [listed, filter] = useFilter(fresh, words, "Find among the faces");
  const toggle = (s: Suggestion) => {
    const next = new Set(marked);
    if (!next.delete(keyOf(s))) next.add(keyOf(s));
    setMarked(next);
  };

  const shown = (s: Suggestion) => ({
    onMouseEnter: () => onPeek({ a: s.a, b: s.b }),
    onFocus: () => onPeek({ a: s.a, b: s.b }),
  });

  return (
    <section aria-label="Faces that touch or come close" className="flex h-full flex-col bg-paper">
      <header className="flex items-center gap-4 border-b border-line px-4 py-0.5">
        <h2 className="mr-auto text-[12px] font-semibold tracking-wide text-quiet">Faces that touch or come close</h2>
        <span className="w-40">{filter}</span>
        {chosen.length > 1 && <Button onClick={join}>Join {chosen.length} into one pair</Button>}
        <Field
          label="Search within"
          value={distance}
          onCommit={(text) => {
            setDistance(text);
            return Promise.resolve();
          }}
        />
        <Field
          label="Facing within"
          value={angle}
          onCommit={(text) => {
            setAngle(text);
            return Promise.resolve();
          }}
        />
        {listed.length > 0 && (
          <Button tone="main" onClick={() => tell(accept(listed))}>
            {listed.length === 1 ? "Make it a pair" : `Make all ${listed.length} pairs`}
          </Button>
        )}
        <Button onClick={onClose}>Close</Button>
      </header>
      <div className="min-h-0 flex-1 overflow-auto px-4 py-1" onMouseLeave={() => onPeek(undefined)}>
        {found.isPending && <p className="text-quiet">Searching all parts…</p>}
        {found.error && (
          <p role="alert" className="text-vermilion">
            {found.error.message}
          </p>
        )}
        {found.data?.length === 0 && (
          <p>
            No faces of different parts come within {distance} of each other. Mate the parts first, or search further.
          </p>
        )}
        {fresh.length > 0 && (
          <table className="w-full border-collapse">
            <thead className="text-left text-[12px] text-quiet">
              <tr>
                <th className="w-6" />
                <th className="py-1">Side A</th>
                <th>Side B</th>
                <th className="text-right">Starts</th>
                <th className="text-right">Area</th>
                <th className="text-right">A covered</th>
                <th className="pl-4">Proposed law</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {listed.map((s) => (
                <tr
                  key={keyOf(s)}
                  data-found={keyOf(s)}
                  {...shown(s)}
                  className="border-t border-line align-top hover:bg-panel"
                >
                  <td className="py-1.5">
                    <input
                      type="checkbox"
                      aria-label={`Mark ${keyOf(s)}`}
                      checked={marked.has(keyOf(s))}
                      onChange={() => toggle(s)}
                    />
                  </td>
                  <td className="py-1.5 pr-3">{s.a.map((face) => faceWords(info.document, face)).join(", ")}</td>
                  <td className="py-1.5 pr-3">{s.b.map((face) => faceWords(info.document, face)).join(", ")}</td>
                  <td className="py-1.5 text-right whitespace-nowrap">{startOf(s.gap)}</td>
                  <td className="py-1.5 text-right whitespace-nowrap">{area(s.area)}</td>
                  <td className="py-1.5 text-right">{percent(s.cover)}</td>
                  <td className="py-1.5 pl-4 whitespace-nowrap">{lawOf(s)}</td>
                  <td className="py-1 pl-4 text-right whitespace-nowrap">
                    <Button onClick={() => tell(accept([s]))}>Make a pair</Button>{" "}
                    <Button
                      onClick={() =>
                        tell(
                          onEdit(
                            [{ op: "add", path: "/left_out/-", value: { a: s.a, b: s.b } }],
                            "Leave a finding out",
                          ),
                        )
                      }
                    >
                      Leave out
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {found.data && found.data.length > 0 && !fresh.length && (
          <p className="py-2">Everything that touches is in a pair{apart.length ? " or left out" : ""}.</p>
        )}
        {apart.length > 0 && (
          <>
            <h3 className="pt-4 pb-1 text-[12px] font-semibold tracking-wide text-quiet">Left out</h3>
            {apart.map((s) => (
              <p key={keyOf(s)} {...shown(s)} className="flex items-center gap-3 text-quiet hover:bg-panel">
                {s.a.map((face) => faceWords(info.document, face)).join(", ")} –{" "}
                {s.b.map((face) => faceWords(info.document, face)).join(", ")}
                <Button onClick={() => tell(onEdit(takeBack(info.document, s), "Take a finding back"))}>
                  Take it back
                </Button>
              </p>
            ))}
          </>
        )}
        {known.length > 0 && (
          <>
            <h3 className="pt-4 pb-1 text-[12px] font-semibold tracking-wide text-quiet">In pairs already</h3>
            {known.map((s) => (
              <p key={keyOf(s)} {...shown(s)} className="text-quiet hover:bg-panel">
                {info.document.pairs?.find((p) => p.id === s.pair)?.name}:{" "}
                {s.a.map((face) => faceWords(info.document, face)).join(", ")} –{" "}
                {s.b.map((face) => faceWords(info.document, face)).join(", ")}
              </p>
            ))}
          </>
        )}
      </div>
    </section>
  );
}

/** The study without the entries that leave a finding out. */
function takeBack(study: StudyDocument, s: Suggestion): PatchStep[] {
  const same = (left: { a: string[]; b: string[] }) =>
    s.a.every((f) => left.a.includes(f) || left.b.includes(f)) &&
    s.b.every((f) => left.a.includes(f) || left.b.includes(f));
  return [
    put(
      "/left_out",
      (study.left_out ?? []).filter((left) => !same(left)),
    ),
  ];
}

function lawOf(s: Suggestion): string {
  const law = s.new_pair.law as { mu: number };
  return `may open, slides with µ ${law.mu}`;
}

function startOf(gap: number): string {
  if (Math.abs(gap) < 1e-4) return "touching";
  return gap > 0 ? `${length(gap)} apart` : `${length(-gap)} overlap`;
}
