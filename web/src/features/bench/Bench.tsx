import { useEffect, useMemo, useState } from "react";

import type { Manner, PartUse, PlacedDimension, StudyDocument, StudyInfo } from "@/api/client";
import {
  useDimensions,
  useEdits,
  useGapScene,
  useMeasured,
  useMeshReport,
  usePreflight,
  useRecipes,
  useStudyScene,
} from "@/api/hooks";
import { Board, boardHeight } from "@/features/board/Board";
import { type Command, useCommands } from "@/features/commands";
import { type NamedKind, nameOf, bodyName } from "@/features/items";
import { partsSelected, type Selected, selectionOf, useSelection, withPart } from "@/features/selection";
import { CutControl, CutSwitch, useCut } from "@/scene/CutControl";
import { type Hand, type Keys, Stage } from "@/scene/Stage";
import { Button } from "@/ui/Button";
import { tell } from "@/ui/notices";
import { Workroom } from "@/ui/Workroom";

import { BendBar } from "@/features/draw/BendBar";
import { DrawPart } from "@/features/draw/DrawPart";

import { AddPart } from "./AddPart";
import { benchLook, neighbours, type Peek, smoothFaces } from "./benchLook";
import { type EditFn, entryAt, put } from "./edits";
import { toggled } from "./FaceList";
import { GapBar } from "./GapBar";
import { gapLook } from "./gapLook";
import { FindPairs } from "./FindPairs";
import { settled, takenApart } from "./handMove";
import { Inspector } from "./Inspector";
import { jointGraph } from "./jointGraph";
import { JointMaking } from "./JointMaking";
import { JointMap } from "./JointMap";
import { MateBar } from "./MateBar";
import { measureLabels, MeasurePanel } from "./MeasurePanel";
import { Meshing } from "./Meshing";
import { MeshPanel, worstLabels } from "./MeshPanel";
import { PairingBar } from "./PairingBar";
import { PairTable } from "./PairTable";
import { type Peel, PeelMenu } from "./PeelMenu";
import { DIMENSION, dimensionSigns, signsOf } from "./signs";
import { StepImport } from "./StepImport";
import { useJointDraft } from "./useJointDraft";

/** Height of the list of found pairs under the stage, in pixels. */
const PAIRS_HEIGHT = 252;
const NOTHING: Selected = { kind: "study", id: "" };
/** What bends less (degrees) continues a face. */
const SMOOTH = 20;

