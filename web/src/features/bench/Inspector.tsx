import type { ReactNode } from "react";

import type { PatchStep, Preflight, RecipeInfo, StudyDocument, StudyInfo } from "@/api/client";
import { useSelection } from "@/features/selection";
import { Button } from "@/ui/Button";

import { BoltInspector, LoadInspector, SupportInspector } from "./ActingInspectors";
import { PairInspector } from "./PairInspector";
import { PartInspector } from "./PartInspector";
import { HandleInspector, LinkInspector, SpringInspector, WallInspector } from "./PointInspectors";
import { PreflightList } from "./PreflightList";
import { StepInspector } from "./StepInspector";
import { StudyInspector } from "./StudyInspector";

export type EditFn = (patch: PatchStep[], label: string) => Promise<unknown>;

export type InspectorProps = {
  info: StudyInfo;
  study: StudyDocument;
  onEdit: EditFn;
  recipes: RecipeInfo[];
  preflight: Preflight | undefined;
  /** Names of the faces of every part. */
  faces: Record<string, string[]>;
  /** Names of the faces that meet a face of a part in an edge. */
  neighbours: (part: string, face: string) => string[];
  /** Brings the face that waits for it to this one. */
  onMate: (face: string) => void;
};

/** Properties of what is selected, from their top for each; preflight keeps its place under them. */
export function Inspector(props: InspectorProps & { isChecking: boolean }) {
  const { selected } = useSelection();
  return (
    <div className="flex h-full flex-col">
      <div key={`${selected.kind} ${selected.id}`} className="min-h-0 flex-1 overflow-auto px-4 py-2">
        <Selected {...props} />
      </div>
      <div className="max-h-[38%] shrink-0 overflow-auto border-t border-line px-4">
        <PreflightList preflight={props.preflight} isChecking={props.isChecking} onEdit={props.onEdit} />
      </div>
    </div>
  );
}

function Selected(props: InspectorProps) {
  const { selected } = useSelection();
  const { study } = props;
  const found = <T extends { id: string }>(list: T[] | undefined, name: string, draw: (item: T, path: string) => ReactNode) => {
    const i = (list ?? []).findIndex((item) => item.id === selected.id);
    const item = list?.[i];
    return item && draw(item, `/${name}/${i}`);
  };
  const inspectors: Record<Exclude<typeof selected.kind, "study">, () => ReactNode> = {
    part: () => found(study.parts, "parts", (part, path) => <PartInspector {...props} part={part} path={path} face={selected.face} />),
    pair: () => found(study.pairs, "pairs", (pair, path) => <PairInspector {...props} pair={pair} path={path} />),
    bolt: () => found(study.bolts, "bolts", (bolt, path) => <BoltInspector {...props} bolt={bolt} path={path} />),
    support: () => found(study.supports, "supports", (support, path) => <SupportInspector {...props} support={support} path={path} />),
    load: () => found(study.loads, "loads", (load, path) => <LoadInspector {...props} load={load} path={path} />),
    step: () => found(study.steps, "steps", (step, path) => <StepInspector {...props} step={step} path={path} />),
    handle: () => found(study.handles, "handles", (handle, path) => <HandleInspector {...props} handle={handle} path={path} />),
    wall: () => found(study.walls, "walls", (wall, path) => <WallInspector {...props} wall={wall} path={path} />),
    spring: () => found(study.springs, "springs", (spring, path) => <SpringInspector {...props} spring={spring} path={path} />),
    link: () => found(study.links, "links", (link, path) => <LinkInspector {...props} link={link} path={path} />),
  };
  return (selected.kind !== "study" && inspectors[selected.kind]()) || <StudyInspector {...props} />;
}

/** Kind and name at the head of an inspector. */
export function Head({ kind, name }: { kind: string; name: string }) {
  return (
    <header className="pb-1">
      <p className="text-[12px] font-semibold tracking-wide text-quiet">{kind}</p>
      <h2 className="text-[17px] leading-6 font-semibold">{name}</h2>
    </header>
  );
}

/** Takes the selected item out of the study. */
export function TakeOut({ path, name, onEdit }: { path: string; name: string; onEdit: EditFn }) {
  const { select } = useSelection();
  const go = () => onEdit([{ op: "remove", path }], `Take out ${name}`).then(() => select({ kind: "study", id: "" }));
  return <Button tone="danger" className="mt-2 self-start" onClick={() => void go()}>Take it out</Button>;
}

/** A patch that sets an entry whether or not it was there. */
export const put = (path: string, value: unknown): PatchStep => ({ op: "add", path, value });
