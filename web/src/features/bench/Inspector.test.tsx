import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";

import { ApiProblem } from "@/api/client";
import { type NamedKind, itemsOf, listOf, namedKinds } from "@/features/items";
import { type Selected, useSelection } from "@/features/selection";
import { choose, enter, press } from "@/tests/controls";
import { STUDY, applied, fieldsOfDocument, fieldsOn, objections } from "@/tests/document";
import { inspect } from "@/tests/inspect";

import { entryAt } from "./edits";

afterEach(cleanup);

const part = (id: string, more: Partial<Selected> = {}): Selected => ({ kind: "part", id, ...more });

/** Every text entry of every inspector: what is selected, its label, what is typed, where it goes and as what. */
const ENTRIES: [Selected, string, string, string, unknown][] = [
  [{ kind: "study", id: "" }, "Title", "Shackle, new", "/title", "Shackle, new"],
  [{ kind: "study", id: "" }, "Machine", "Lock gate", "/machine", "Lock gate"],
  [{ kind: "study", id: "" }, "Notes", "As built.", "/notes", "As built."],
  [{ kind: "study", id: "" }, "Name", "Fine steel", "/materials/0/name", "Fine steel"],
  [{ kind: "study", id: "" }, "Young's modulus", "200 GPa", "/materials/0/young", "200 GPa"],
  [{ kind: "study", id: "" }, "Poisson's ratio", "0,29", "/materials/0/poisson", 0.29],
  [{ kind: "study", id: "" }, "Yield stress", "460 MPa", "/materials/0/yield_stress", "460 MPa"],
  [{ kind: "study", id: "" }, "Allowable stress", "200 MPa", "/materials/0/allowable", "200 MPa"],
  [{ kind: "study", id: "" }, "Safety against yield", "8", "/materials/0/safety", 8],
  [{ kind: "study", id: "" }, "Density", "7850 kg/m^3", "/materials/0/density", "7850 kg/m^3"],
  [{ kind: "study", id: "" }, "Yields by table", "0: 355 MPa", "/materials/0/hardening/table/0/stress", "355 MPa"],
  [{ kind: "study", id: "" }, "Yields by table", "0.1: 355 MPa", "/materials/0/hardening/table/0/strain", 0.1],
  [{ kind: "study", id: "" }, "Kinematic share", "0.4", "/materials/2/hardening/kinematic_share", 0.4],
  [{ kind: "study", id: "" }, "Constant C10", "0.5 MPa", "/materials/1/rubber/c10", "0.5 MPa"],
  [{ kind: "study", id: "" }, "Constant C01", "0.2 MPa", "/materials/1/rubber/c01", "0.2 MPa"],
  [{ kind: "study", id: "" }, "Bulk modulus", "900 MPa", "/materials/1/rubber/bulk", "900 MPa"],
  [part("lug"), "Name", "Eye plate", "/parts/0/name", "Eye plate"],
  [part("lug"), "point 1, y", "3 mm", "/parts/0/mesh/spots/0/at", ["0 mm", "3 mm", "10 mm"]],
  [part("lug"), "point 1, size", "1 mm", "/parts/0/mesh/spots/0/size", "1 mm"],
  [part("lug"), "region 1, name", "seat", "/parts/0/regions/0/name", "seat"],
  [part("lug"), "region 1, of the face", "bottom", "/parts/0/regions/0/of", "bottom"],
  [part("lug"), "region 1, x", "-30 mm", "/parts/0/regions/0/at", ["-30 mm", "0 mm", "20 mm"]],
  [part("lug"), "region 1, distance", "9 mm", "/parts/0/regions/0/reach", "9 mm"],
  [part("lug"), "region 2, size y", "9 mm", "/parts/0/regions/1/sizes", ["20 mm", "9 mm", "1 mm"]],
  [{ kind: "pair", id: "seat" }, "Name", "Heads", "/pairs/0/name", "Heads"],
  [{ kind: "bolt", id: "tighten" }, "Name", "Flange bolts", "/bolts/0/name", "Flange bolts"],
  [{ kind: "bolt", id: "anchor" }, "Nut factor K", "0,18", "/bolts/1/torque/nut_factor", 0.18],
  [{ kind: "bolt", id: "anchor" }, "Nominal diameter", "16 mm", "/bolts/1/torque/diameter", "16 mm"],
  [{ kind: "bolt", id: "anchor" }, "Stiffness E·A/L", "900 kN/mm", "/bolts/1/line/stiffness", "900 kN/mm"],
  [{ kind: "bolt", id: "anchor" }, "out of the ground, x", "1", "/bolts/1/line/direction", [1, 0, 1]],
  [{ kind: "support", id: "base" }, "Name", "Foot", "/supports/0/name", "Foot"],
  [{ kind: "support", id: "guide" }, "x points to z", "1", "/supports/1/axes/x", [0, 1, 1]],
  [{ kind: "support", id: "sleeve" }, "through x", "9 mm", "/supports/2/axes/centre", ["9 mm", "2 mm", "3 mm"]],
  [{ kind: "support", id: "sleeve" }, "along y", "1", "/supports/2/axes/line", [0, 1, 1]],
  [{ kind: "spring", id: "soft" }, "x points to y", "1", "/springs/0/axes/x", [0, 1, 1]],
  [{ kind: "spring", id: "soft" }, "y towards z", "1", "/springs/0/axes/y", [0, 1, 1]],
  [{ kind: "load", id: "pull" }, "Name", "Rope", "/loads/0/name", "Rope"],
  [{ kind: "load", id: "spin" }, "through y", "5 mm", "/loads/3/centre", ["0 mm", "5 mm", "0 mm"]],
  [{ kind: "load", id: "spin" }, "through Settle", "", "/loads/3/courses", {}],
  [{ kind: "load", id: "pull" }, "through Pull up", "0: 5 kN, 50%: 20 kN", "/loads/0/courses/pull/1/value", "20 kN"],
  [{ kind: "load", id: "pull" }, "through Pull up", "0: 5 kN, 50%: 20 kN", "/loads/0/courses/pull/1/at", 0.5],
  [{ kind: "step", id: "settle" }, "Takes", "30 ms", "/steps/2/dynamics/duration", "30 ms"],
  [{ kind: "step", id: "settle" }, "Damping, 1/s", "4", "/steps/2/dynamics/damping", 4],
  [{ kind: "handle", id: "eye" }, "Mass at it", "2 kg", "/handles/0/mass", "2 kg"],
  [{ kind: "wall", id: "floor" }, "Name", "Ground", "/walls/0/name", "Ground"],
  [{ kind: "spring", id: "soft" }, "Name", "Holder", "/springs/0/name", "Holder"],
  [{ kind: "spring", id: "soft" }, "about z", "5 N*m/rad", "/springs/0/turning/2", "5 N*m/rad"],
  [{ kind: "contact", id: "dry" }, "Name", "Rough steel", "/contacts/0/name", "Rough steel"],
  [{ kind: "contact", id: "dry" }, "Friction coefficient µ", "0,3", "/contacts/0/law/mu", 0.3],
  [{ kind: "joint", id: "shackle" }, "Name", "Eye joint", "/joints/0/name", "Eye joint"],
  [{ kind: "link", id: "hinge" }, "Name", "Joint", "/links/0/name", "Joint"],
  [part("lug"), "Thickness", "25 mm", "/parts/0/recipe/dimensions/thickness", "25 mm"],
  [part("beam"), "Holes", "6", "/parts/2/recipe/dimensions/holes", 6],
  [part("bolts"), "by", "45 deg", "/parts/1/placements/0/turn", { axis: "z", angle: "45 deg" }],
  [part("bolts", { copy: 2 }), "by", "45 deg", "/parts/1/placements/1/turn", { axis: "x", angle: "45 deg" }],
  [part("bolts", { copy: 2 }), "to y", "7 mm", "/parts/1/placements/1/at", ["60 mm", "7 mm", "0 mm"]],
  [part("lug"), "Element size", "4 mm", "/parts/0/mesh/size", "4 mm"],
  [part("lug"), "Layers", "4", "/parts/0/mesh/layers", 4],
  [part("lug"), "Layers", "", "/parts/0/mesh/layers", null],
  [part("lug"), "Last layer to the first", "1,5", "/parts/0/mesh/layer_ratio", 1.5],
  [part("lug"), "Elements a turn", "32", "/parts/0/mesh/per_turn", 32],
  [part("lug", { face: "hole" }), "Mesh size here", "2 mm", "/parts/0/mesh/faces/hole", "2 mm"],
  [part("lug", { face: "hole" }), "Layers through it", "3", "/parts/0/mesh/through/hole", 3],
  [{ kind: "pair", id: "seat" }, "Friction coefficient µ", "0.2", "/pairs/0/law/mu", 0.2],
  [{ kind: "pair", id: "seat" }, "Overlap across the faces", "30 um", "/pairs/0/interference", "30 um"],
  [{ kind: "pair", id: "seat" }, "from a fit", "H7/s6 60 mm most", "/pairs/0/interference", "0.036 mm"],
  [{ kind: "pair", id: "seat" }, "from a fit", "H7/s6 60 mm", "/pairs/0/interference", "0.0237 mm"],
  [{ kind: "pair", id: "seat" }, "Search distance", "5 mm", "/pairs/0/search", "5 mm"],
  [{ kind: "pair", id: "seat" }, "Penetration at most", "1 um", "/pairs/0/enforcement/allowed", "1 um"],
  [{ kind: "pair", id: "seat" }, "Stiffness × E/h", "10", "/pairs/0/enforcement/stiffness", 10],
  [{ kind: "bolt", id: "tighten" }, "Pull up", "45 kN", "/bolts/0/preload/pull", "45 kN"],
  [{ kind: "bolt", id: "tighten" }, "Tighten", "", "/bolts/0/preload/tighten", undefined],
  [{ kind: "load", id: "pull" }, "x", "-1", "/loads/0/direction", [-1, 0, 1]],
  [{ kind: "load", id: "pull" }, "Tighten", "5 kN", "/loads/0/values/tighten", "5 kN"],
  [{ kind: "load", id: "turn" }, "Tighten", "off", "/loads/2/values/tighten", "off"],
  [{ kind: "step", id: "pull" }, "Name", "Lift", "/steps/1/name", "Lift"],
  [{ kind: "step", id: "pull" }, "First increment", "0.1", "/steps/1/increments/start", 0.1],
  [{ kind: "step", id: "tighten" }, "Least increment", "0,02", "/steps/0/increments/least", 0.02],
  [{ kind: "step", id: "pull" }, "Keep results of every", "5", "/steps/1/increments/keep_every", 5],
  [{ kind: "step", id: "pull" }, "Largest increment", "0.2", "/steps/1/increments/largest", 0.2],
  [{ kind: "step", id: "pull" }, "Increments at most", "90", "/steps/1/increments/most", 90],
  [{ kind: "handle", id: "eye" }, "Name", "Ring", "/handles/0/name", "Ring"],
  [{ kind: "handle", id: "eye" }, "at y", "12 mm", "/handles/0/at", ["0 mm", "12 mm", "40 mm"]],
  [{ kind: "wall", id: "floor" }, "at z", "-8 mm", "/walls/0/at", ["0 mm", "0 mm", "-8 mm"]],
  [{ kind: "wall", id: "floor" }, "x", "0.5", "/walls/0/direction", [0.5, 0, 1]],
  [{ kind: "wall", id: "pipe" }, "Radius", "55 mm", "/walls/1/radius", "55 mm"],
  [{ kind: "wall", id: "ball" }, "Radius", "25 mm", "/walls/2/radius", "25 mm"],
  [{ kind: "spring", id: "soft" }, "along y", "9 N/mm", "/springs/0/stiffness", ["1 N/mm", "9 N/mm", "3 N/mm"]],
];

