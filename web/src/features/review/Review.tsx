import { useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";

import { ApiProblem, type RunInfo, type StudyInfo } from "@/api/client";
import { isActive, useEdits, useHistory, useLedger, useRunDocument, useRunScene, useRuns } from "@/api/hooks";
import { useSettled } from "@/api/settling";
import { standsFor } from "@/api/units";
import { Board, boardHeight } from "@/features/board/Board";
import { Reckonings } from "@/features/Reckonings";
import { bodyName, partOf } from "@/features/items";
import { useSelection } from "@/features/selection";
import { CutControl, CutSwitch, useCut } from "@/scene/CutControl";
import type { Vec } from "@/scene/drawSigns";
import { Stage, type StageCamera, type StageLabel } from "@/scene/Stage";
import { halvesOf } from "@/scene/mirrors";
import type { Read } from "@/scene/Stage3D";
import { ViewTie } from "@/scene/viewTie";
import { tellProblem } from "@/ui/notices";
import { Select } from "@/ui/Select";
import { Workroom } from "@/ui/Workroom";

import { AlongBeam } from "./AlongBeam";
import { AlongOutline } from "./AlongOutline";
import { AxisSelect } from "./AxisSelect";
import { Beside, type Seen } from "./Beside";
import { Curves } from "./Curves";
import { DetailPanel } from "./DetailPanel";
import { fieldsOf, type Shown } from "./fields";
import { Flow } from "./Flow";
import { HandOn, type PictureOrder } from "./HandOn";
import { checksOf, useHandChecks } from "./handChecks";
import { HotSpots } from "./HotSpots";
import { Imprint } from "./Imprint";
import { ImprintProfile } from "./ImprintProfile";
import { LedgerPanel } from "./LedgerPanel";
import { Legend, StatusLegend } from "./Legend";
import { PathPanel, asEnds } from "./PathPanel";
import { captioned } from "./picture";
import { saveFile } from "./quantities";
import { extremeLabels, pinLabels, placeOfPin, readingAt, singularLabels } from "./readings";
import { RunCard, runName } from "./RunCard";
import { SurfaceControl } from "./SurfaceControl";
import { useCutFace, useHotSpots, useOverFace, usePath, useSingular, useSurface, useThrough } from "./useInside";
import { ToolButtons } from "./ToolButtons";
import { useReviewLook } from "./useReviewLook";
import { useStrokes } from "./useStrokes";
import { useWhatIf } from "./useWhatIf";
import { WhatIf } from "./WhatIf";
import { useTools } from "./useTools";

const NOTHING = { colours: [], looks: [], highlights: [], showMesh: false, scale: 1 };
const SCALES = [1, 10, 50, 200].map((s) => ({ value: String(s), label: s === 1 ? "true scale" : `moved ×${s}` }));
const BELOW_STAGE = { board: "Board", curves: "Curves", flow: "Flow" } as const;
/** What curves and the flow of force need to be read, however few lanes the board has. */
const ROOM_BELOW = 190;
const PLAY_MS = 450;
const NO_LABELS: StageLabel[] = [];
const NO_LINES: Vec[][] = [];

/** What came back: ledger, fields on the stage, numbers, and the board as time scrubber. */
export function Review({ info }: { info: StudyInfo }) {
  const runs = useRuns(info.id);
  const { edit } = useEdits(info.id);
  const [chosenRun, setChosenRun] = useState<number>();
  const withResults = (runs.data ?? []).filter((r) => r.increments > 0);
  const base = withResults.find((r) => r.id === chosenRun) ?? withResults[0];
  const whatIf = useWhatIf(base);
  const run = whatIf.answer ?? base;
  const settled = useSettled(run, false);
  const solved = useRunDocument(run?.id);
  const history = useHistory(run?.id, run?.increments ?? 0);
  const count = history.data?.length ?? 0;
  const [head, setHead] = useState<number>();
  const [playing, setPlaying] = useState(false);
  const [scale, setScale] = useState("1");
  // As it was solved: the study may have been edited since.
  const { document: study, amounts } = solved.data ?? info;
  const firstPair = study.pairs?.[0]?.id;
  const [chosen, setChosen] = useState<Shown>();
  const fallback = useRef<Shown>({ kind: "part", part: undefined, field: "von_mises" });
  if (firstPair && fallback.current.kind === "part")
    fallback.current = { kind: "pair", pair: firstPair, field: "pressure" };
  const shown = chosen ?? fallback.current;
  const at = count ? Math.min(head ?? count - 1, count - 1) : undefined;
  const ledger = useLedger(run?.id, at);
  const [beside, setBeside] = useState<Seen>();
  const other = whatIf.answer && base && at !== undefined ? { run: base.id, increment: at } : beside;
  const before = useLedger(other?.run, other?.increment).data;
  const checks = useHandChecks(run?.id, at);
  const tools = useTools();
  const { sight, see } = useSelection();
  const block = useRunScene(base?.id, at !== undefined).data;
  const cut = useCut(block);
  const cutFace = useCutFace(run?.id, at, shown, cut.plane?.cut, Number(scale));
  const fieldKey = `${shown.kind}/${shown.field}`;
  const own = tools.own[fieldKey];
  const surface = useSurface(run?.id, at, shown, tools.level, Number(scale));
  const view = useReviewLook({
    ...{ study, head: at, shown, scale: Number(scale), own, cutFace: surface ? undefined : cutFace, surface },
    ...{
      runId: run?.id,
      sceneOf: base?.id,
      mirrors: tools.mirrors,
      ring: tools.ring,
      apart: tools.apart,
      isSolid: tools.isSolid,
    },
    ...{ isLog: tools.logs[fieldKey], showsStart: tools.showsStart, sight },
  });
  const strokes = useStrokes(run?.id, at, shown, view, tools.isDirected);
  const [tie] = useState(() => new ViewTie());
  const path = usePath(run?.id, at, shown, asEnds(tools.ends, tools.isEdge));
  const singular = useSingular(run?.id, at, shown, Number(scale), tools.showsSingular).data;
  const pathLines = useMemo(() => {
    const sharp = tools.showsSingular && shown.kind === "part" ? (singular ?? []) : [];
    const lines = sharp.flatMap((place) => place.lines as Vec[][]);
    if (!path.data || !asEnds(tools.ends, tools.isEdge)) return lines.length ? lines : NO_LINES;
    return [...lines, tools.isEdge ? (path.data.at as Vec[]) : tools.ends];
  }, [path.data, tools.ends, tools.isEdge, tools.showsSingular, shown.kind, singular]);
  const spots = useHotSpots(run?.id, at, shown);
  const cutPart = shown.kind === "part" ? shown.part : undefined;
  const through = useThrough(run?.id, at, cutPart, cut.plane?.cut);
  const [below, setBelow] = useState<"board" | "curves" | "flow">("board");
  const [picked, setPicked] = useState<Picked>();
  const overFace = useOverFace(run?.id, at, picked?.face);
  const camera = useRef<StageCamera>(null);
  const halves = useMemo(() => (block ? halvesOf(block) : undefined), [block]);

  useEffect(() => {
    if (!playing || !count) return;
    const timer = window.setInterval(() => setHead((h) => ((h ?? count - 1) + 1) % count), PLAY_MS);
    return () => window.clearInterval(timer);
  }, [playing, count]);

  if (runs.isPending || (run && history.isPending)) return <p className="p-6 text-quiet">Fetching the results…</p>;
  if (!run || at === undefined || !history.data) {
    return <p className="grid flex-1 place-items-center">There is nothing to review yet: run the study first.</p>;
  }
  const now = history.data[at];
  const title =
    shown.kind === "pair"
      ? study.pairs?.find((p) => p.id === shown.pair)?.name
      : shown.part === undefined
        ? "all parts"
        : study.parts?.find((p) => p.id === shown.part)?.name;

  const ledgerPanel = (
    <div tabIndex={0} className="h-full overflow-auto">
      <div className="flex justify-between px-4 pt-2">
        <h2 className="text-[12px] font-semibold tracking-wide text-quiet">Ledger</h2>
        <span className="text-[12.5px] text-quiet">
          {withResults.length > 1 ? (
            <Select
              label="Run"
              hideLabel
              value={String(base?.id)}
              options={withResults.map((r) => ({ value: String(r.id), label: runName(r) }))}
              onChange={(id) => setChosenRun(Number(id))}
            />
          ) : (
            runName(base ?? run)
          )}
          {run.revision !== info.revision && <b className="text-copper"> · study edited since</b>}
        </span>
      </div>
      <Notes run={base ?? run} latest={runs.data?.[0]} problem={ledger.error} />
      {base && <WhatIf key={base.id} info={info} base={base} asked={whatIf} />}
      {ledger.data && (
        <LedgerPanel
          ledger={ledger.data}
          settled={settled.data}
          checks={checks.data}
          before={other && before}
          beforeWord={whatIf.answer ? "was" : "beside"}
          shown={shown}
          onShow={setChosen}
          onMend={(patch, label) => edit.mutateAsync({ patch, label })}
        />
      )}
    </div>
  );
  const isStatus = shown.field === "status";
  const titleOfPicture = `${view?.meaning.label ?? ""}: ${title ?? ""}`;
  const takePicture = async (asked: PictureOrder) => {
    const taken = camera.current?.(asked.width);
    if (!taken || !view) return;
    const { factor, unit: read } = standsFor(view.meaning.spoken);
    const { low, high, signed, marksBeyond = false, isLog = false } = view.limits;
    const picture = await captioned(taken.still, asked.width, {
      title: asked.title,
      corner: asked.corner,
      below: `${study.title} · run ${run.id}, r${run.revision} · increment ${at + 1} · ${SCALES.find((s) => s.value === scale)?.label}`,
      labels: taken.labels,
      ...(shown.field !== "status" && {
        legend: { low: low * factor, high: high * factor, unit: read, signed, marksBeyond, isLog },
      }),
    });
    saveFile("picture.png", picture);
  };
  // Of one part that is shown: its bodies that are led as beams.
  const beams =
    shown.kind === "part" && shown.part !== undefined
      ? Object.entries(now?.parts ?? {}).flatMap(([body, p]) =>
          p.section_forces && partOf(body) === shown.part ? [body] : [],
        )
      : [];
  const numbers = (
    <div tabIndex={0} className="h-full overflow-auto">
      {view?.look.patch && shown.kind === "pair" && view.block.patches[view.look.patch.index] && (
        <div className="px-4 pt-2">
          <h2 className="pb-1 text-[12px] font-semibold tracking-wide text-quiet">
            {view.block.solid ? "Along its outline" : "Imprint"}
          </h2>
          {view.block.solid ? (
            <AlongOutline run={run.id} increment={at} pair={shown.pair} name={title ?? shown.pair} />
          ) : (
            <>
              <Imprint
                patch={view.block.patches[view.look.patch.index]!}
                values={view.look.patch.values}
                limits={view.limits}
                unit={view.meaning.spoken}
                isStatus={view.look.patch.status}
              />
              {!isStatus && (
                <ImprintProfile
                  key={shown.pair}
                  run={run.id}
                  increment={at}
                  pair={shown.pair}
                  name={title ?? shown.pair}
                  meaning={view.meaning}
                />
              )}
            </>
          )}
        </div>
      )}
      {view && shown.kind === "part" && (tools.tool === "path" || tools.ends.length > 0) && (
        <div className="px-4 pt-2">
          <PathPanel
            study={study}
            ends={tools.ends}
            onEnds={tools.setEnds}
            goesOn={tools.goesOn}
            onGoesOn={tools.setGoesOn}
            isEdge={tools.isEdge}
            onEdge={tools.setEdge}
            onClose={() => {
              tools.setEnds([]);
              tools.setEdge(false);
              tools.setTool("choose");
            }}
            inward={tools.inward}
            found={path}
            meaning={view.meaning}
          />
        </div>
      )}
      <div className="px-4">
        <Reckonings checks={checksOf(study, checks.data ?? [], shown)} />
      </div>
      {now && (
        <DetailPanel
          study={study}
          now={now}
          shown={shown}
          rows={ledger.data?.rows ?? []}
          through={cut.plane && through.data}
          sight={sight}
          onSight={see}
          mirrors={tools.mirrors}
          overFace={picked?.face && overFace.data ? { face: picked.face, found: overFace.data } : undefined}
        />
      )}
      {beams.map((body) => (
        <div key={body} className="px-4">
          <AlongBeam run={run.id} increment={at} body={body} name={bodyName(study, body)} />
        </div>
      ))}
      <div className="px-4">
        <HandOn
          run={run}
          shown={shown}
          scale={Number(scale)}
          isSolid={tools.isSolid}
          limits={own && [own.low, own.high]}
          isLog={view?.limits.isLog ?? false}
          camera={camera}
          title={titleOfPicture}
          onPicture={takePicture}
        />
      </div>
      {view && shown.kind === "part" && (
        <div className="px-4">
          <HotSpots study={study} spots={spots.data} meaning={view.meaning} onGo={tools.goTo} />
        </div>
      )}
      <div className="px-4 pb-3">
        <RunCard
          key={(base ?? run).id}
          run={base ?? run}
          earlier={withResults.find((r) => r.id < (base ?? run).id)}
          onRemoved={() => setChosenRun(undefined)}
        />
      </div>
    </div>
  );
  const switches = (
    <span role="group" aria-label="Below the stage" className="flex gap-2">
      {(["board", "curves", "flow"] as const).map((which) => (
        <button
          key={which}
          type="button"
          aria-pressed={below === which}
          className={below === which ? "font-semibold" : "text-verdigris hover:underline"}
          onClick={() => setBelow(which)}
        >
          {BELOW_STAGE[which]}
        </button>
      ))}
    </span>
  );
  const sequence =
    below === "board" ? (
      <Board
        study={study}
        amounts={amounts}
        aside={switches}
        results={{ history: history.data, head: at, onHead: setHead }}
      />
    ) : (
      <div className="flex h-full min-h-0 flex-col bg-paper">
        <div className="flex items-center gap-3 px-3 pt-1 text-[13px]">
          <h2 className="text-[12px] font-semibold tracking-wide text-quiet">{BELOW_STAGE[below]}</h2>
          {switches}
        </div>
        <div className="flex min-h-0 flex-1">
          {below === "curves" ? (
            <div className="min-w-0 flex-1">
              <Curves
                study={study}
                history={history.data}
                head={at}
                onHead={setHead}
                others={withResults.filter((r) => r.id !== run.id)}
              />
            </div>
          ) : (
            now && <Flow study={study} now={now} />
          )}
        </div>
      </div>
    );
  const unit = view?.meaning.spoken ?? "";
  const middle = view
    ? (view.limits.signed ? view.limits.high / 2 : (view.limits.low + view.limits.high) / 2) / view.meaning.factor
    : 0;
  const labels =
    view && !isStatus
      ? [
          ...(tools.marksExtremes && !view.isQuiet
            ? extremeLabels(view, unit, view.meaning.is_signed, view.meaning.quiet * view.meaning.factor).map((l) =>
                l.id === "highest" && spots.data?.[0]?.singular ? { ...l, text: `${l.text} · singular` } : l,
              )
            : []),
          ...pinLabels(view, tools.pins, unit),
          ...(tools.showsSingular && shown.kind === "part" ? singularLabels(singular ?? []) : []),
          // Where faces are that met is known as they truly stand.
          ...(scale === "1" ? (now?.met ?? []) : []).map((meeting, i) => ({
            id: `met-${i}`,
            at: meeting.at,
            text: "met, in no pair",
            tone: "load" as const,
          })),
        ]
      : NO_LABELS;
  const pinned = view ? tools.pins.flatMap((pin) => placeOfPin(view, pin) ?? []).slice(-3) : [];
  const press = (read: Read | undefined) => {
    if (!read) return;
    if (tools.tool === "read") {
      const { place, body } = read;
      if (place) return tools.pin({ body, place });
      return tellProblem(new Error("Readings are pinned on surfaces. Inside, a path shows the field."));
    }
    const body = view?.block.bodies.find((b) => b.name === read.body);
    const isOnSkin = study.space === "solid" && body && read.place;
    tools.setEnd(read.point.toArray(), isOnSkin ? normalAt(body.positions, isOnSkin.corners) : undefined);
  };

  return (
    <Workroom
      name="review"
      left={{ label: "the ledger", size: 346, least: 260, children: ledgerPanel }}
      right={{ label: "the numbers", size: 290, least: 240, children: numbers }}
      bottom={{ label: "the sequence", size: Math.max(boardHeight(study), ROOM_BELOW), least: 90, children: sequence }}
    >
      <>
        <div className="min-w-0 flex-1">
          <Stage
            block={view?.block}
            look={view?.look ?? NOTHING}
            isStale={view?.isStale ?? false}
            cut={cut.plane?.cut}
            hasLegend
            movesLabels
            grip={cut.grip}
            camera={camera}
            labels={labels}
            lines={pathLines}
            strokes={strokes}
            tie={tie}
            {...(tools.focus && { focus: tools.focus })}
            {...(view && !isStatus && { readOf: (read: Read) => readingAt(view, read, unit) })}
            {...(tools.tool !== "choose" && { onRead: press })}
            onPick={(pick) => {
              const body = view?.block.bodies.find((b) => b.name === pick?.body);
              setPicked(
                pick?.place && body
                  ? {
                      point: pick.point.toArray(),
                      normal: normalAt(body.positions, pick.place.corners),
                      face: study.space === "solid" && pick.face ? `${pick.body}/${pick.face}` : undefined,
                    }
                  : undefined,
              );
              setChosen({
                kind: "part",
                part: pick?.body.split("#")[0],
                field: shown.kind === "part" ? shown.field : "von_mises",
              });
            }}
          >
            <div className="absolute inset-x-4 top-2 flex items-start justify-between gap-4">
              <p
                className="min-w-0 truncate pt-1"
                data-testid="shown"
                data-shown={`${shown.kind}/${shown.kind === "pair" ? shown.pair : (shown.part ?? "all")}/${shown.field}/${at}`}
              >
                <b>{view?.meaning.label ?? "…"}</b>{" "}
                <span className="text-quiet">
                  on {title} · increment {at + 1}
                </span>
              </p>
              <div className="flex shrink-0 items-center gap-2">
                <Select
                  label="Field"
                  hideLabel
                  value={shown.field}
                  options={fieldsOf(shown.kind).map((f) => ({ value: f.name, label: f.label }))}
                  onChange={(field) => setChosen({ ...shown, field })}
                />
                <Select label="Motion" hideLabel value={scale} options={SCALES} onChange={setScale} />
              </div>
            </div>
            <div className="absolute top-11 right-4 left-4 flex flex-wrap items-center justify-end gap-2">
              {shown.kind === "part" && view?.meaning.is_about_axis && (
                <AxisSelect about={shown.about} onAbout={(about) => setChosen({ ...shown, about })} />
              )}

              <ToolButtons
                tools={tools}
                isOfParts={shown.kind === "part"}
                halves={halves}
                isSection={!!block?.solid}
                hasSeveral={(block?.bodies.length ?? 0) > 1}
                middle={middle}
              />
              {cut.section && pinned.length === 3 && (
                <button
                  type="button"
                  className="text-[13px] text-verdigris hover:underline"
                  onClick={() => cut.cutAlong(pinned[0]!, acrossOf(pinned))}
                >
                  through the three readings
                </button>
              )}
              {cut.section && picked && (
                <button
                  type="button"
                  className="text-[13px] text-verdigris hover:underline"
                  onClick={() => cut.cutAlong(picked.point, picked.normal)}
                >
                  along the picked face
                </button>
              )}
              {study.space === "solid" && <CutSwitch {...cut} />}
              <div className="flex basis-full flex-col items-end gap-2 empty:hidden">
                <CutControl {...cut} place="ml-auto w-fit" />
                {tools.level !== undefined && view && shown.kind === "part" && (
                  <SurfaceControl
                    level={tools.level}
                    onLevel={tools.setLevel}
                    meaning={view.meaning}
                    limits={view.limits}
                  />
                )}
              </div>
            </div>
            {view &&
              (isStatus ? (
                <StatusLegend />
              ) : (
                <Legend
                  {...view.limits}
                  unit={unit}
                  isQuiet={view.isQuiet}
                  own={own}
                  onOwn={(next) => tools.setOwn({ ...tools.own, [fieldKey]: next })}
                  onLog={(isLog) => tools.setLogs({ ...tools.logs, [fieldKey]: isLog })}
                />
              ))}
            <button
              type="button"
              onClick={() => setPlaying(!playing)}
              className="absolute right-4 bottom-3 rounded-md border border-line bg-paper px-3 py-1 hover:bg-verdigris-pale"
            >
              {playing ? "Pause" : "Play"}
            </button>
          </Stage>
        </div>
        {tools.isBeside && now && (
          <Beside
            runs={whatIf.answer ? [...withResults, whatIf.answer] : withResults}
            run={run}
            time={now.step + now.time}
            shown={shown}
            scale={Number(scale)}
            limits={view?.limits}
            isSolid={tools.isSolid}
            mirrors={tools.mirrors}
            tie={tie}
            onSeen={setBeside}
          />
        )}
      </>
    </Workroom>
  );
}

/** The direction across the plane through three points. */
function acrossOf(points: Vec[]): Vec {
  const [a, b, c] = points.map((p) => new THREE.Vector3(...p));
  return b!.sub(a!).cross(c!.sub(a!)).normalize().toArray();
}

type Picked = { point: Vec; normal: Vec; face: string | undefined };

/** The outward normal of a triangle of a skin. */
function normalAt(positions: Float32Array, corners: readonly [number, number, number]): Vec {
  const [a, b, c] = corners.map((v) => new THREE.Vector3().fromArray(positions, 3 * v));
  return b!.sub(a!).cross(c!.sub(a!)).normalize().toArray();
}

/** What must be known before the figures are read: a later run that came to nothing, a result that cannot be read. */
function Notes({ run, latest, problem }: { run: RunInfo; latest: RunInfo | undefined; problem: Error | null }) {
  const ended = latest && !isActive(latest.status);
  return (
    <>
      {latest && latest.id !== run.id && (
        <p
          role="alert"
          className="mx-3 mt-2 border-l-[3px] border-vermilion bg-paper px-3 py-1.5"
          data-testid="older-run"
        >
          These are the results of run {run.id}. The latest, run {latest.id},{" "}
          {ended ? `has none: ${latest.message}` : "has none yet."} {latest.hint}
        </p>
      )}
      {latest?.id === run.id && latest.status !== "solved" && ended && (
        <p
          role="alert"
          className="mx-3 mt-2 border-l-[3px] border-copper bg-paper px-3 py-1.5"
          data-testid="unfinished-run"
        >
          Run {run.id} did not come to its end: {latest.message} What had converged before is shown.
        </p>
      )}
      {problem && (
        <p role="alert" className="px-4 pt-2 text-vermilion">
          {problem.message} {problem instanceof ApiProblem && problem.hint}
        </p>
      )}
    </>
  );
}
