import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test } from "vitest";

import type { FaceInfo } from "@/api/client";
import { selectionOf, useSelection } from "@/features/selection";
import { choose, enter, press } from "@/tests/controls";
import { STUDY, applied, objections } from "@/tests/document";
import { inspect } from "@/tests/inspect";
import { studyAt } from "@/tests/server";
import { useNotices } from "@/ui/notices";

import { symmetryAt } from "./PartPlace";

beforeEach(() => {
  useNotices.setState({ notices: [] });
});
afterEach(cleanup);

const hole = { kind: "part", id: "lug", face: "hole" } as const;
const after = (edit: ReturnType<typeof inspect>["edit"], call = 0) => applied(STUDY, edit.mock.calls[call]?.[0] ?? []);
const chosen = () => useSelection.getState().selected;

test.each([
  ["Hold it", "supports", { id: "hold", kind: "fixed", faces: ["lug/hole"] }],
  ["Force on it", "loads", { id: "force", kind: "force", direction: [0, 0, -1], values: { settle: "1 kN" } }],
  ["Pressure on it", "loads", { id: "pressure", kind: "pressure", values: { settle: "1 MPa" } }],
] as const)("with a picked face, '%s' adds to the %s and selects it", async (button, list, wanted) => {
  const { edit } = inspect(hole);
  await press(button);
  expect(after(edit)[list]?.at(-1)).toMatchObject(wanted);
  expect(objections(after(edit))).toEqual([]);
  await waitFor(() => expect(chosen().id).toBe(wanted.id));
});

const FLAT: FaceInfo = { kind: "flat", at: [1, 2, 3], direction: [0, 0, 1], radius: 0, is_hollow: false };

test("a handle is put where the server says that the face is", async () => {
  const { edit, asked } = inspect(hole, { face: { ...FLAT, at: [0.1 + 0.2, -5, 0] } });
  await press("Handle on it");
  await waitFor(() => expect(edit).toHaveBeenCalled());
  expect(asked.find((a) => a.path.endsWith("/face"))?.query.get("face")).toBe("lug/hole");
  expect(after(edit).handles?.at(-1)).toMatchObject({ at: ["0.3 mm", "-5 mm", "0 mm"], faces: ["lug/hole"] });
  expect(objections(after(edit))).toEqual([]);
});

// A wall faces the part that it touches, and lies round a shaft or inside a hole.
test.each([
  ["flat", FLAT, { kind: "plane", direction: [0, 0, -1], hollow: false }],
  ["hole", { ...FLAT, kind: "round", radius: 8, is_hollow: true }, { kind: "cylinder", radius: "8 mm", hollow: false }],
  ["shaft", { ...FLAT, kind: "round", radius: 8 }, { kind: "cylinder", direction: [0, 0, 1], hollow: true }],
  ["ball", { ...FLAT, kind: "ball", radius: 5, direction: [1, 0, 0] }, { kind: "sphere", direction: [0, 0, 1] }],
] as [string, FaceInfo, object][])("a wall against a %s comes with its pair", async (_, face, wanted) => {
  const { edit } = inspect(hole, { face });
  await press("Wall against it");
  await waitFor(() => expect(edit).toHaveBeenCalled());
  const wall = after(edit).walls?.at(-1);
  expect(wall).toMatchObject(wanted);
  expect(after(edit).pairs?.at(-1)).toMatchObject({ a: ["lug/hole"], b: [], wall: wall?.id });
  expect(objections(after(edit))).toEqual([]);
  await waitFor(() => expect(chosen()).toEqual({ kind: "wall", id: wall?.id }));
});

test("a round face is moved away from its own axis", async () => {
  const round = { ...FLAT, kind: "round", radius: 8, direction: [0, 0.01, -0.99] } as FaceInfo;
  const { edit } = inspect(hole, { face: round });
  await press("Radial motion");
  await waitFor(() => expect(edit).toHaveBeenCalled());
  const wanted = { kind: "radial", direction: [0, 0.01, -0.99], centre: ["1 mm", "2 mm", "3 mm"], faces: ["lug/hole"] };
  expect(after(edit).loads?.at(-1)).toMatchObject(wanted);
  expect(objections(after(edit))).toEqual([]);
});

test("a face that the server cannot place is told beside the buttons", async () => {
  const refusal = { status: 422, body: { code: "input", message: "the face is free-form.", where: "", hint: "" } };
  const answer = ({ path }: { path: string }) => (path.endsWith("/face") ? refusal : undefined);
  const { edit } = inspect(hole, { answer });
  await press("Handle on it");
  expect((await screen.findByRole("alert")).textContent).toBe("the face is free-form.");
  expect(edit).not.toHaveBeenCalled();
});

test("a face waits to be mated, and the next face that is picked takes it", async () => {
  inspect(hole);
  await press("Mate it…");
  expect(useSelection.getState().mating).toBe("lug/hole");
  cleanup();
  const { mate } = inspect({ kind: "part", id: "bolts", copy: 2, face: "shank" });
  useSelection.setState({ mating: "lug/hole" });
  await waitFor(() => screen.getByRole("button", { name: "Bring lug/hole to this face" }));
  await press("Bring lug/hole to this face");
  expect(mate).toHaveBeenCalledWith("bolts#2/shank");
});

