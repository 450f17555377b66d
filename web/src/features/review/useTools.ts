import { useState } from "react";

import type { Vec } from "@/scene/drawSigns";
import type { Mirrors, Ring } from "@/scene/mirrors";

import type { Range } from "./Legend";
import type { Pin } from "./readings";

/** What a press on the stage does in review: choose a part, pin a reading, or set an end of a path. */
export type Tool = "choose" | "read" | "path";

/** What is laid over the result: pinned readings, a path, extremes, limits set by hand, a place to go to. */
export function useTools() {
  const [tool, setTool] = useState<Tool>("choose");
  const [pins, setPins] = useState<Pin[]>([]);
  const [ends, setEnds] = useState<Vec[]>([]);
  /** Whether the path is the edge of a part that is nearest to its one end. */
  const [isEdge, setEdge] = useState(false);
  const [inward, setInward] = useState<Vec>();
  const [marksExtremes, setMarksExtremes] = useState(true);
  const [own, setOwn] = useState<Record<string, Range | undefined>>({});
  const [focus, setFocus] = useState<{ at: Vec; number: number }>();

  const [mirrors, setMirrors] = useState<Mirrors>([false, false, false]);
  const [ring, setRing] = useState<Ring>();
  /** How far parts are taken apart: a share of how far each is from the middle. */
  const [apart, setApart] = useState(0);
  /** Fields whose colours run by powers of ten. */
  const [logs, setLogs] = useState<Record<string, boolean>>({});
  const [showsSingular, setShowsSingular] = useState(false);
  const [isDirected, setDirected] = useState(false);
  const [isSolid, setSolid] = useState(false);
  const [showsStart, setShowsStart] = useState(false);
  const [isBeside, setBeside] = useState(false);
  /** The value (as stored) whose surface is shown inside the parts. */
  const [level, setLevel] = useState<number>();
  /** Readings are pinned on what is drawn: what is drawn otherwise has them no more. */
  const toggleSolid = () => {
    setSolid(!isSolid);
    setPins([]);
  };

  const pin = (read: Pick<Pin, "body" | "place">) =>
    setPins((before) => [...before, { id: `pin-${before.length + 1}`, body: read.body, place: read.place }]);
  /** Whether the next place on the stage is a further corner of the path. */
  const [goesOn, setGoesOn] = useState(false);
  const setEnd = (at: Vec, normal: Vec | undefined) => {
    if (isEdge) return setEnds([at]);
    if (goesOn && ends.length > 1) return setEnds([...ends, at]);
    if (ends.length !== 1) setInward(normal && (normal.map((c) => -c) as Vec));
    setEnds(ends.length === 1 ? [ends[0]!, at] : [at]);
  };
  const goTo = (at: Vec) => setFocus((before) => ({ at, number: (before?.number ?? 0) + 1 }));
  return {
    ...{ tool, setTool, pins, setPins, pin, ends, setEnds, setEnd, inward },
    ...{ goesOn, setGoesOn, marksExtremes, setMarksExtremes, own, setOwn, focus, goTo, mirrors, setMirrors },
    ...{
      isDirected,
      setDirected,
      isSolid,
      toggleSolid,
      isBeside,
      setBeside,
      showsStart,
      setShowsStart,
      level,
      setLevel,
    },
    ...{ showsSingular, setShowsSingular, isEdge, setEdge, ring, setRing, apart, setApart, logs, setLogs },
  };
}