/** Where a study is built: joint map, stage, inspector and sequence board, linked by selection. */
export function Bench({ info }: { info: StudyInfo }) {
  const study = info.document;
  const {
    selected,
    select,
    mating,
    mate: wait,
    gathering,
    gather,
    measured,
    measure,
    sight,
    see,
    swing,
    show,
    isMoving,
    joining,
    join,
    drawing,
    draw,
    pairing,
    pair,
  } = useSelection();
  const drawn = study.parts?.find((p) => p.id === drawing?.part);
  const { edit, mate, movePart } = useEdits(info.id);
  const [dialog, setDialog] = useState<"part" | "file" | "pairs" | "table" | undefined>(() =>
    new URLSearchParams(window.location.search).get("begin") === "file" ? "file" : undefined,
  );
  const recipes = useRecipes();
  const preflight = usePreflight(info.id, info.revision);
  const [showMesh, setShowMesh] = useState(false);
  const [showSigns, setShowSigns] = useState(true);
  const [showSizes, setShowSizes] = useState(false);
  const [showReport, setShowReport] = useState(false);
  const [apart, setApart] = useState(0);
  const [dimension, setDimension] = useState<string>();
  const [manner, setManner] = useState<Manner>("flush");
  const [peek, setPeek] = useState<Peek>();
  const [peel, setPeel] = useState<Peel>();
  const shape = JSON.stringify((study.parts ?? []).map((p) => [p.id, p.recipe, p.mesh, p.placements, p.regions]));
  const scene = useStudyScene(info.id, shape);
  const draft = useJointDraft(info);
  /** What is on the stage: the study, or as it would be with the joint that is being made. */
  const shown = draft?.scene ?? scene.data;
  const graph = useMemo(
    () => jointGraph(study, scene.data?.bricks ?? {}, preflight.data, info.asleep),
    [study, scene.data, preflight.data, info.asleep],
  );
  const look = useMemo(
    () =>
      shown
        ? benchLook(study, shown, joining ? NOTHING : selected, {
            showMesh,
            sight,
            asleep: info.asleep?.part,
            swing,
            peek:
              peek ??
              (pairing && { a: pairing.a, b: pairing.b, isOnParts: true }) ??
              (joining && { a: joining.faces.filter((f) => f.includes("/")), b: [], isOnParts: true }) ??
              (measured && { a: measured.slice(0, 1), b: measured.slice(1), isOnParts: true }),
            fresh: draft?.info?.bodies,
          })
        : undefined,
    [
      study,
      shown,
      selected,
      showMesh,
      sight,
      peek,
      measured,
      info.asleep,
      swing,
      joining,
      pairing,
      draft?.info?.bodies,
    ],
  );
  const placed = useMemo(
    () => (look && shown && apart > 0 ? { ...look, offsets: takenApart(shown, apart) } : look),
    [look, shown, apart],
  );
  const [showGap, setShowGap] = useState(false);
  const [isCounted, setIsCounted] = useState(false);
  const gapOf = showGap && selected.kind === "pair" && !draft ? selected.id : undefined;
  const gaps = useGapScene(info.id, info.revision, gapOf, isCounted);
  const cut = useCut(shown);
  const gap = useMemo(
    () => (gapOf !== undefined && gaps.data ? gapLook(study, gaps.data, cut.plane?.cut) : undefined),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the plane is made anew each time
    [gapOf, gaps.data, study, cut.plane?.cut.join()],
  );
  const figures = useMeasured(info.id, shape, study.space === "solid" ? measured : undefined);
  const report = useMeshReport(info.id, JSON.stringify([shape, study.element_budget]), showReport);
  const labels = useMemo(() => {
    if (gap) return gap.labels;
    if (measured) return measureLabels(figures.data);
    if (showReport) return worstLabels(report.data, selected.kind === "part" ? selected.id : undefined);
    return undefined;
  }, [showReport, report.data, selected, measured, figures.data, gap]);
  const looked = showSizes && partsSelected(selected).length === 1 && !selected.face ? selected.id : undefined;
  const dimensions = useDimensions(info.id, looked, selected.copy ?? 1, shape);
  const signs = useMemo(() => {
    if (!scene.data || !showSigns || labels || apart > 0 || joining) return undefined;
    // A part that is looked at shows its dimensions in the place of what acts.
    if (dimensions.data?.length) return dimensionSigns(dimensions.data);
    // Handles are many: only the one that is looked at bears its name.
    return signsOf(study, scene.data, info.asleep).map((sign) =>
      sign.id.startsWith("handle/") && sign.id !== `${selected.kind}/${selected.id}` ? { ...sign, text: "" } : sign,
    );
  }, [study, scene.data, info.asleep, showSigns, labels, selected, apart, dimensions.data, joining]);
  useEffect(() => setDimension(undefined), [selected]);
  useEffect(() => {
    see({});
    measure(undefined);
  }, [info.id, see, measure]);
  const unseen = (study.parts ?? []).filter((p) => sight[p.id] === "hidden").length;
  const faces = useMemo(
    () =>
      Object.fromEntries(
        (scene.data?.bodies ?? []).map((b): [string, string[]] => [b.name.split("#")[0] ?? "", b.faces]),
      ),
    [scene.data],
  );
  const onMate = (face: string) =>
    mating && mate.mutate({ own: mating, other: face, manner }, { onSuccess: () => wait(undefined) });
  const onEdit: EditFn = (patch, label) => edit.mutateAsync({ patch, label });
  const onTake = (body: string, face: string | undefined, keys?: Keys, at?: Selected["at"]) => {
    const [id = "", copy] = body.split("#");
    const part = { kind: "part" as const, id, ...(copy && { copy: Number(copy) }) };
    if (face === undefined) return (gathering ?? mating ?? measured ?? joining ?? pairing) ? undefined : select(part);
    const reference = `${body}/${face}`;
    if (joining) return join({ ...joining, faces: toggled(joining.faces, reference) });
    if (pairing) return pair({ ...pairing, [pairing.side]: toggled(pairing[pairing.side], reference) });
    if (measured)
      return measure(measured.length === 1 && measured[0] !== reference ? [...measured, reference] : [reference]);
    if (mating) return onMate(reference);
    if (gathering) {
      const held = entryAt(study, gathering) as string[] | string | null | undefined;
      if (typeof held === "string" || held === null) {
        // An entry of one face: it is picked, and that is all.
        gather(undefined);
        return tell(onEdit([put(gathering, reference)], "Face"));
      }
      const faces = held ?? [];
      const more = keys?.smooth && scene.data ? smoothFaces(scene.data, body, face, SMOOTH) : undefined;
      const next = more ? [...new Set([...faces, ...more.map((f) => `${body}/${f}`)])] : toggled(faces, reference);
      return tell(onEdit([put(gathering, next)], "Faces"));
    }
    if (keys?.more) return select(withPart(selected, id));
    return select({ ...part, face, ...(at && { at }) });
  };
  const part = partsSelected(selected).length === 1 ? study.parts?.find((p) => p.id === selected.id) : undefined;
  const handOf = (moved: PartUse): Hand => {
    const count = moved.placements?.length ?? 1;
    const copy = Math.min(selected.copy ?? 1, count);
    const body = count > 1 ? `${moved.id}#${copy}` : moved.id;
    return {
      body,
      settle: (by, axis, reach) =>
        scene.data ? settled(scene.data, body, by, axis, reach, (b) => bodyName(study, b)) : { by, says: "" },
      onMoved: ([x, y, z]) => tell(movePart.mutateAsync({ part: moved.id, copy_number: copy, by: [x, y, z] })),
    };
  };
  const entryOf = (all: PlacedDimension[] | undefined, id: string | undefined) => {
    const found = all?.find((d) => `${DIMENSION}${d.name}` === id);
    if (!found || !part || id === undefined) return undefined;
    const path = `/parts/${(study.parts ?? []).indexOf(part)}/recipe/dimensions/${found.name}`;
    return {
      id,
      label: found.label,
      value: found.written,
      onCommit: (text: string) => onEdit([put(path, text)], `${found.label} of ${part.name}`),
      onDone: () => setDimension(undefined),
    };
  };
  const flip = (what: string, isOn: boolean) => (isOn ? `Hide the ${what}` : `Show the ${what}`);
  useCommands("bench", [
    { key: "add", label: "Add a part", go: () => setDialog("part") },
    { key: "file", label: "Add parts from a STEP file", go: () => setDialog("file") },
    { key: "table", label: "All pairs", go: () => setDialog("table") },
    { key: "pairs", label: "Find pairs", go: () => setDialog("pairs") },
    { key: "pair", label: "Pair by hand", go: () => pair({ a: picked(study, selected, 0), b: [], side: "a" }) },
    ...(study.space === "solid"
      ? [{ key: "joint", label: "Make a joint", go: () => join({ faces: picked(study, selected), changes: {} }) }]
      : []),
    { key: "measure", label: measured ? "Stop measuring" : "Measure", go: () => measure(measured ? undefined : []) },
    { key: "mesh", label: flip("mesh", showMesh), go: () => setShowMesh(!showMesh) },
    { key: "signs", label: flip("signs", showSigns), go: () => setShowSigns(!showSigns) },
    {
      key: "sizes",
      label: flip("dimensions of the part that is selected", showSizes),
      go: () => setShowSizes(!showSizes),
    },
    { key: "report", label: flip("numbers of the mesh", showReport), go: () => setShowReport(!showReport) },
    { key: "all", label: "Show all parts", go: () => see({}) },
    ...(part ? commandsOf(part, (study.parts ?? []).indexOf(part), { sight, see, onEdit, study }) : []),
  ]);
  const elements = Object.values(scene.data?.bricks ?? {}).reduce((a, b) => a + b, 0);

  const map = (
    <div className="flex h-full flex-col pt-2">
      <div className="flex items-baseline justify-between gap-2 px-3 pb-1 whitespace-nowrap">
        <h2 className="sr-only">Joint map</h2>
        <button type="button" className="text-[13px] text-verdigris hover:underline" onClick={() => setDialog("part")}>
          Add a part
        </button>
        <button type="button" className="text-[13px] text-verdigris hover:underline" onClick={() => setDialog("file")}>
          From file
        </button>
        <button
          type="button"
          aria-pressed={!!joining}
          className="text-[13px] text-verdigris hover:underline disabled:text-quiet aria-pressed:font-semibold"
          disabled={study.space !== "solid" || !(study.parts ?? []).length}
          onClick={() => join(joining ? undefined : { faces: picked(study, selected), changes: {} })}
        >
          Make a joint
        </button>
        <button
          type="button"
          className="text-[13px] text-verdigris hover:underline disabled:text-quiet"
          disabled={(study.parts ?? []).length < 2}
          onClick={() => setDialog("pairs")}
        >
          Find pairs
        </button>
      </div>
      <JointMap study={study} graph={graph} />
    </div>
  );
  const inspector = draft ? (
    <JointMaking info={info} draft={draft} bodies={scene.data?.bodies ?? []} />
  ) : (
    <Inspector
      info={info}
      study={study}
      onEdit={onEdit}
      recipes={recipes.data ?? []}
      preflight={preflight.data}
      isChecking={preflight.isFetching}
      checkProblem={preflight.error}
      faces={faces}
      onMate={onMate}
      neighbours={(part, face) => neighbours(scene.data, part, face)}
    />
  );
  const close = () => setDialog(undefined);
  const board = (
    <Board
      study={study}
      amounts={info.amounts}
      asleep={info.asleep}
      onEdit={onEdit}
      aside={
        <button
          type="button"
          className="ml-auto text-[13px] whitespace-nowrap text-verdigris hover:underline disabled:text-quiet"
          disabled={!study.pairs?.length}
          onClick={() => setDialog("table")}
        >
          All pairs
        </button>
      }
    />
  );
  const sequence =
    dialog === "pairs" ? (
      <FindPairs info={info} onEdit={onEdit} onPeek={setPeek} onClose={close} />
    ) : dialog === "table" ? (
      <PairTable
        info={info}
        preflight={preflight.data}
        onEdit={onEdit}
        onFind={() => setDialog("pairs")}
        onClose={close}
      />
    ) : (
      board
    );

  return (
    <Workroom
      name="bench"
      left={{ label: "the joint map", size: 322, least: 200, children: map }}
      right={{ label: "the inspector", size: 300, least: 260, children: inspector }}
      bottom={{
        label: "the sequence",
        size: dialog === "pairs" || dialog === "table" ? PAIRS_HEIGHT : boardHeight(study),
        least: 90,
        children: sequence,
      }}
    >
      <Stage
        block={gap ? gaps.data : look && shown}
        isStale={scene.isFetching || !!draft?.isDrawing}
        hasLegend={!!gap}
        look={gap?.look ?? placed ?? { colours: [], looks: [], highlights: [], showMesh: false, scale: 1 }}
        labels={labels}
        signs={signs}
        entry={entryOf(dimensions.data, dimension)}
        onSign={(id) => {
          if (id.startsWith(DIMENSION)) return setDimension(id);
          const [kind, item = ""] = id.split("/");
          select({ kind: kind as NamedKind, id: item });
        }}
        onBand={(bodies) => select(selectionOf([...new Set(bodies.map((b) => b.split("#")[0] ?? b))]))}
        onPick={(pick, keys) => {
          // Where parts are taken apart, they do not stand where they are seen.
          if (pick) return onTake(pick.body, pick.face, keys, apart ? undefined : pick.point.toArray());
          if (keys.more || joining) return;
          if (measured) return measure([]);
          if (gathering) return gather(undefined);
          return mating ? wait(undefined) : select({ kind: "study", id: "" });
        }}
        nameOf={({ body, face }) => [bodyName(study, body), face].filter(Boolean).join(" · ")}
        onPeel={(picks, at) => setPeel({ picks, at })}
        cut={cut.plane?.cut}
        grip={cut.grip}
        sways={!!swing}
        hand={isMoving && part ? handOf(part) : undefined}
      >
        <div className="pointer-events-none absolute inset-x-4 top-2 flex justify-between gap-3 text-quiet">
          <span className="min-w-0 leading-tight break-words text-ink">{pickedText(study, selected)}</span>
          <span className="pointer-events-auto flex shrink-0 items-center gap-3 whitespace-nowrap">
            {unseen > 0 && (
              <button type="button" className="text-verdigris hover:underline" onClick={() => see({})}>
                {unseen} hidden, show all
              </button>
            )}
            <button
              type="button"
              aria-pressed={!!measured}
              title="Figures of one face or between two, and what is reckoned of them by hand"
              className="text-verdigris hover:underline aria-pressed:font-semibold"
              onClick={() => measure(measured ? undefined : [])}
            >
              measure
            </button>
            {study.space === "solid" && <CutSwitch {...cut} />}
            {(study.parts ?? []).length > 1 && (
              <label className="flex items-center gap-1.5">
                apart
                <input
                  type="range"
                  min={0}
                  max={1.5}
                  step={0.05}
                  value={apart}
                  className="w-12 accent-verdigris"
                  onChange={(e) => setApart(Number(e.target.value))}
                />
              </label>
            )}
            {selected.kind === "pair" && (
              <label className="flex items-center gap-1.5">
                <input type="checkbox" checked={showGap} onChange={(e) => setShowGap(e.target.checked)} /> gap
              </label>
            )}
            <label className="flex items-center gap-1.5">
              <input type="checkbox" checked={showMesh} onChange={(e) => setShowMesh(e.target.checked)} /> mesh
            </label>
            <label className="flex items-center gap-1.5">
              <input type="checkbox" checked={showSigns} onChange={(e) => setShowSigns(e.target.checked)} /> signs
            </label>
            <label className="flex items-center gap-1.5">
              <input type="checkbox" checked={showSizes} onChange={(e) => setShowSizes(e.target.checked)} /> sizes
            </label>
            <button
              type="button"
              aria-expanded={showReport}
              className="text-verdigris hover:underline"
              onClick={() => setShowReport(!showReport)}
            >
              {elements.toLocaleString("en").replace(",", " ")} elements
            </button>
          </span>
        </div>
        {swing && (
          <p
            role="status"
            className="absolute inset-x-0 top-9 mx-auto w-fit rounded border border-line bg-paper px-3 py-1"
          >
            {bodyName(study, swing.body)} can move like this.{" "}
            <button type="button" className="text-verdigris underline" onClick={() => show(undefined)}>
              Stop showing it
            </button>
          </p>
        )}
        {showReport && (
          <MeshPanel study={study} report={report.data} onEdit={onEdit} onClose={() => setShowReport(false)} />
        )}
        {gapOf !== undefined && <GapBar gap={gap} problem={gaps.error} isCounted={isCounted} onCount={setIsCounted} />}
        <PairingBar study={study} onEdit={onEdit} />
        <MateBar manner={manner} setManner={setManner} problem={mate.error} />
        <MeasurePanel info={info} found={figures.data} isPending={figures.isLoading} problem={figures.error} />
        <CutControl {...cut} />
        <PeelMenu
          peel={peel}
          nameOf={(body) => bodyName(study, body)}
          onPeek={(p) => setPeek(p && { a: [`${p.body}/${p.face}`], b: [] })}
          onTake={(p) => {
            setPeel(undefined);
            setPeek(undefined);
            onTake(p.body, p.face);
          }}
          onClose={() => {
            setPeel(undefined);
            setPeek(undefined);
          }}
        />
        {!(study.parts ?? []).length && (
          <div className="absolute inset-0 m-auto h-fit w-fit text-center">
            <p className="pb-3 text-[17px]">No parts yet.</p>
            <Button tone="main" onClick={() => setDialog("part")}>
              Add the first part
            </Button>{" "}
            <Button onClick={() => setDialog("file")}>From a STEP file</Button>
          </div>
        )}
        <p
          className={`pointer-events-none absolute bottom-3 left-4 text-[12.5px] text-quiet ${gap ? "invisible" : ""}`}
        >
          drag turns · wheel zooms · click picks {study.space === "solid" ? "a face" : "an edge"}, with shift parts,
          right what is under it · F frames · 1 2 3 4 views
        </p>
        <Meshing
          isWaiting={scene.isFetching || preflight.isFetching}
          parts={(study.parts ?? []).map((p) => p.name)}
          problems={scene.data?.problems ?? []}
        />
        {scene.error && <p className="absolute inset-x-4 top-8 text-vermilion">{scene.error.message}</p>}
      </Stage>
      {dialog === "part" && <AddPart info={info} recipes={recipes.data ?? []} onClose={() => setDialog(undefined)} />}
      {drawing?.kind === "drawn" && (
        <DrawPart info={info} part={drawn} on={drawing.on} onClose={() => draw(undefined)} />
      )}
      {drawing?.kind === "bent" && <BendBar info={info} part={drawn} on={drawing.on} onClose={() => draw(undefined)} />}
      {dialog === "file" && (
        // What was added may touch: that is looked for at once.
        <StepImport info={info} onClose={(added) => setDialog(added > 1 ? "pairs" : undefined)} />
      )}
    </Workroom>
  );
}

