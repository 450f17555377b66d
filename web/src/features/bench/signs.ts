import type { PlacedDimension, StudyDocument, SupportUse } from "@/api/client";
import type { BodySkin, SceneBlock } from "@/api/sceneBlock";
import type { NamedKind } from "@/features/items";
import type { Sign, Vec } from "@/scene/drawSigns";

import { heldAlong } from "./axes";
import { spread } from "./benchLook";

/** Length of an arrow as a share of the size of all parts, and how many stand on a face. */
const ARROW = 0.12;
const ON_A_FACE = 4;
/** Points of an arc that shows a turn. */
const ARC = 20;

type Spot = { at: Vec; normal: Vec };
type Drawn = Pick<Sign, "lines" | "heads">;

/** Dimensions of a part, drawn along it; how far the head of an arrow stands from its tip is left to the stage. */
export const dimensionSigns = (dimensions: PlacedDimension[]): Sign[] =>
  dimensions.map(({ name, label, written, start, end }) => {
    const along = unit(plus(end, start, -1));
    const back = unit(plus(start, end, -1));
    const heads = [
      { tip: start, along: back },
      { tip: end, along },
    ];
    const at = plus(start, plus(end, start, -1), 0.5);
    return { id: `${DIMENSION}${name}`, text: `${label} ${written}`, tone: "hold", at, lines: [[start, end]], heads };
  });
/** Before the name of a dimension in the id of its sign. */
export const DIMENSION = "dimension/";

