import type { ReactNode } from "react";

import { itemsOf, listOf, type NamedKind } from "@/features/items";
import { partsSelected, useSelection } from "@/features/selection";

import type { InspectorProps } from "./edits";
import { BoltInspector, LoadInspector, SupportInspector } from "./ActingInspectors";
import { ContactInspector } from "./ContactInspector";
import { JointInspector } from "./JointInspector";
import { PairInspector } from "./PairInspector";
import { PartInspector } from "./PartInspector";
import { PartsInspector } from "./PartsInspector";
import { HandleInspector, LinkInspector, SpringInspector, WallInspector } from "./PointInspectors";
import { PreflightList } from "./PreflightList";
import { StepInspector } from "./StepInspector";
import { StudyInspector } from "./StudyInspector";

/** Properties of what is selected, from their top for each; preflight keeps its place under them. */
export function Inspector(props: InspectorProps & { isChecking: boolean; checkProblem: Error | null }) {
  const { selected } = useSelection();
  return (
    <div className="flex h-full flex-col">
      <div key={`${selected.kind} ${selected.id}`} className="min-h-0 flex-1 overflow-auto px-4 py-2">
        <Selected {...props} />
      </div>
      <div className="max-h-[45%] shrink-0 overflow-hidden border-t border-line flex flex-col">
        <PreflightList
          preflight={props.preflight}
          isChecking={props.isChecking}
          problem={props.checkProblem}
          onEdit={props.onEdit}
        />
      </div>
    </div>
  );
}

function Selected(props: InspectorProps) {
  const { selected } = useSelection();
  const { study } = props;
  if (selected.kind === "study") return <StudyInspector {...props} />;
  const { kind, id } = selected;
  const i = itemsOf(study, kind).findIndex((item) => item.id === id);
  const path = `/${listOf(kind)}/${i}`;
  // Every kind that can be selected has its inspector: the type of this table asks for it.
  const inspectors: Record<NamedKind, (i: number) => ReactNode> = {
    material: () => <StudyInspector {...props} />,
    part: (n) =>
      selected.also ? (
        <PartsInspector {...props} ids={partsSelected(selected)} />
      ) : (
        drawn(study.parts?.[n], (part) => <PartInspector {...props} part={part} path={path} face={selected.face} />)
      ),
    pair: (n) => drawn(study.pairs?.[n], (pair) => <PairInspector {...props} pair={pair} path={path} />),
    bolt: (n) => drawn(study.bolts?.[n], (bolt) => <BoltInspector {...props} bolt={bolt} path={path} />),
    support: (n) =>
      drawn(study.supports?.[n], (support) => <SupportInspector {...props} support={support} path={path} />),
    load: (n) => drawn(study.loads?.[n], (load) => <LoadInspector {...props} load={load} path={path} />),
    step: (n) => drawn(study.steps?.[n], (step) => <StepInspector {...props} step={step} path={path} />),
    handle: (n) => drawn(study.handles?.[n], (handle) => <HandleInspector {...props} handle={handle} path={path} />),
    wall: (n) => drawn(study.walls?.[n], (wall) => <WallInspector {...props} wall={wall} path={path} />),
    spring: (n) => drawn(study.springs?.[n], (spring) => <SpringInspector {...props} spring={spring} path={path} />),
    contact: (n) =>
      drawn(study.contacts?.[n], (contact) => <ContactInspector {...props} contact={contact} path={path} />),
    joint: (n) => drawn(study.joints?.[n], (joint) => <JointInspector {...props} joint={joint} path={path} />),
    link: (n) => drawn(study.links?.[n], (link) => <LinkInspector {...props} link={link} path={path} />),
  };
  return (i >= 0 && inspectors[kind](i)) || <StudyInspector {...props} />;
}

const drawn = <T,>(item: T | undefined, draw: (item: T) => ReactNode) => (item === undefined ? null : draw(item));