test("copies are chosen, added beside the one that is shown, and taken out", async () => {
  const { edit } = inspect({ kind: "part", id: "bolts", copy: 2 });
  await press("Add a copy");
  expect(after(edit).parts?.[1]?.placements).toHaveLength(3);
  expect(after(edit).parts?.[1]?.placements?.[2]).toEqual(STUDY.parts?.[1]?.placements?.[1]);
  await waitFor(() => expect(chosen().copy).toBe(3));
  await press("Take this copy out");
  expect(after(edit, 1).parts?.[1]?.placements).toEqual([STUDY.parts?.[1]?.placements?.[0]]);
  await choose("Copy", "2 of 2");
  expect(chosen()).toMatchObject({ id: "bolts", copy: 2 });
});

test("a part is hidden, shown through, shown alone and shown again", async () => {
  inspect({ kind: "part", id: "lug" });
  const sight = () => useSelection.getState().sight;
  await press("Hide");
  expect(sight()).toEqual({ lug: "hidden" });
  await press("See through");
  expect(sight()).toEqual({ lug: "ghost" });
  await press("Only this");
  expect(sight()).toEqual({ bolts: "hidden", beam: "hidden" });
  await press("Show all");
  expect(sight()).toEqual({});
  expect(screen.queryByRole("button", { name: "Show all" })).toBeNull();
});

test("a cut that nothing holds is held as symmetry, one support for each face", async () => {
  const { edit } = inspect({ kind: "part", id: "lug" });
  await press("Hold the cut as symmetry");
  const held = after(edit).supports?.at(-1);
  expect(held).toMatchObject({ kind: "symmetry", faces: ["lug/cut.1"] });
  cleanup();
  inspect({ kind: "part", id: "lug" }, { study: after(edit) });
  expect(screen.queryByRole("button", { name: "Hold the cut as symmetry" })).toBeNull();
  const two = applied(STUDY, symmetryAt(STUDY, STUDY.parts![0]!, ["cut.1", "cut.2"]));
  expect(objections(two)).toEqual([]);
  expect(two.supports?.slice(-2).map((s) => s.id)).toEqual(["symmetry-lug-cut-1", "symmetry-lug-cut-2"]);
});

test("a bolt that is not tightened yet is tightened in the first step, others are not offered it", async () => {
  inspect({ kind: "part", id: "bolts" });
  expect(screen.queryByRole("button", { name: "Tighten it" })).toBeNull();
  cleanup();
  inspect({ kind: "part", id: "lug" });
  expect(screen.queryByRole("button", { name: "Tighten it" })).toBeNull();
  cleanup();
  const { edit } = inspect({ kind: "part", id: "bolts" }, { study: { ...STUDY, bolts: [] } });
  await press("Tighten it");
  expect(after(edit).bolts?.at(-1)).toMatchObject({ part: "bolts", preload: { tighten: "10 kN" } });
  await waitFor(() => expect(chosen()).toEqual({ kind: "bolt", id: "tighten-bolts" }));
});

test("a cut names its plane and what it leaves; a refusal is told, and what went with it", async () => {
  const answers = [
    { status: 422, body: { code: "input", message: "the plane misses the part.", where: "at", hint: "Move it." } },
    { body: { study: studyAt(2), told: "Also takes out pair Seat." } },
  ];
  const { asked } = inspect(
    { kind: "part", id: "lug" },
    { answer: ({ path }) => (path.endsWith("/cut") ? answers.shift() : undefined) },
  );
  await enter("at x", "12 mm");
  await press("Cut the part");
  expect((await screen.findByRole("alert")).textContent).toBe("the plane misses the part. Move it.");
  await choose("Leaves", "what lies behind, with symmetry");
  await press("Cut the part");
  await waitFor(() => expect(chosen()).toEqual({ kind: "study", id: "" }));
  expect(useNotices.getState().notices[0]?.text).toBe("Lug is cut. Also takes out pair Seat.");
  const plane = { parts: ["lug"], axes: "own", normal: [1, 0, 0], at: "12 mm" };
  expect(asked.filter((a) => a.method === "POST").map((a) => [a.path, a.body])).toEqual([
    ["/api/studies/1/cut", { ...plane, keep: "both", leaves: "tied" }],
    ["/api/studies/1/cut", { ...plane, keep: "behind", leaves: "symmetry" }],
  ]);
});

test("a cut through the picked face asks where that is, in the axes of the study", async () => {
  const { asked } = inspect(hole, { face: { ...FLAT, at: [1, 2, 3], direction: [0, 0.6, 0.8] } });
  await choose("Across", "through the picked face");
  await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("along it from the origin").value).toBe("3.6 mm"));
  await press("Cut the part");
  await waitFor(() => expect(asked.some((a) => a.method === "POST")).toBe(true));
  expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({ axes: "study", normal: [0, 0.6, 0.8] });
});