/** Rows of a table by what is selected: the inspector is drawn once for all of them. */
function bySelection<Row extends [Selected, ...unknown[]]>(rows: Row[]): [Selected, Row[]][] {
  const groups = new Map<string, [Selected, Row[]]>();
  for (const row of rows) {
    const name = JSON.stringify(row[0]);
    groups.set(name, [row[0], [...(groups.get(name)?.[1] ?? []), row]]);
  }
  return [...groups.values()];
}

test.each(bySelection(ENTRIES))("%o: what is typed into its entries goes where it belongs", async (selected, rows) => {
  const { edit } = inspect(selected);
  for (const [, label, typed, path, value] of rows) {
    edit.mockClear();
    await enter(label, typed);
    await waitFor(() => expect(edit, label).toHaveBeenCalledTimes(1));
    const [patch, told] = edit.mock.calls[0] ?? [[], ""];
    const after = applied(STUDY, patch);
    expect(entryAt(after, path), `${label}: ${typed}`).toEqual(value);
    expect(objections(after), label).toEqual([]);
    expect(told.length, label).toBeGreaterThan(3);
  }
});

/** Every choice of every inspector that is shown side by side, or switched. */
const CHOICES: [Selected, string, string, unknown][] = [
  [{ kind: "pair", id: "seat" }, "freely", "/pairs/0/law/may_slide", "freely"],
  [{ kind: "pair", id: "seat" }, "no", "/pairs/0/law/may_slide", "no"],
  [{ kind: "pair", id: "seat" }, "penalty", "/pairs/0/enforcement/method", "penalty"],
  [{ kind: "pair", id: "seat" }, "exact", "/pairs/0/enforcement/method", "exact"],
  [{ kind: "contact", id: "dry" }, "penalty", "/contacts/0/enforcement/method", "penalty"],
  [{ kind: "bolt", id: "tighten" }, "moment", "/bolts/0/torque", { nut_factor: 0.2, diameter: "16 mm" }],
  [{ kind: "bolt", id: "tighten" }, "moment", "/bolts/0/preload/tighten", "100 N·m"],
  [{ kind: "bolt", id: "anchor" }, "force", "/bolts/1/torque", null],
  [{ kind: "support", id: "base" }, "some", "/supports/0/components", ["x", "y", "z"]],
  [{ kind: "support", id: "base" }, "symmetry", "/supports/0/kind", "symmetry"],
  [{ kind: "support", id: "guide" }, "all", "/supports/1/kind", "fixed"],
  [{ kind: "handle", id: "eye" }, "on average", "/handles/0/kind", "averaging"],
  [{ kind: "handle", id: "foot" }, "rigidly", "/handles/1/kind", "rigid"],
  [{ kind: "link", id: "hinge" }, "fixed", "/links/0/kind", "fixed"],
  [{ kind: "link", id: "hinge" }, "slider", "/links/0/kind", "slider"],
  [{ kind: "link", id: "hinge" }, "x", "/links/0/axis", "x"],
  [{ kind: "support", id: "guide" }, "machine's", "/supports/1/axes", null],
  [{ kind: "support", id: "sleeve" }, "turned", "/supports/2/axes/kind", "turned"],
  [{ kind: "spring", id: "soft" }, "machine's", "/springs/0/axes", null],
  [{ kind: "spring", id: "soft" }, "only pulls", "/springs/0/acts", "pulling"],
];

