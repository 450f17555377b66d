import { render } from "@testing-library/react";
import { vi } from "vitest";

import type { FaceInfo, PatchStep, Preflight, RecipeInfo, StudyDocument } from "@/api/client";
import { Inspector } from "@/features/bench/Inspector";
import { type Selected, useSelection } from "@/features/selection";

import { STUDY } from "./document";
import { type Exchange, answering, studyAt, withCache } from "./server";

const dimension = (name: string, label: string, kind: "length" | "count", drops: string | null = null) => ({
  name,
  label,
  kind,
  default: 1,
  drops,
});
export const RECIPES = [
  {
    kind: "lug",
    label: "Lug",
    summary: "A plate with an eye",
    spaces: ["solid"],
    dimensions: [dimension("thickness", "Thickness", "length")],
  },
  {
    kind: "bolt",
    label: "Bolt",
    summary: "With head and nut",
    spaces: ["solid"],
    dimensions: [dimension("diameter", "Diameter", "length")],
  },
  {
    kind: "plate",
    label: "Plate",
    summary: "With holes",
    spaces: ["solid", "plane-strain"],
    dimensions: [dimension("holes", "Holes", "count", "holes")],
  },
] as unknown as RecipeInfo[];

type More = {
  study?: StudyDocument;
  face?: FaceInfo;
  size?: Preflight["size"];
  answer?: (asked: Exchange) => { status?: number; body: unknown } | undefined;
};

/** The inspector of what is selected, with what it is told of a server; gives its edits, matings and requests. */
export function inspect(selected: Selected, { study = STUDY, face, size = null, answer }: More = {}) {
  useSelection.setState({ selected, mating: undefined, measured: undefined, sight: {} });
  const asked = answering((one) => {
    if (one.path === "/api/grades") return { body: [{ ...STUDY.materials?.[0], name: "Other steel" }] };
    const own = answer?.(one);
    if (own) return own;
    if (one.path === "/api/materials") return { body: [] };
    if (one.path === "/api/fits") return { body: { least: 0.0115, mean: 0.0237, most: 0.036 } };
    if (one.path.endsWith("/face")) return { body: face };
    if (one.path.includes("/joints/"))
      return { body: { name: "", makes: "", takes: "", bodies: [], told: [], figures: [] } };
    return { body: { pitch: 2, stress_area: 157, proof_load: 91e3 } };
  });
  const info = { ...studyAt(1, study), amounts: { loads: {}, courses: {}, bolts: { tighten: { tighten: 40e3 } } } };
  const edit = vi.fn<(patch: PatchStep[], label: string) => Promise<unknown>>().mockResolvedValue(undefined);
  const mate = vi.fn<(face: string) => void>();
  const { Wrapper } = withCache([info]);
  render(
    <Inspector
      info={info}
      study={study}
      onEdit={edit}
      recipes={RECIPES}
      preflight={{ may_run: true, findings: [], pairs: [], size }}
      faces={{ lug: ["top", "hole", "cut.1"], bolts: ["shank"], beam: ["back"] }}
      neighbours={() => ["top"]}
      onMate={mate}
      isChecking={false}
      checkProblem={null}
    />,
    { wrapper: Wrapper },
  );
  return { edit, mate, asked };
}
