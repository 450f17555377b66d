import { Ajv2020 } from "ajv/dist/2020.js";

import type { PatchStep, StudyDocument } from "@/api/client";

import openapi from "../../openapi.json";
import study from "./study.json";

/** A study with something of every kind; the server's own tests read the same file. */
export const STUDY = study as unknown as StudyDocument;

const rules = new Ajv2020({ strict: false, allErrors: true });
rules.addSchema(openapi, "server");
const schema = rules.compile({ $ref: "server#/components/schemas/StudyDocument" });

/** What the server has against a study, by its schema and as to ids that are there twice; nothing where it fits. */
export function objections(document: StudyDocument): string[] {
  schema(document);
  const twice = Object.entries(document).flatMap(([list, items]) => {
    const ids = Array.isArray(items) ? items.map((item: { id?: string }) => item.id) : [];
    return ids.filter((id, i) => id !== undefined && ids.indexOf(id) !== i).map((id) => `/${list} has ${id} twice`);
  });
  return [...(schema.errors ?? []).map((e) => `${e.instancePath} ${e.message}`), ...twice];
}

type Node = Record<string, unknown> | unknown[];

/** The study after an edit, as the server applies it (RFC 6902: add, replace, remove). */
export function applied(document: StudyDocument, patch: PatchStep[]): StudyDocument {
  const after = structuredClone(document);
  for (const { op, path, value } of patch) {
    const steps = path.slice(1).split("/");
    const last = steps.pop() ?? "";
    const owner = steps.reduce<unknown>((node, step) => (node as Record<string, unknown>)[step], after) as Node;
    if (owner === undefined) throw new Error(`Nothing is at ${path}.`);
    if (Array.isArray(owner)) {
      const at = last === "-" ? owner.length : Number(last);
      if (op === "add") owner.splice(at, 0, value);
      else if (op === "replace") owner[at] = value;
      else owner.splice(at, 1);
    } else if (op === "remove") delete owner[last];
    else owner[last] = value;
  }
  return after;
}

type Schema = {
  $ref?: string;
  type?: string;
  anyOf?: Schema[];
  items?: Schema;
  prefixItems?: Schema[];
  additionalProperties?: Schema | boolean;
  patternProperties?: Record<string, Schema>;
  properties?: Record<string, Schema>;
};
const SCHEMAS = openapi.components.schemas as unknown as Record<string, Schema>;
/** What is read from a file, and what the server keeps of a joint's pieces: nobody sets it. */
const READ = ["FileUse", "Pieces"];

/** The model that a schema means, through what may be left out. */
function modelOf(schema: Schema | undefined): string | undefined {
  const reference = schema?.$ref ?? schema?.anyOf?.find((s) => s.$ref)?.$ref;
  return reference?.split("/").at(-1);
}

/** What a list or a table of something holds. */
function heldBy(schema: Schema | undefined): Schema | undefined {
  const own = schema?.anyOf?.find((s) => s.type === "array" || s.type === "object") ?? schema;
  if (own?.type === "array") return own.items ?? own.prefixItems?.[0];
  const [named] = Object.values(own?.patternProperties ?? {});
  if (named) return named;
  return typeof own?.additionalProperties === "object" ? own.additionalProperties : undefined;
}

/** Every field of the document as `Model.field`, those aside that only hold items. */
export function fieldsOfDocument(model = "StudyDocument", seen = new Set<string>()): string[] {
  if (seen.has(model) || READ.includes(model)) return [];
  seen.add(model);
  return Object.entries(SCHEMAS[model]?.properties ?? {}).flatMap(([name, schema]) => {
    let held = heldBy(schema);
    while (held && !modelOf(held) && heldBy(held)) held = heldBy(held);
    const inner = modelOf(held);
    const below = [inner, modelOf(schema)].flatMap((m) => (m ? fieldsOfDocument(m, seen) : []));
    return inner && model === "StudyDocument" ? below : [`${model}.${name}`, ...below];
  });
}

/** The fields that a path goes through: `/pairs/0/law/mu` is of `PairUse.law` and `Law.mu`. */
export function fieldsOn(path: string): string[] {
  const fields: string[] = [];
  let schema: Schema | undefined = { $ref: "#/components/schemas/StudyDocument" };
  for (const step of path.slice(1).split("/")) {
    const model: string | undefined = modelOf(schema);
    if (model) {
      fields.push(`${model}.${step}`);
      schema = SCHEMAS[model]?.properties?.[step];
    } else schema = heldBy(schema);
  }
  return fields;
}
