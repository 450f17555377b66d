import { useQuery } from "@tanstack/react-query";

import { type components } from "./schema";
import { api, unwrap } from "./client";

export type Vocabulary = components["schemas"]["Vocabulary"];
export type KindName = components["schemas"]["KindInfo"]["name"];
export type LoadKind = components["schemas"]["LoadSortInfo"]["kind"];
export type Quantity = components["schemas"]["LoadSortInfo"]["quantity"];
export type JointSort = components["schemas"]["JointSort"];
export type AskField = components["schemas"]["AskField"];
export type FieldInfo = components["schemas"]["FieldInfo"];

let learnt: Vocabulary | undefined;

/** Asks the server for its tables; `App` waits for them before it draws anything that uses them. */
export const useLearnVocabulary = () =>
  useQuery({
    queryKey: ["vocabulary"],
    queryFn: async () => {
      learnt = unwrap<Vocabulary>(await api.GET("/api/vocabulary"));
      return learnt;
    },
    staleTime: Infinity,
  });

/** The tables of the server: kinds of items and loads, quantities, fields of results. */
export function vocabulary(): Vocabulary {
  if (!learnt) throw new Error("The vocabulary is not there yet: draw this inside App, which waits for it.");
  return learnt;
}

/** Gives the tables without a server, for tests. */
export const learn = (tables: Vocabulary) => {
  learnt = tables;
};

export const kindOf = (list: string) => vocabulary().kinds.find((k) => k.list === list)?.name;

export const loadSort = (kind: LoadKind) => {
  const found = vocabulary().loads.find((l) => l.kind === kind);
  if (!found) throw new Error(`The server does not know loads of the kind ${kind}.`);
  return found;
};

export const jointSort = (kind: string) => {
  const found = vocabulary().joints.find((j) => j.kind === kind);
  if (!found) throw new Error(`The server does not know joints of the kind ${kind}.`);
  return found;
};