test.each(bySelection(CHOICES))("%o: each of its choices sets its field", async (selected, rows) => {
  const { edit } = inspect(selected);
  for (const [, option, path, value] of rows) {
    edit.mockClear();
    await userEvent.click(screen.getByRole("radio", { name: option }));
    const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
    expect(entryAt(after, path), option).toEqual(value);
    expect(objections(after), option).toEqual([]);
  }
});

/** Every list of every inspector that edits. */
const LISTS: [Selected, string, string, string, unknown][] = [
  [{ kind: "pair", id: "seat" }, "It is meant", "to slide", "/pairs/0/meant", "to-slide"],
  [{ kind: "pair", id: "seat" }, "Contact property", "Dry steel", "/pairs/0/contact", "dry"],
  [part("lug"), "Material", "Pad", "/parts/0/material", "pad"],
  [part("lug"), "Modelled", "its half, y ≥ 0", "/parts/0/recipe/kept", "half"],
  [part("lug"), "Pattern", "free everywhere", "/parts/0/mesh/pattern", "free"],
  [part("lug"), "Elements", "Tetrahedra, second order", "/parts/0/mesh/elements", "tets"],
  [part("bolts"), "Turned about", "y", "/parts/1/placements/0/turn", { axis: "y", angle: "0 deg" }],
  [{ kind: "pair", id: "seat" }, "Count it", "closed up", "/pairs/0/fit", "closed-up"],
  [{ kind: "handle", id: "eye" }, "Link it to", "Foot", "/links/1", { id: "link", name: "Eye – Foot", kind: "hinge" }],
  [{ kind: "handle", id: "foot" }, "A whole part, rigid", "Bolts 2", "/handles/1/part", "bolts#2"],
  [{ kind: "bolt", id: "tighten" }, "Property class", "10.9", "/bolts/0/strength", "10.9"],
  [{ kind: "bolt", id: "anchor" }, "Head", "Foot", "/bolts/1/line/head", "foot"],
  [{ kind: "bolt", id: "anchor" }, "Foot", "Foot", "/bolts/1/line/foot", "foot"],
  [{ kind: "support", id: "guide" }, "Handle", "Foot", "/supports/1/handle", "foot"],
  [{ kind: "load", id: "turn" }, "Handle", "Foot", "/loads/2/handle", "foot"],
  [{ kind: "pair", id: "rest" }, "Datum wall", "Pipe", "/pairs/1/wall", "pipe"],
  [{ kind: "wall", id: "pipe" }, "Moves with", "Eye", "/walls/1/handle", "eye"],
  [{ kind: "spring", id: "soft" }, "and", "Foot", "/springs/0/b", "foot"],
  [{ kind: "spring", id: "soft" }, "Between", "Foot", "/springs/0/a", "foot"],
  [{ kind: "study", id: "" }, "Space", "plane stress", "/space", "plane-stress"],
  [{ kind: "study", id: "" }, "Way of solution", "everything at once", "/path", "full"],
  [{ kind: "study", id: "" }, "Add a material", "Other steel", "/materials/3", { id: "steel-2", name: "Other steel" }],
];