/** What holds, loads, tightens and guides, drawn where it does: signs of every item of a study that has a place. */
export function signsOf(study: StudyDocument, block: SceneBlock, asleep: Record<string, string[]> = {}): Sign[] {
  const size = ARROW * extent(block);
  const { handles = [], parts = [] } = study;
  const handle = (id: string | null | undefined) => handles.find((h) => h.id === id);
  const place = (id: string | null | undefined) => handle(id) && point(handle(id)?.at);
  const spots = (faces: string[] | undefined, most = ON_A_FACE) => spotsOf(block, faces ?? [], most);
  const sign = (
    kind: NamedKind,
    item: { id: string; name: string },
    tone: Sign["tone"],
    value: string,
    drawn: Drawn[],
  ): Sign[] => {
    const all = { lines: drawn.flatMap((d) => d.lines), heads: drawn.flatMap((d) => d.heads) };
    const at = all.heads[0]?.tip ?? all.lines[0]?.at(-1);
    const isAsleep = asleep[kind]?.includes(item.id);
    return at && !isAsleep
      ? [{ id: `${kind}/${item.id}`, text: `${item.name} ${value}`.trim(), tone, at, ...all }]
      : [];
  };

  const loads = (study.loads ?? []).flatMap((load) => {
    const value = Object.values(load.values ?? {}).at(-1) ?? "without a value";
    const direction = unit(load.direction ?? [0, 0, 0]);
    const middle = place(load.handle) ?? mean(spots(load.faces, 30).map((s) => s.at)) ?? centre(block);
    if (load.kind === "pressure")
      return sign(
        "load",
        load,
        "load",
        value,
        spots(load.faces).map((s) => arrow(plus(s.at, s.normal, size * 0.7), s.at)),
      );
    if (load.kind === "radial") {
      const axis = point(load.centre);
      return sign(
        "load",
        load,
        "load",
        value,
        spots(load.faces).map((s) => {
          const arm = plus(s.at, axis, -1);
          const out = unit(plus(arm, direction, -dot(arm, direction)));
          return arrow(s.at, plus(s.at, out, size * 0.7));
        }),
      );
    }
    if (load.kind === "moment" || load.kind === "rotation" || load.kind === "spin") {
      const at = load.kind === "spin" ? point(load.centre) : middle;
      return sign("load", load, "load", value, [turn(at, direction, size * 0.6)]);
    }
    const isPush = dot(mean(spots(load.faces, 30).map((s) => s.normal)) ?? direction, direction) < -0.1;
    const [tail, tip] = isPush ? [plus(middle, direction, -size), middle] : [middle, plus(middle, direction, size)];
    const shown = [arrow(tail, tip)];
    // A motion is no force: its arrow has a bar at its tail.
    if (load.kind === "displacement") shown.push(bar(tail, direction, size * 0.3));
    return sign("load", load, "load", value, shown);
  });

  const supports = (study.supports ?? []).flatMap((support) => {
    const at = place(support.handle);
    const places: Spot[] = at ? [{ at, normal: [0, 0, 0] }] : spots(support.faces);
    const components = support.components ?? [];
    const value = support.kind === "fixed" ? "held" : support.kind === "symmetry" ? "symmetry" : heldAlong(support);
    if (support.kind === "symmetry")
      return sign("support", support, "hold", value, places.flatMap(({ at: p, normal }) => [
        stop(p, normal, size * 0.3), bar(plus(p, normal, size * 0.2), normal, size * 0.3),
      ])); // prettier-ignore
    const held = support.kind === "fixed" ? ["x", "y", "z"] : components;
    return sign(
      "support",
      support,
      "hold",
      value,
      places.flatMap(({ at: p, normal }) => [
        ...(support.kind === "fixed" && !at ? [ground(p, normal, size * 0.3)] : []),
        ...(support.kind === "fixed" && !at ? [] : held).map((c) => {
          const axis = axesAt(p, support.kind === "components" ? support.axes : null)[c.at(-1) as "x" | "y" | "z"];
          if (c.startsWith("turn-")) return { lines: [arc(p, axis, size * 0.3)], heads: [] };
          return stop(p, dot(normal, axis) < 0 ? times(axis, -1) : axis, size * 0.4);
        }),
      ]),
    );
  });

  const bolts = (study.bolts ?? []).flatMap((bolt) => {
    const value = Object.values(bolt.preload ?? {}).at(-1) ?? "not tightened";
    if (bolt.part) {
      const copies = parts.find((p) => p.id === bolt.part)?.placements?.length ?? 1;
      const heads = spots([`${bolt.part}/head.end`], copies);
      return sign("bolt", bolt, "tight", copies > 1 ? `${value} each` : value, heads.map((s) =>
        arrow(s.at, plus(s.at, s.normal, size * 0.7)),
      )); // prettier-ignore
    }
    const head = place(bolt.line?.head);
    if (!head) return [];
    const foot = place(bolt.line?.foot) ?? plus(head, unit(bolt.line?.direction ?? [0, 0, 1]), -size);
    const along = unit(minus(head, foot));
    return sign("bolt", bolt, "tight", value, [
      { lines: [[foot, head]], heads: [] },
      arrow(head, plus(head, along, size * 0.5)),
      ...(bolt.line?.foot ? [] : [ground(foot, times(along, -1), size * 0.3)]),
    ]);
  });

  const springs = (study.springs ?? []).flatMap((spring) => {
    const a = place(spring.a);
    if (!a) return [];
    const b = place(spring.b) ?? plus(a, [0.6, -0.8, 0], size);
    const acts = spring.acts ?? "both";
    return sign("spring", spring, "hold", acts === "both" ? "" : `only ${acts}`, [
      zigzag(a, b, size * 0.12),
      ...(spring.b ? [] : [ground(b, unit(minus(b, a)), size * 0.3)]),
    ]);
  });

  const links = (study.links ?? []).flatMap((link) => {
    const [a, b] = [place(link.a), place(link.b)];
    if (!a || !b) return [];
    const own = link.axis ?? "z";
    const axis = typeof own === "string" ? AXES[own] : unit(own);
    const about = typeof own === "string" ? ` ${own}` : "";
    return sign("link", link, "hold", link.kind === "fixed" ? "fixed" : `${link.kind}${about}`, [
      { lines: [[a, b]], heads: [] },
      ...(link.kind === "hinge" ? [{ lines: [arc(a, axis, size * 0.22, 1)], heads: [] }] : []),
      ...(link.kind === "slider" ? [bar(a, cross(axis), size * 0.3), bar(b, cross(axis), size * 0.3)] : []),
    ]);
  });

  const spokes = handles.flatMap((h) => {
    const at = point(h.at);
    const [x, y, z] = [AXES.x, AXES.y, AXES.z].map((axis): [Vec, Vec] => [
      plus(at, axis, -size * 0.07),
      plus(at, axis, size * 0.07),
    ]);
    const lines = [...[x, y, z].flatMap((l) => (l ? [l] : [])), ...spots(h.faces, 6).map((s): Vec[] => [at, s.at])];
    return sign("handle", h, "hold", "", [{ lines, heads: [] }]);
  });

  const walls = (study.walls ?? []).flatMap((wall) => {
    const [at, axis, radius] = [point(wall.at), unit(wall.direction ?? [0, 0, 1]), millimetres(wall.radius ?? "0 mm")];
    const half = 3 * size;
    const [u, v] = across(axis);
    const pane = [-1, -0.5, 0, 0.5, 1].flatMap((t): Vec[][] => [
      [plus(plus(at, u, -half), v, t * half), plus(plus(at, u, half), v, t * half)],
      [plus(plus(at, v, -half), u, t * half), plus(plus(at, v, half), u, t * half)],
    ]);
    const rings =
      wall.kind === "cylinder"
        ? [-1, 0, 1].map((t) => arc(plus(at, axis, t * half), axis, radius, 1))
        : [AXES.x, AXES.y, AXES.z].map((a) => arc(at, a, radius, 1));
    return sign("wall", wall, "hold", "", [{ lines: wall.kind === "plane" ? pane : rings, heads: [] }]);
  });

  return [...supports, ...bolts, ...springs, ...links, ...spokes, ...walls, ...loads];
}

