import type { Vocabulary } from "@/api/vocabulary";

import tables from "./vocabulary.json";

/** The server's tables, as `make types` writes them. */
export const VOCABULARY = tables as Vocabulary;