test.each(LISTS)("%o: of '%s', '%s' sets %s", async (selected, label, option, path, value) => {
  const { edit, asked } = inspect(selected);
  if (label === "Add a material") await waitFor(() => expect(asked.some((a) => a.path === "/api/grades")).toBe(true));
  await choose(label, option);
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  if (typeof value === "object") expect(entryAt(after, path)).toMatchObject(value as object);
  else expect(entryAt(after, path)).toEqual(value);
  expect(objections(after)).toEqual([]);
});

test("the mesh size along an edge of a picked face is named as the study names it already", async () => {
  const { edit } = inspect(part("lug", { face: "hole" }));
  await choose("Its edge with", "top");
  expect(screen.getByLabelText<HTMLInputElement>("Mesh size along the edge").value).toBe("2 mm");
  await enter("Mesh size along the edge", "1 mm");
  await enter("Mesh size along the edge", "");
  const [given, taken] = edit.mock.calls.map(([patch]) => entryAt(applied(STUDY, patch), "/parts/0/mesh/edges"));
  expect([given, taken]).toEqual([{ "top|hole": "1 mm" }, {}]);
});

/** What is switched or ticked: the control, where it goes, and what it comes to. */
const SWITCHES: [Selected, "switch" | "checkbox", string, string, unknown][] = [
  [part("lug"), "switch", "In the analysis", "/parts/0/in_analysis", false],
  [part("lug"), "switch", "Judge sharp edges too", "/parts/0/judged", "everywhere"],
  [part("bolts", { copy: 2 }), "switch", "Mirrored in x = 0", "/parts/1/placements/1/mirrored", true],
  [part("beam"), "switch", "Without holes", "/parts/2/recipe/dropped", ["holes"]],
  [{ kind: "step", id: "pull" }, "switch", "Large motion", "/steps/1/large_motion", true],
  [{ kind: "step", id: "pull" }, "switch", "In the analysis", "/steps/1/in_analysis", false],
  [{ kind: "step", id: "pull" }, "switch", "Inertia", "/steps/1/dynamics", { duration: "0.1 s", damping: 0 }],
  [{ kind: "step", id: "settle" }, "switch", "Inertia", "/steps/2/dynamics", null],
  [{ kind: "wall", id: "pipe" }, "switch", "Parts are inside it", "/walls/1/hollow", true],
  [{ kind: "load", id: "widen" }, "switch", "On average, nothing is stiffened", "/loads/4/on_average", true],
  [{ kind: "support", id: "base" }, "checkbox", "Holds in Pull up", "/supports/0/released", ["pull"]],
  [{ kind: "pair", id: "seat" }, "checkbox", "Acts in Tighten", "/pairs/0/released", ["tighten", "settle"]],
  [{ kind: "pair", id: "seat" }, "checkbox", "Acts in Settle", "/pairs/0/released", []],
  [{ kind: "load", id: "turn" }, "checkbox", "Moves in, else lets go Pull up", "/loads/2/released", ["pull"]],
];