/** What x, y and z of a support are at a place. */
function axesAt(at: Vec, axes: SupportUse["axes"]): Record<"x" | "y" | "z", Vec> {
  if (!axes) return AXES;
  if (axes.kind === "round") {
    const z = unit(axes.line ?? AXES.z);
    const arm = minus(at, point(axes.centre));
    const x = unit(plus(arm, z, -dot(arm, z)));
    return { x, y: product(z, x), z };
  }
  const x = unit(axes.x ?? AXES.x);
  const z = axes.y ? unit(product(x, unit(axes.y))) : cross(x);
  return { x, y: product(z, x), z };
}

const AXES: Record<"x" | "y" | "z", Vec> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };
const plus = (a: Vec, b: Vec, t = 1): Vec => [a[0] + t * b[0], a[1] + t * b[1], a[2] + t * b[2]];
const minus = (a: Vec, b: Vec): Vec => plus(a, b, -1);
const times = (a: Vec, t: number): Vec => [t * a[0], t * a[1], t * a[2]];
const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const product = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (a: readonly number[]): Vec => {
  const [x = 0, y = 0, z = 0] = a;
  const length = Math.hypot(x, y, z) || 1;
  return [x / length, y / length, z / length];
};
/** A direction across another. */
const cross = (a: Vec): Vec => unit(product(a, Math.abs(a[2]) < 0.9 ? AXES.z : AXES.x));
/** Two directions across another and each other. */
const across = (a: Vec): [Vec, Vec] => [cross(a), product(a, cross(a))];

function mean(points: Vec[]): Vec | undefined {
  return points.length
    ? times(
        points.reduce((sum, p) => plus(sum, p), [0, 0, 0] as Vec),
        1 / points.length,
      )
    : undefined;
}

/** A written length in mm, as far as it is written in a unit of the metre or the inch; other signs stand a little off. */
function millimetres(text: string): number {
  const written = text.replace(/[\s\d.+-]/g, "").replace(/^e/i, "");
  return Number.parseFloat(text) * ({ mm: 1, cm: 10, m: 1000, um: 1e-3, in: 25.4 }[written] ?? 1);
}
/** A written place in mm. */
export const point = (at: readonly string[] | undefined): Vec => {
  const [x = 0, y = 0, z = 0] = (at ?? []).map(millimetres);
  return [x, y, z];
};

function arrow(tail: Vec, tip: Vec): Drawn {
  return { lines: [[tail, tip]], heads: [{ tip, along: unit(minus(tip, tail)) }] };
}

/** A short bar across a direction. */
function bar(at: Vec, along: Vec, width: number): Drawn {
  const side = cross(along);
  return { lines: [[plus(at, side, -width / 2), plus(at, side, width / 2)]], heads: [] };
}

/** What stops a motion along a direction: a stick with a bar at its end. */
function stop(at: Vec, along: Vec, length: number): Drawn {
  const end = plus(at, along, length);
  return { lines: [[at, end], ...bar(end, along, length * 0.7).lines], heads: [] };
}

/** What holds altogether: a stick out of the face to hatched ground. */
function ground(at: Vec, out: Vec, length: number): Drawn {
  const end = plus(at, out, length);
  const side = cross(out);
  const ticks = [-0.5, 0, 0.5].map((t): Vec[] => {
    const foot = plus(end, side, t * length);
    return [foot, plus(plus(foot, side, -0.3 * length), out, 0.35 * length)];
  });
  return { lines: [[at, end], [plus(end, side, -0.5 * length), plus(end, side, 0.5 * length)], ...ticks], heads: [] };
}