test("several parts are given one material and left out in one step each", async () => {
  const { edit } = inspect(selectionOf(["lug", "bolts"]));
  expect(screen.getByRole("heading", { name: "2 parts" })).toBeTruthy();
  await press("Leave them out");
  await enter("Element size", "2 mm");
  expect(
    after(edit)
      .parts?.slice(0, 2)
      .map((p) => p.in_analysis),
  ).toEqual([false, false]);
  expect(
    after(edit, 1)
      .parts?.slice(0, 2)
      .map((p) => p.mesh.size),
  ).toEqual(["2 mm", "2 mm"]);
  expect(edit.mock.calls[0]?.[1]).toBe("Leaving out of 2 parts");
  expect(objections(after(edit, 1))).toEqual([]);
});

test("what is taken out is told with all that goes with it, and can be undone there", async () => {
  const answer = ({ path }: { path: string }) => {
    if (path.endsWith("/take-out")) return { body: { study: studyAt(2), told: "Also takes out pair Seat." } };
    return path.endsWith("/undo") ? { body: studyAt(3) } : undefined;
  };
  const { asked } = inspect({ kind: "part", id: "lug" }, { answer });
  await press("Take the part out");
  await waitFor(() => expect(useNotices.getState().notices).toHaveLength(1));
  const notice = useNotices.getState().notices[0];
  expect(notice?.text).toBe("Lug is taken out. Also takes out pair Seat.");
  expect(chosen()).toEqual({ kind: "study", id: "" });
  notice?.undo?.();
  await waitFor(() => expect(asked.map((a) => a.path)).toContain("/api/studies/1/undo"));
  expect(asked.find((a) => a.path.endsWith("take-out"))?.body).toEqual({ kind: "part", id: "lug", with_pieces: false });
});

test("copies in a row, a ring and a mirror image begin at the copy that is looked at", async () => {
  const { asked } = inspect(
    { kind: "part", id: "bolts", copy: 2 },
    { answer: ({ path }) => (path.endsWith("/copies") ? { body: studyAt(2, STUDY) } : undefined) },
  );
  await enter("each further by y", "12 mm");
  await enter("With this one", "3");
  await press("Make the copies");
  await userEvent.click(screen.getByRole("radio", { name: "ring" }));
  await enter("axis through x", "1 cm");
  await enter("Over", "90 deg");
  await press("Make the copies");
  await userEvent.click(screen.getByRole("radio", { name: "mirror image" }));
  await userEvent.click(screen.getByRole("radio", { name: "y" }));
  await enter("plane at y", "1 in");
  await press("Make the mirror image");
  await waitFor(() => expect(asked.filter((a) => a.path.endsWith("/copies"))).toHaveLength(3));
  expect(asked.filter((a) => a.path === "/api/studies/1/parts/bolts/copies").map((a) => a.body)).toEqual([
    { copy_number: 2, pattern: { kind: "row", count: 3, step: ["20 mm", "12 mm", "0 mm"] } },
    {
      copy_number: 2,
      pattern: { kind: "ring", count: 3, axis: "z", through: ["1 cm", "0 mm", "0 mm"], angle: "90 deg" },
    },
    { copy_number: 2, pattern: { kind: "mirror", axis: "y", at: "1 in" } },
  ]);
});

test("features of a solid of a file are left out by the faces that bound them", async () => {
  const [first, ...rest] = STUDY.parts ?? [];
  const file = { name: "lug.step", digest: "0".repeat(64), solid: 0, content: "sha256:" };
  const study = { ...STUDY, parts: [{ ...first!, recipe: { ...first!.recipe, kind: "file", file } }, ...rest] };
  const told = { study: studyAt(2), told: "Also takes out support Base." };
  const { asked } = inspect(hole, {
    study,
    answer: ({ path }) => (path.endsWith("/drop-features") ? { body: told } : undefined),
  });
  await press("Pick one more face");
  await choose("Face", "top");
  await press("Leave it out");
  await waitFor(() => expect(useNotices.getState().notices).toHaveLength(1));
  expect(useNotices.getState().notices[0]?.text).toBe("Lug goes on without hole, top. Also takes out support Base.");
  const sent = asked.find((a) => a.path.endsWith("/drop-features"));
  expect([sent?.path, sent?.body]).toEqual(["/api/studies/1/parts/lug/drop-features", { faces: ["hole", "top"] }]);
  expect(chosen()).toEqual({ kind: "part", id: "lug" });
});

test("a mesh is made finer around the point where a face was picked", async () => {
  const answer = ({ path }: { path: string }) => (path.endsWith("/finer") ? { body: studyAt(2, STUDY) } : undefined);
  const { asked } = inspect({ kind: "part", id: "bolts", copy: 2, face: "shank", at: [1, 2.5, -3] }, { answer });
  await press("Finer around this point");
  await waitFor(() => expect(asked.some((a) => a.path.endsWith("/finer"))).toBe(true));
  const sent = asked.find((a) => a.method === "POST");
  expect([sent?.path, sent?.body]).toEqual(["/api/studies/1/parts/bolts/finer", { copy_number: 2, at: [1, 2.5, -3] }]);
  cleanup();
  inspect({ kind: "part", id: "bolts", face: "shank" });
  expect(screen.queryByRole("button", { name: "Finer around this point" })).toBeNull();
});