test.each(bySelection(SWITCHES))("%o: each of its switches sets its field", async (selected, rows) => {
  const { edit } = inspect(selected);
  for (const [, role, name, path, value] of rows) {
    edit.mockClear();
    await userEvent.click(screen.getByRole(role, { name }));
    const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
    expect(entryAt(after, path), name).toEqual(value);
    expect(objections(after), name).toEqual([]);
  }
});

/** Every list of faces: what is selected, where it is kept. */
const FACES: [Selected, string][] = [
  [{ kind: "support", id: "base" }, "/supports/0/faces"],
  [{ kind: "load", id: "pull" }, "/loads/0/faces"],
  [{ kind: "handle", id: "eye" }, "/handles/0/faces"],
  [{ kind: "pair", id: "rest" }, "/pairs/1/a"],
];

test.each(FACES)(
  "%o: faces are picked into %s, and taken away while more than one is there",
  async (selected, path) => {
    const two = applied(STUDY, [{ op: "add", path: `${path}/-`, value: "lug/nose" }]);
    const { edit } = inspect(selected, { study: two });
    await press("Take lug/nose away");
    expect(entryAt(applied(two, edit.mock.calls[0]?.[0] ?? []), path)).toEqual(entryAt(STUDY, path));
    await press(/^Pick faces( of side A)?$/);
    expect(useSelection.getState().gathering).toBe(path);
    await press(/^Done picking/);
    expect(useSelection.getState().gathering).toBeUndefined();
    cleanup();
    inspect(selected);
    expect(screen.queryByRole("button", { name: /^Take .* away$/ })).toBeNull();
  },
);

test("gravity and spin are added to all parts in the last step", async () => {
  for (const [button, value] of [
    ["Gravity", "9.81 m/s^2"],
    ["Spin", "100 rad/s"],
  ] as const) {
    const { edit } = inspect({ kind: "study", id: "" });
    await press(button);
    const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
    expect(after.loads?.at(-1)).toMatchObject({ name: button, values: { settle: value } });
    expect(objections(after)).toEqual([]);
    cleanup();
  }
});