function arc(at: Vec, axis: Vec, radius: number, share = 0.75): Vec[] {
  const [u, v] = across(axis);
  return Array.from({ length: ARC + 1 }, (_, i) => {
    const angle = (2 * Math.PI * share * i) / ARC;
    return plus(plus(at, u, radius * Math.cos(angle)), v, radius * Math.sin(angle));
  });
}

/** A turn about an axis, by the right hand. */
function turn(at: Vec, axis: Vec, radius: number): Drawn {
  const points = arc(at, axis, radius);
  const [last, before] = [points.at(-1) ?? at, points.at(-2) ?? at];
  return {
    lines: [points, [plus(at, axis, -radius), plus(at, axis, radius)]],
    heads: [{ tip: last, along: unit(minus(last, before)) }],
  };
}

function zigzag(a: Vec, b: Vec, width: number): Drawn {
  const side = cross(unit(minus(b, a)));
  const points = Array.from({ length: 11 }, (_, i): Vec => {
    const on = plus(a, minus(b, a), 0.15 + 0.07 * i);
    return i === 0 || i === 10 ? on : plus(on, side, i % 2 ? width : -width);
  });
  return { lines: [[a, ...points, b]], heads: [] };
}

function extent(block: SceneBlock): number {
  const [low, high] = bounds(block);
  return Math.hypot(...minus(high, low)) || 1;
}

const centre = (block: SceneBlock): Vec => times(plus(...bounds(block)), 0.5);

function bounds(block: SceneBlock): [Vec, Vec] {
  const [low, high]: [Vec, Vec] = [[Infinity, Infinity, Infinity], [-Infinity, -Infinity, -Infinity]]; // prettier-ignore
  for (const { positions } of block.bodies)
    positions.forEach((value, i) => {
      low[i % 3] = Math.min(low[i % 3] ?? value, value);
      high[i % 3] = Math.max(high[i % 3] ?? value, value);
    });
  return [low, high];
}

/** Places on faces (references), as far from each other as they can be, each with the outward normal there. */
export function spotsOf(block: SceneBlock, faces: string[], most: number): Spot[] {
  const all = faces.flatMap((reference) =>
    spread(reference, block).flatMap(({ body, face }) => {
      const skin = block.bodies.find((b) => b.name === body);
      const number = skin?.faces.indexOf(face) ?? -1;
      return !skin || number < 0 ? [] : skin.rims.length ? onEdges(skin, number) : onTriangles(skin, number);
    }),
  );
  if (!all.length) return [];
  // From the one nearest the middle on, always the one that is farthest from those taken.
  const middle = mean(all.map((s) => s.at)) ?? [0, 0, 0];
  const away = all.map((s) => distance(s.at, middle));
  const taken = [away.indexOf(Math.min(...away))];
  const nearest = all.map((s) => distance(s.at, all[taken[0] ?? 0]?.at ?? middle));
  while (taken.length < Math.min(most, all.length)) {
    const next = nearest.indexOf(Math.max(...nearest));
    if ((nearest[next] ?? 0) === 0) break;
    taken.push(next);
    all.forEach((s, i) => (nearest[i] = Math.min(nearest[i] ?? 0, distance(s.at, all[next]?.at ?? middle))));
  }
  return taken.flatMap((i) => all[i] ?? []);
}

const distance = (a: Vec, b: Vec) => Math.hypot(...minus(a, b));
const corner = (skin: BodySkin, vertex: number | undefined): Vec => {
  const i = 3 * (vertex ?? 0);
  return [skin.positions[i] ?? 0, skin.positions[i + 1] ?? 0, skin.positions[i + 2] ?? 0];
};

function onTriangles(skin: BodySkin, face: number): Spot[] {
  const found: Spot[] = [];
  skin.triangleFace.forEach((owner, t) => {
    if (owner !== face) return;
    const [a, b, c] = [0, 1, 2].map((k) => corner(skin, skin.triangles[3 * t + k])) as [Vec, Vec, Vec];
    found.push({ at: times(plus(plus(a, b), c), 1 / 3), normal: unit(product(minus(b, a), minus(c, a))) });
  });
  return found;
}

/** The edges of a section run round it with the part on their left. */
function onEdges(skin: BodySkin, face: number): Spot[] {
  const found: Spot[] = [];
  skin.rimFace.forEach((owner, r) => {
    if (owner !== face) return;
    const [a, b] = [corner(skin, skin.rims[2 * r]), corner(skin, skin.rims[2 * r + 1])];
    const along = unit(minus(b, a));
    found.push({ at: times(plus(a, b), 0.5), normal: [along[1], -along[0], 0] });
  });
  return found;
}
