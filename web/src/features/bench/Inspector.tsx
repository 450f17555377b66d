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
  const at = <T extends { id: string }>(list: T[] | undefined) => (list ?? []).findIndex((item) => item.id === selected.id);
  switch (selected.kind) {
    case "part": {
      const i = at(study.parts);
      const part = study.parts?.[i];
      if (part) return <PartInspector {...props} part={part} path={`/parts/${i}`} face={selected.face} />;
      break;
    }
    case "pair": {
      const i = at(study.pairs);
      const pair = study.pairs?.[i];
      if (pair) return <PairInspector {...props} pair={pair} path={`/pairs/${i}`} />;
      break;
    }
    case "bolt": {
      const i = at(study.bolts);
      const bolt = study.bolts?.[i];
      if (bolt) return <BoltInspector {...props} bolt={bolt} path={`/bolts/${i}`} />;
      break;
    }
    case "support": {
      const i = at(study.supports);
      const support = study.supports?.[i];
      if (support) return <SupportInspector {...props} support={support} path={`/supports/${i}`} />;
      break;
    }
    case "load": {
      const i = at(study.loads);
      const load = study.loads?.[i];
      if (load) return <LoadInspector {...props} load={load} path={`/loads/${i}`} />;
      break;
    }
    case "step": {
      const i = at(study.steps);
      const step = study.steps?.[i];
      if (step) return <StepInspector {...props} step={step} path={`/steps/${i}`} />;
      break;
    }
    case "handle": {
      const i = at(study.handles);
      const handle = study.handles?.[i];
      if (handle) return <HandleInspector {...props} handle={handle} path={`/handles/${i}`} />;
      break;
    }
    case "wall": {
      const i = at(study.walls);
      const wall = study.walls?.[i];
      if (wall) return <WallInspector {...props} wall={wall} path={`/walls/${i}`} />;
      break;
    }
    case "spring": {
      const i = at(study.springs);
      const spring = study.springs?.[i];
      if (spring) return <SpringInspector {...props} spring={spring} path={`/springs/${i}`} />;
      break;
    }
    case "link": {
      const i = at(study.links);
      const link = study.links?.[i];
      if (link) return <LinkInspector {...props} link={link} path={`/links/${i}`} />;
      break;
    }
    default:
  }
  return <StudyInspector {...props} />;
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