/** Fields that no control sets, and why. */
const NOT_SET: Record<string, string> = {
  "JointUse.ask": "by kinds, see JointInspector.test",
  "JointUse.pieces": "kept by the server",
  "StudyDocument.format": "fixed",
  "StudyDocument.version": "fixed",
  "StudyDocument.name": "names the files that are written",
  "StudyDocument.thickness": "plane studies: seen in the test below",
  "StudyDocument.element_budget": "in the mesh panel",
  "Turn.axis": "the list 'Turned about'",
  "Turn.angle": "the entry 'by'",
  "RecipeUse.kind": "chosen when a part is added, see dialogs",
  "RecipeUse.file": "read from a STEP file, see dialogs",
  "BoltUse.part": "by 'Tighten it' on the part",
  "BoltUse.means": "of halves of bolts: seen in the test below",
  "LoadUse.kind": "by the button that adds it",
  "AxesUse.y": "by 'Say where y points': seen in the test below",
  "WallUse.kind": "by 'Wall against it' on a face",
  "PairUse.b": "a list of faces like PairUse.a",
  "LeftOut.a": "see FindPairs.test",
  "LeftOut.b": "see FindPairs.test",
  "LinkUse.a": "the list 'Between', as of springs",
  "LinkUse.b": "the list 'and', as of springs",
  "Law.may_open": "seen in the test of pairs that may not open",
  "MeshSettings.found": "what a settling found, see settling.test",
  "MeshSettings.edges": "seen in the test of edges",
};

/** What is drawn or bent has controls of its own, see shapes.test. */
const DRAWN = ["RecipeUse.drawn", "RecipeUse.bent", ...["DrawnShape", "BentShape"].flatMap((m) => fieldsOfDocument(m))];
/** How a study is asked again has a view of its own, see asking.test. */
const ASKED = ["SeriesUse", "InputUse", "Listed", "Even", "Normal", "Triangular", "Variant", "Change"].flatMap((m) =>
  fieldsOfDocument(m),
);

test("every field of the document has a control, which a test above sets", () => {
  const paths = [
    ...ENTRIES.map((e) => e[3]),
    ...CHOICES.map((c) => c[2]),
    ...LISTS.map((l) => l[3]),
    ...SWITCHES.map((s) => s[3]),
    ...FACES.map((f) => f[1]),
  ];
  const set = new Set(paths.flatMap((path) => fieldsOn(path)));
  const fields = fieldsOfDocument();
  expect(Object.keys(NOT_SET).filter((f) => !fields.includes(f))).toEqual([]);
  const missing = fields.filter(
    (f) => !set.has(f) && !(f in NOT_SET) && ![...DRAWN, ...ASKED].includes(f) && !/\.id$/.test(f),
  );
  expect(missing).toEqual([]);
  expect(Object.keys(NOT_SET).filter((f) => set.has(f))).toEqual([]);
});

test("turned axes say where y points when asked, across x; an axis of its own lies between the ends of a link", async () => {
  const { edit } = inspect({ kind: "support", id: "guide" });
  await press("Say where y points");
  expect(entryAt(applied(STUDY, edit.mock.calls[0]?.[0] ?? []), "/supports/1/axes/y")).toEqual([1, 0, 0]);
  cleanup();
  const link = inspect({ kind: "link", id: "hinge" });
  await userEvent.click(screen.getByRole("radio", { name: "other" }));
  const [x, y, z] = entryAt(applied(STUDY, link.edit.mock.calls[0]?.[0] ?? []), "/links/0/axis") as number[];
  expect(Math.hypot(x ?? 0, y ?? 0, z ?? 0)).toBeCloseTo(1);
});

test("directions of a support on a handle are six, and the last is not taken away", async () => {
  const { edit } = inspect({ kind: "support", id: "guide" });
  const held = within(screen.getByRole("group", { name: "Directions held" }));
  expect(held.getAllByRole("checkbox").map((box) => box.closest("label")?.textContent)).toEqual([
    "x", "y", "z", "turn x", "turn y", "turn z",
  ]); // prettier-ignore
  await userEvent.click(screen.getByLabelText("y"));
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  expect(entryAt(after, "/supports/1/components")).toEqual(["x", "y", "turn-z"]);
  cleanup();
  const one = structuredClone(STUDY);
  one.supports![1]!.components = ["x"];
  const { edit: again } = inspect({ kind: "support", id: "guide" }, { study: one });
  await userEvent.click(screen.getByLabelText("x"));
  expect(again).not.toHaveBeenCalled();
});

test("of half a bolt it is said what its preload means", async () => {
  const half = structuredClone(STUDY);
  const bolts = half.parts?.find((p) => p.id === "bolts");
  if (bolts) bolts.recipe.kept = "half";
  const { edit } = inspect({ kind: "bolt", id: "tighten" }, { study: half });
  await userEvent.click(screen.getByRole("radio", { name: "the whole bolt" }));
  expect(applied(half, edit.mock.calls[0]?.[0] ?? []).bolts?.[0]?.means).toBe("whole");
  cleanup();
  inspect({ kind: "bolt", id: "tighten" });
  expect(screen.queryByRole("radio", { name: "the whole bolt" })).toBeNull();
});