/**
 * What a joint begins with: the face or the parts that are selected, or the few parts (`most`) that there are. A pair
 * begins with a face only.
 */
function picked(study: StudyDocument, selected: Selected, most = 2): string[] {
  const { id, copy, face } = selected;
  if (face !== undefined) return [`${id}${copy === undefined ? "" : `#${copy}`}/${face}`];
  const parts = partsSelected(selected);
  if (parts.length > 1) return most ? parts : [];
  const all = study.parts ?? [];
  return all.length <= most && !study.joints?.length ? all.map((p) => p.id) : [];
}

type Means = Pick<ReturnType<typeof useSelection.getState>, "sight" | "see"> & { onEdit: EditFn; study: StudyDocument };

/** What can be done with the part that is selected. */
function commandsOf(part: PartUse, index: number, { sight, see, onEdit, study }: Means): Command[] {
  const others = (study.parts ?? []).filter((p) => p.id !== part.id);
  const change = part.in_analysis ? "Leave out" : "Take in";
  const edit = [put(`/parts/${index}/in_analysis`, !part.in_analysis)];
  return [
    { key: "hide", label: `Hide ${part.name}`, go: () => see({ ...sight, [part.id]: "hidden" }) },
    { key: "ghost", label: `See through ${part.name}`, go: () => see({ ...sight, [part.id]: "ghost" }) },
    { key: "only", label: `Only ${part.name}`, go: () => see(Object.fromEntries(others.map((p) => [p.id, "hidden"]))) },
    { key: "leave", label: `${change} ${part.name}`, go: () => tell(onEdit(edit, `${change} ${part.name}`)) },
  ];
}

function pickedText(study: StudyDocument, selected: Selected): string {
  if (selected.kind === "study") return "Nothing selected";
  if (selected.also) return `${selected.also.length + 1} parts`;
  const name = nameOf(study, selected.kind, selected.id);
  return selected.face ? `${name} · ${selected.face}` : name;
}
