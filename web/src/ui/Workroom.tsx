import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { Group, Panel, type PanelImperativeHandle, Separator, useDefaultLayout } from "react-resizable-panels";

/** A panel at a side of the stage: what it is called, its usual and least size in pixels. */
type Side = { label: string; size: number; least: number; children: ReactNode };

type Props = {
  /** Of which view: each remembers its own sizes. */
  name: string;
  left: Side;
  right: Side;
  /** Under all; `size` follows what it holds until somebody drags its edge. Folded, its first line stays. */
  bottom: Side;
  children: ReactNode;
};

/** Height of the first line of the bottom panel, which stays when it is folded. */
const ONE_LINE = 34;

/** The layout of a view: the stage with panels about it, which can be dragged, folded, and are found again as left. */
export function Workroom({ name, left, right, bottom, children }: Props) {
  const columns = useDefaultLayout({ id: `${name}-columns`, onlySaveAfterUserInteractions: true });
  const rows = useDefaultLayout({ id: `${name}-rows`, onlySaveAfterUserInteractions: true });
  const isOwn = useRef(rows.defaultLayout !== undefined);
  const folds = useFolds(name);
  const refs = useRefs();

  useEffect(() => {
    const panel = refs.bottom.current;
    if (!isOwn.current && panel && !panel.isCollapsed()) panel.resize(bottom.size);
  }, [bottom.size, refs]);

  const fold = (side: SideName) => {
    const panel = refs[side].current;
    if (panel?.isCollapsed()) panel.expand();
    else panel?.collapse();
  };
  const side = (which: "left" | "right", { label, size, least, children: held }: Side) => (
    <Panel
      id={which}
      panelRef={refs[which]}
      defaultSize={folds.is(which) ? 0 : size}
      minSize={least}
      collapsible
      groupResizeBehavior="preserve-pixel-size"
      onResize={({ inPixels }) => folds.keep(which, inPixels === 0)}
    >
      <section aria-label={label} className="h-full overflow-hidden bg-panel">
        {held}
      </section>
    </Panel>
  );
  return (
    <Group
      orientation="vertical"
      className="min-h-0 flex-1"
      defaultLayout={rows.defaultLayout}
      onLayoutChanged={(layout, meta) => {
        isOwn.current ||= meta.isUserInteraction;
        rows.onLayoutChanged(layout, meta);
      }}
    >
      <Panel id="over" minSize={200}>
        <Group
          orientation="horizontal"
          className="h-full"
          defaultLayout={columns.defaultLayout}
          onLayoutChanged={columns.onLayoutChanged}
        >
          {side("left", left)}
          <Separator aria-label={`Width of ${left.label}`} className={LINE} />
          <Panel id="middle" minSize={360} className="relative">
            <div className="flex h-full min-h-0">{children}</div>
            <Tab at="left" label={left.label} isFolded={folds.is("left")} onClick={() => fold("left")} />
            <Tab at="right" label={right.label} isFolded={folds.is("right")} onClick={() => fold("right")} />
            <Tab at="bottom" label={bottom.label} isFolded={folds.is("bottom")} onClick={() => fold("bottom")} />
          </Panel>
          <Separator aria-label={`Width of ${right.label}`} className={LINE} />
          {side("right", right)}
        </Group>
      </Panel>
      <Separator aria-label={`Height of ${bottom.label}`} className={LINE} />
      <Panel
        id="bottom"
        panelRef={refs.bottom}
        defaultSize={folds.is("bottom") ? ONE_LINE : bottom.size}
        minSize={bottom.least}
        collapsible
        collapsedSize={ONE_LINE}
        groupResizeBehavior="preserve-pixel-size"
        onResize={({ inPixels }) => folds.keep("bottom", inPixels <= ONE_LINE)}
      >
        {bottom.children}
      </Panel>
    </Group>
  );
}

const LINE =
  "relative z-10 bg-line outline-none aria-[orientation=horizontal]:h-px aria-[orientation=vertical]:w-px data-[separator=active]:bg-verdigris data-[separator=hover]:bg-verdigris focus-visible:ring-2 focus-visible:ring-verdigris";

type SideName = "left" | "right" | "bottom";
const ARROWS = { left: ["‹", "›"], right: ["›", "‹"], bottom: ["⌄", "⌃"] } as const;
const PLACES = {
  left: "left-0 top-1/2 -translate-y-1/2 rounded-r-md border-l-0 px-0.5 py-3",
  right: "right-0 top-1/2 -translate-y-1/2 rounded-l-md border-r-0 px-0.5 py-3",
  bottom: "bottom-0 right-28 rounded-t-md border-b-0 px-4 leading-3",
} as const;

/** At the edge of the stage: folds the panel there, or brings it back. */
function Tab({
  at,
  label,
  isFolded,
  onClick,
}: {
  at: SideName;
  label: string;
  isFolded: boolean;
  onClick: () => void;
}) {
  const what = `${isFolded ? "Unfold" : "Fold"} ${label}`;
  return (
    <button
      type="button"
      aria-label={what}
      title={what}
      onClick={onClick}
      className={`absolute z-10 border border-line bg-paper/80 text-quiet hover:bg-paper hover:text-ink ${PLACES[at]}`}
    >
      {ARROWS[at][isFolded ? 1 : 0]}
    </button>
  );
}

function useRefs() {
  const left = useRef<PanelImperativeHandle>(null);
  const right = useRef<PanelImperativeHandle>(null);
  const bottom = useRef<PanelImperativeHandle>(null);
  return useMemo(() => ({ left, right, bottom }), []);
}

/** Which panels of a view are folded, kept for the next time. */
function useFolds(name: string) {
  const key = `${name}-folded`;
  const [folded, setFolded] = useState(() => (localStorage.getItem(key) ?? "").split(" ").filter(Boolean));
  return {
    is: (side: SideName) => folded.includes(side),
    keep: (side: SideName, isFolded: boolean) => {
      if (folded.includes(side) === isFolded) return;
      const next = isFolded ? [...folded, side] : folded.filter((s) => s !== side);
      localStorage.setItem(key, next.join(" "));
      setFolded(next);
    },
  };
}