test("a pair that may no longer open has no friction to slide with", async () => {
  const { edit } = inspect({ kind: "pair", id: "seat" });
  await userEvent.click(screen.getByRole("switch", { name: "May open" }));
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  expect(after.pairs?.[0]?.law).toMatchObject({ may_open: false, may_slide: "no" });
  cleanup();
  inspect({ kind: "pair", id: "seat" }, { study: after });
  const slides = within(screen.getByRole("radiogroup", { name: "May slide" }));
  expect(slides.getAllByRole("radio").map((r) => r.textContent)).toEqual(["no", "freely"]);
});

test("a material is kept for other studies, added from there, and kept no longer", async () => {
  const mine = { ...STUDY.materials?.[0], id: "other", name: "Bronze of ours" };
  let kept: object[] = [mine];
  const { edit, asked } = inspect(
    { kind: "study", id: "" },
    {
      answer: ({ path, method, body }) => {
        if (!path.startsWith("/api/materials")) return undefined;
        if (method === "PUT") kept = [...kept, body as object];
        if (method === "DELETE") kept = [mine];
        return { body: kept };
      },
    },
  );
  await waitFor(() => expect(asked.some((a) => a.path === "/api/materials")).toBe(true));
  await choose("Add a material", "Bronze of ours, my own");
  expect(applied(STUDY, edit.mock.calls[0]?.[0] ?? []).materials?.at(-1)).toMatchObject({ name: "Bronze of ours" });
  const [first] = await screen.findAllByRole("button", { name: "Keep it for other studies" });
  await userEvent.click(first!);
  await press("Keep it no longer");
  await waitFor(() => expect(asked.at(-1)?.method).toBe("GET"));
  expect(asked.filter((a) => a.method !== "GET").map((a) => a.method)).toEqual(["PUT", "DELETE"]);
});

// The page may still show what was before the first edit when the second is made: both must last.
test.each([
  [{ kind: "step", id: "pull" }, ["Largest increment", "0.5"], ["First increment", "0.1"]],
  [{ kind: "pair", id: "seat" }, ["Stiffness × E/h", "7"], ["Friction coefficient µ", "0.3"]],
  [{ kind: "handle", id: "eye" }, ["at x", "1 cm"], ["at y", "2 cm"]],
  [part("lug"), ["to x", "1 cm"], ["to y", "2 cm"]],
] as [Selected, [string, string], [string, string]][])(
  "two entries of %o made at once both last",
  async (what, ...entries) => {
    const { edit } = inspect(what);
    for (const [label, value] of entries) await enter(label, value);
    const [one = [], other = []] = edit.mock.calls.map(([patch]) => patch);
    const both = applied(applied(STUDY, one), other);
    expect(both).toEqual(applied(applied(STUDY, other), one));
    expect(both).not.toEqual(applied(STUDY, other));
  },
);

test.each([
  [{ kind: "load", id: STUDY.loads?.[0]?.id }, "loads"],
  [{ kind: "support", id: STUDY.supports?.[0]?.id }, "supports"],
] as [Selected, "loads" | "supports"][])("%o is copied with all that is written of it", async (what, list) => {
  const { edit } = inspect(what);
  await press("Copy it");
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  const [first, copied] = [STUDY[list]?.[0], after[list]?.at(-1)];
  expect(copied).toEqual({ ...first, id: `${first?.id}-2`, name: `${first?.name}, 2` });
  expect(objections(after)).toEqual([]);
  await waitFor(() => expect(useSelection.getState().selected).toEqual({ ...what, id: copied?.id }));
});

test("the sides of a pair are swapped in one edit", async () => {
  const { edit } = inspect({ kind: "pair", id: "seat" });
  await press("swap");
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []).pairs?.[0];
  expect([after?.a, after?.b]).toEqual([["lug/top"], ["bolts/head.bearing"]]);
});

test("a bolt shows the proof load of its thread and how much of it the preload uses", async () => {
  inspect({ kind: "bolt", id: "tighten" });
  expect((await screen.findByText("91.0 kN")).textContent).toBeTruthy();
  expect(screen.getByText("44 %")).toBeTruthy();
});

