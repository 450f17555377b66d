import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactNode } from "react";

import type { StudyDocument, StudyInfo } from "@/api/client";

import { fetching } from "./fetching";

/** What a request sent, and what it is answered. */
export type Exchange = { method: string; path: string; query: URLSearchParams; body: unknown };
type Answer = { status?: number; body: unknown };

/** Puts answers in the place of the server; what was asked is kept in order. */
export function answering(answer: (asked: Exchange) => Answer | Promise<Answer>): Exchange[] {
  const asked: Exchange[] = [];
  fetching.answer = async (input: RequestInfo | URL, init?: RequestInit) => {
    const request = input instanceof Request ? input : new Request(input, init);
    const url = new URL(request.url, "http://server");
    const text = await request.text();
    const body: unknown = /^[[{"]/.test(text) && !text.startsWith("[object") ? JSON.parse(text) : text || undefined;
    const one = { method: request.method, path: url.pathname, query: url.searchParams, body };
    asked.push(one);
    const { status = 200, body: said } = await answer(one);
    const sent = said instanceof Uint8Array ? new Uint8Array(said) : JSON.stringify(said);
    return new Response(sent, { status, headers: { "content-type": "application/json" } });
  };
  return asked;
}

/** A scene without anything in it, as the server packs scenes. */
export function emptyScene(): Uint8Array {
  const header = new TextEncoder().encode(JSON.stringify({ bodies: [], arrays: {} }));
  const block = new Uint8Array(4 + header.length);
  new DataView(block.buffer).setUint32(0, header.length, true);
  block.set(header, 4);
  return block;
}

/** A study at a revision. */
export const studyAt = (revision: number, document: Partial<StudyDocument> = {}): StudyInfo => ({
  id: 1,
  revision,
  document: { format: "ulmek-study", version: 2, name: "study", title: "Study", ...document } as StudyDocument,
  amounts: { loads: {}, courses: {}, bolts: {} },
  undo: null,
  redo: null,
});

/** A fresh cache, with what it knows of studies, around what is tested. */
export function withCache(studies: StudyInfo[] = []) {
  const cache = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  for (const study of studies) cache.setQueryData(["study", study.id], study);
  const Wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={cache}>{children}</QueryClientProvider>
  );
  return { cache, Wrapper };
}
