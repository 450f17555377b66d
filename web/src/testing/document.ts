import { Ajv2020 } from "ajv/dist/2020.js";

import type { PatchStep, StudyDocument } from "@/api/client";

import openapi from "../../openapi.json";
import study from "./study.json";

/** A study with something of every kind; the server's own tests read the same file. */
export const STUDY = study as unknown as StudyDocument;

const rules = new Ajv2020({ strict: false, allErrors: true });
rules.addSchema(openapi, "server");
const schema = rules.compile({ $ref: "server#/components/schemas/StudyDocument" });

/** What the server's schema has against a study; nothing where it fits. */
export function objections(document: unknown): string[] {
  schema(document);
  return (schema.errors ?? []).map((e) => `${e.instancePath} ${e.message}`);
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

/** The entry at a path such as `/pairs/0/law/mu`. */
export const entry = (document: StudyDocument, path: string): unknown =>
  path
    .slice(1)
    .split("/")
    .reduce<unknown>((node, step) => (node as Record<string, unknown> | undefined)?.[step], document);
