import { useId, useRef } from "react";

import { ApiProblem, type JointAsk, type JointInfo, type StudyInfo } from "@/api/client";
import { lookAtJoint, useEdits } from "@/api/hooks";
import type { BodySkin } from "@/api/sceneBlock";
import { vocabulary } from "@/api/vocabulary";
import { useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";
import { Field } from "@/ui/Field";
import { tell } from "@/ui/notices";
import { Refusal } from "@/ui/Refusal";
import { Select } from "@/ui/Select";
import { faceWords } from "./FaceList";
import { Head } from "./Head";
import { JointFields, JointFigures } from "./JointFields";
import type { JointDraft } from "./useJointDraft";

/** A joint while it is made: what is picked, what is asked of it, what it would carry, and the button that makes it. */
export function JointMaking({ info, draft, bodies }: { info: StudyInfo; draft: JointDraft; bodies: BodySkin[] }) {
  const { join, select } = useSelection();
  const { makeJoint } = useEdits(info.id);
  const { joining, ask } = draft;
  // What was entered and is still looked at, and what came through: the joint is made with all of it.
  const looking = useRef<Promise<void>>(undefined);
  const entered = useRef<Record<string, unknown>>({});
  const make = async (wanted: JointAsk) => {
    try {
      await looking.current;
    } catch {
      return; // It is told at its field.
    }
    const also = Object.fromEntries(Object.entries(entered.current).filter(([name]) => name in wanted));
    const study = await makeJoint.mutateAsync({ ask: { ...wanted, ...also } });
    const joint = study.document.joints?.at(-1);
    select(joint ? { kind: "joint", id: joint.id } : { kind: "study", id: "" });
  };
  const change = async (name: string, value: unknown) => {
    if (!ask) return;
    const look = lookAtJoint(info.id, { ...ask, [name]: value }).then(() => {
      entered.current = { ...entered.current, [name]: value };
      join({ ...joining, changes: { ...joining.changes, [name]: value } });
    });
    looking.current = look;
    try {
      await look;
    } finally {
      if (looking.current === look) looking.current = undefined;
    }
  };
  return (
    <div className="flex h-full flex-col" role="region" aria-label="Make a joint">
      <div className="min-h-0 flex-1 overflow-auto px-4 py-2">
        <Head kind="A new joint" name={draft.info?.name ?? "Make a joint"} />
        <p className="text-quiet">
          {joining.faces.length
            ? "Pick more on the stage, or again to let go."
            : "Pick on the stage what is to be joined: a hole, a bore, a tooth, or a face of each part."}
        </p>
        {joining.faces.map((face) => (
          <p key={face} className="flex items-center justify-between gap-2">
            <span className="min-w-0 truncate" title={face}>
              {faceWords(info.document, face)}
            </span>
            <button
              type="button"
              aria-label={`Let ${face} go`}
              className="px-1 text-quiet hover:text-vermilion"
              onClick={() => join({ ...joining, faces: joining.faces.filter((f) => f !== face) })}
            >
              ×
            </button>
          </p>
        ))}
        <FaceByName
          bodies={bodies}
          onTake={(face) => join({ ...joining, faces: [...joining.faces, face] })}
          without={joining.faces}
        />
        {joining.faces.length > 0 && (
          <Select
            label="Joined as"
            value={joining.kind ?? ask?.kind ?? ""}
            options={vocabulary().joints.map((j) => ({ value: j.kind, label: j.label }))}
            onChange={(kind) => join({ ...joining, kind, changes: {} })}
          />
        )}
        <Refusal of={draft.problem} className="my-1" />
        {ask && <JointFields ask={ask} onChange={change} faces={() => null} />}
        {draft.info && <JointFigures info={draft.info} />}
      </div>
      <footer className="border-t border-line px-4 py-2">
        <p className="pb-1.5 text-[12.5px] text-quiet">
          {draft.info ? whatOf(draft.info) : draft.isWaiting ? "Looking…" : "Nothing to make yet."}
        </p>
        <div className="flex justify-between">
          <Button onClick={() => join(undefined)}>Not now</Button>
          <Button
            tone="main"
            disabled={!ask || !!draft.problem || makeJoint.isPending}
            onClick={() => ask && tell(make(ask))}
          >
            Make the joint
          </Button>
        </div>
      </footer>
    </div>
  );
}

/** A face taken by its name, for whoever has no pointer or cannot see it. */
function FaceByName({
  bodies,
  without,
  onTake,
}: {
  bodies: BodySkin[];
  without: string[];
  onTake: (face: string) => void;
}) {
  const list = useId();
  const faces = bodies.flatMap((b) => b.faces.map((f) => `${b.name}/${f}`)).filter((f) => !without.includes(f));
  return (
    <>
      <Field
        // Emptied after each face that is taken.
        key={without.length}
        label="By name"
        wide
        value=""
        list={list}
        placeholder={faces[0]}
        onCommit={async (text) => {
          if (!faces.includes(text)) throw new ApiProblem("input", `There is no face ${text}.`, "", "");
          await Promise.resolve(onTake(text));
        }}
      />
      <datalist id={list}>
        {faces.map((face) => (
          <option key={face} value={face} />
        ))}
      </datalist>
    </>
  );
}

/** What a joint would make, and what it would take in of what is there. */
const whatOf = ({ makes, takes }: JointInfo) =>
  [makes && `Makes ${makes}.`, takes && `Takes in ${takes}.`].filter(Boolean).join(" ");
