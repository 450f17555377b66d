import createClient from "openapi-fetch";

import type { components, operations, paths } from "./schema";

export type StudyDocument = components["schemas"]["StudyDocument"];
export type StudyInfo = components["schemas"]["StudyInfo"];
export type DemoInfo = components["schemas"]["DemoInfo"];
export type StudySummary = components["schemas"]["StudySummary"];
export type RunInfo = components["schemas"]["RunInfo"];
export type Ledger = components["schemas"]["Ledger"];
export type LedgerRow = components["schemas"]["Row"];
export type LedgerCell = components["schemas"]["Cell"];
export type Preflight = components["schemas"]["Preflight"];
export type Finding = components["schemas"]["Finding"];
export type RecipeInfo = components["schemas"]["RecipeInfo"];
export type PartUse = components["schemas"]["Part"];
export type PairUse = components["schemas"]["PairUse"];
export type BoltUse = components["schemas"]["BoltUse"];
export type LoadUse = components["schemas"]["LoadUse"];
export type SupportUse = components["schemas"]["SupportUse"];
export type HandleUse = components["schemas"]["HandleUse"];
export type SpringUse = components["schemas"]["SpringUse"];
export type TurnedAxes = components["schemas"]["TurnedAxes"];
export type AxesUse = components["schemas"]["AxesUse"];
export type LinkUse = components["schemas"]["LinkUse"];
export type WallUse = components["schemas"]["WallUse"];
export type FaceInfo = components["schemas"]["FaceInfo"];
export type Material = components["schemas"]["Material"];
export type StepUse = components["schemas"]["StepUse"];

export type FitInfo = components["schemas"]["FitInfo"];
export type ThreadInfo = components["schemas"]["ThreadInfo"];
export type Suggestion = components["schemas"]["Suggestion"];

export type Sheet = components["schemas"]["Sheet"];
export type Copying = components["schemas"]["Copying"];
export type Course = components["schemas"]["Course"];
export type Curve = components["schemas"]["Curve"];
export type Manner = NonNullable<components["schemas"]["Mating"]["manner"]>;
export type Measured = components["schemas"]["Measured"];
export type MeshReport = components["schemas"]["MeshReport"];
export type MeshJob = components["schemas"]["MeshJob"];
export type FileUse = components["schemas"]["FileUse"];
export type FileSolid = components["schemas"]["FileSolid"];
export type FileReplaced = components["schemas"]["FileReplaced"];
export type StepFile = components["schemas"]["StepFile"];
export type Summary = components["schemas"]["Summary"];
export type PathValues = components["schemas"]["PathValues"];
export type HotSpot = components["schemas"]["HotSpotInfo"];
export type AlongBeam = components["schemas"]["AlongBeam"];
export type SingularLines = components["schemas"]["SingularLines"];
export type ProfileInfo = components["schemas"]["ProfileInfo"];
export type AlongPair = components["schemas"]["AlongPair"];
export type Crosses = components["schemas"]["Crosses"];
export type ReportOrder = components["schemas"]["ReportOrder"];
export type FilmOrder = components["schemas"]["FilmOrder"];
export type Resultant = components["schemas"]["Resultant"];
export type Carrier = components["schemas"]["Carrier"];
export type LargestForces = components["schemas"]["LargestForces"];
export type SolvedStudy = components["schemas"]["SolvedStudy"];
export type HandCheck = components["schemas"]["HandCheck"];
export type Reckoning = components["schemas"]["Reckoning"];
export type Settled = components["schemas"]["Settled"];
export type SettledMeasure = components["schemas"]["SettledMeasure"];
export type SettleWanted = components["schemas"]["Wanted"];
export type Health = components["schemas"]["Health"];
export type RubberAsked = components["schemas"]["RubberAsked"];
export type RubberFound = components["schemas"]["RubberConstantsFound"];
export type PlacedDimension = components["schemas"]["PlacedDimension"];
export type ToldEdit = components["schemas"]["ToldEdit"];
export type FileUnit = NonNullable<
  NonNullable<operations["read_geometry_api_geometry_post"]["parameters"]["query"]>["unit"]
>;
export type JointUse = components["schemas"]["JointUse"];
export type JointInfo = components["schemas"]["JointInfo"];
export type JointAsk = JointUse["ask"];
export type HandFigure = components["schemas"]["HandFigure"];
export type RecipeUse = components["schemas"]["RecipeUse"];
export type DrawnShape = components["schemas"]["DrawnShape"];
export type DrawnOutline = components["schemas"]["DrawnOutline"];
export type DrawnEdge = components["schemas"]["DrawnEdge"];
export type DrawnLayer = components["schemas"]["DrawnLayer"];
export type Drawing = components["schemas"]["Drawing"];
export type DrawingPlane = components["schemas"]["DrawingPlane"];
export type BentShape = components["schemas"]["BentShape"];
export type BarRun = components["schemas"]["BarRun"];
export type Cutting = components["schemas"]["Cutting"];
/** One event of a run's story, as the worker wrote it. */
export type RunEvent =
  paths["/api/runs/{run_id}/story"]["get"]["responses"][200]["content"]["application/json"][number];

export type PatchStep = { op: "add" | "replace" | "remove"; path: string; value?: unknown };

/** What the server says when a request cannot be done. */
export class ApiProblem extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly where: string,
    readonly hint: string,
  ) {
    super(message);
  }
}

export const api = createClient<paths>({ baseUrl: "" });

type Answer = { data?: unknown; error?: unknown; response: Response };

/**
 * The data of an answer, or an `ApiProblem` that says what was wrong. The caller names the schema:
 * the client's own inference widens tuples to arrays.
 */
export function unwrap<T>(answer: Answer): T {
  if (answer.response.ok) return answer.data as T;
  const body = (answer.error ?? {}) as Partial<Record<"code" | "message" | "where" | "hint", string>>;
  throw new ApiProblem(
    body.code ?? String(answer.response.status),
    body.message ?? "The server did not answer as expected.",
    body.where ?? "",
    body.hint ?? "",
  );
}

/** A binary answer; problems as `ApiProblem`. */
export async function fetchBinary(path: string, body?: unknown): Promise<ArrayBuffer> {
  const sent =
    body === undefined
      ? undefined
      : { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body) };
  const response = await fetch(path, sent);
  if (!response.ok) unwrap({ error: await response.json().catch(() => ({})), response });
  return response.arrayBuffer();
}
export type SeriesUse = components["schemas"]["SeriesUse"];
export type InputUse = components["schemas"]["InputUse"];
export type Spread = InputUse["spread"];
export type SeriesInfo = components["schemas"]["SeriesInfo"];
export type InputInfo = components["schemas"]["InputInfo"];
export type SampleRow = components["schemas"]["SampleRow"];
export type Findings = components["schemas"]["Findings"];
export type Sure = components["schemas"]["Sure"];
export type VariantInfo = components["schemas"]["ToldVariant"];
export type StudyChange = components["schemas"]["Change"];