/** What can be put on a handle with a click: the button, the list it goes to, and what it is. */
const AT_HANDLE: [string, "supports" | "loads" | "springs" | "bolts", object][] = [
  ["Hold it", "supports", { kind: "fixed", handle: "eye" }],
  ["Force at it", "loads", { kind: "force", handle: "eye", values: { settle: "1 kN" } }],
  ["Moment at it", "loads", { kind: "moment", values: { settle: "10 N*m" } }],
  ["Move it", "loads", { kind: "displacement", values: { settle: "0.1 mm" } }],
  ["Turn it", "loads", { id: "rotation", kind: "rotation", values: { settle: "1 deg" } }],
  ["Bolt into the ground", "bolts", { line: { head: "eye" }, preload: { tighten: "10 kN" } }],
  ["Spring to the ground", "springs", { a: "eye", stiffness: ["100 N/mm", "100 N/mm", "100 N/mm"] }],
];

test.each(AT_HANDLE)("at a handle, '%s' adds to the %s and selects it", async (button, list, wanted) => {
  const { edit } = inspect({ kind: "handle", id: "eye" });
  await press(button);
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  const added = after[list]?.at(-1);
  expect(added).toMatchObject(wanted);
  expect(objections(after)).toEqual([]);
  expect(new Set(after[list]?.map((i) => i.id)).size).toBe(after[list]?.length);
  await waitFor(() => expect(useSelection.getState().selected.id).toBe(added?.id));
});

test("every kind that can be selected has its inspector, which can take the item out", () => {
  for (const kind of namedKinds()) {
    const items = itemsOf(STUDY, kind);
    expect(items.length, kind).toBeGreaterThan(0);
    expect(entryAt(STUDY, `/${listOf(kind)}/0`)).toMatchObject({ id: items[0]?.id });
    // Materials stand among the properties of the study; only those that no part uses can go.
    const id = kind === "material" ? "pad" : (items[0]?.id ?? "");
    inspect({ kind, id });
    expect(screen.getAllByText(nameOf(kind, id)).length, kind).toBeGreaterThan(0);
    expect(
      screen.getAllByRole("button", { name: /^(Take (it|the part|the step) out|Unmake it, keep its pieces)$/ }),
      kind,
    ).toHaveLength(1);
    cleanup();
  }
});

const nameOf = (kind: NamedKind, id: string) => itemsOf(STUDY, kind).find((i) => i.id === id)?.name ?? "";

test("what is selected and no longer there shows the study", () => {
  inspect({ kind: "pair", id: "gone" });
  expect(screen.getByLabelText<HTMLInputElement>("Title").value).toBe("Shackle of the hoist");
});

test("a refused entry stays with the reason beside it, and goes with Escape", async () => {
  const { edit } = inspect({ kind: "pair", id: "seat" });
  edit.mockRejectedValueOnce(new ApiProblem("units", "'5' has no unit.", "pairs/seat/search", "Write 5 mm."));
  const input = screen.getByLabelText<HTMLInputElement>("Search distance");
  await userEvent.clear(input);
  await userEvent.type(input, "5{Enter}");
  expect((await screen.findByRole("alert")).textContent).toBe("'5' has no unit. Write 5 mm.");
  expect([input.value, input.getAttribute("aria-invalid")]).toEqual(["5", "true"]);
  await userEvent.type(input, "{Escape}");
  expect([input.value, input.getAttribute("aria-invalid")]).toEqual(["60 mm", "false"]);
  expect(edit).toHaveBeenCalledTimes(1);
});

test("a contact property begins as the pair that shares it, which has it then", async () => {
  const { edit } = inspect({ kind: "pair", id: "seat" });
  await press("share it with other pairs");
  const after = applied(STUDY, edit.mock.calls[0]?.[0] ?? []);
  const { law, enforcement } = STUDY.pairs![0]!;
  expect(after.contacts?.at(-1)).toMatchObject({ id: "contact", law, enforcement });
  expect(after.pairs?.[0]?.contact).toBe("contact");
  expect(objections(after)).toEqual([]);
  await waitFor(() => expect(useSelection.getState().selected).toEqual({ kind: "contact", id: "contact" }));
});

test("the study tells how it will be solved, and why where it was not asked for", () => {
  const size = {
    unknowns: 1411002,
    joint_unknowns: 40375,
    path: "iterative" as const,
    path_reason: "the joints have 40375 unknowns",
    memory_mb: 12264,
    result_mb: 120,
  };
  const whole = { kind: "study" as const, id: "" };
  inspect(whole, { study: { ...STUDY, path: "automatic" }, size });
  const section = screen.getByRole("heading", { name: "Size of the run" }).parentElement!;
  expect(within(section).getByText("iterated, nothing factored")).toBeTruthy();
  expect(within(section).getByText("Because the joints have 40375 unknowns.")).toBeTruthy();
  expect(within(section).getByText("1 411 002")).toBeTruthy();
  cleanup();
  inspect(whole, { study: { ...STUDY, path: "iterative" }, size: { ...size, path_reason: "asked for" } });
  expect(screen.queryByText(/Because/)).toBeNull();
});
