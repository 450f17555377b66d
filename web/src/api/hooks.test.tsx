import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";

import { answering, studyAt, withCache } from "@/tests/server";
import { useNotices } from "@/ui/notices";

import { useEdits, usePreflight } from "./hooks";

beforeEach(() => useNotices.setState({ notices: [] }));
afterEach(cleanup);

const title = (text: string) => ({ patch: [{ op: "replace" as const, path: "/title", value: text }], label: "Title" });

test("edits in quick succession are made one after another, each on what the one before has left", async () => {
  const { Wrapper, cache } = withCache([studyAt(1)]);
  const asked = answering(({ body }) => {
    const base = (body as { base_revision: number }).base_revision;
    return { body: studyAt(base + 1) };
  });
  const { result } = renderHook(() => useEdits(1), { wrapper: Wrapper });
  await act(async () => {
    await Promise.all([
      result.current.edit.mutateAsync(title("one")),
      result.current.edit.mutateAsync(title("two")),
      result.current.edit.mutateAsync(title("three")),
    ]);
  });
  expect(asked.map((a) => (a.body as { base_revision: number }).base_revision)).toEqual([1, 2, 3]);
  expect(cache.getQueryData(["study", 1])).toMatchObject({ revision: 4 });
});

test("every edit that the server makes names the revision that it is made at", async () => {
  const { Wrapper } = withCache([studyAt(7)]);
  const asked = answering(({ path }) => ({
    body: path.endsWith("take-out") ? { study: studyAt(8), told: "Also takes out pair Joint." } : studyAt(8),
  }));
  const { result } = renderHook(() => useEdits(1), { wrapper: Wrapper });
  await act(async () => {
    await result.current.takeOut.mutateAsync({ kind: "part", id: "lug" });
  });
  await act(async () => {
    await result.current.undo.mutateAsync();
  });
  expect(asked.map((a) => [a.path, a.query.get("base_revision")])).toEqual([
    ["/api/studies/1/take-out", "7"],
    ["/api/studies/1/undo", "8"],
  ]);
});

test("undo that is refused is told", async () => {
  const { Wrapper } = withCache([studyAt(1)]);
  answering(() => ({
    status: 409,
    body: { code: "conflict", message: "the study is at revision 2.", hint: "Reload." },
  }));
  const { result } = renderHook(() => useEdits(1), { wrapper: Wrapper });
  act(() => result.current.undo.mutate());
  await waitFor(() => expect(useNotices.getState().notices).toHaveLength(1));
  expect(useNotices.getState().notices[0]).toMatchObject({ text: "the study is at revision 2.", hint: "Reload." });
});

test("findings of one study are never shown for another while that one is checked", async () => {
  const { Wrapper } = withCache();
  const found = { may_run: true, findings: [], pairs: [], size: null };
  let answer: (() => void) | undefined;
  answering(({ path }) =>
    path.includes("/1/")
      ? { body: found }
      : new Promise((done) => {
          answer = () => done({ body: { ...found, may_run: false } });
        }),
  );
  const { result, rerender } = renderHook(({ study, revision }) => usePreflight(study, revision), {
    wrapper: Wrapper,
    initialProps: { study: 1, revision: 1 },
  });
  await waitFor(() => expect(result.current.data?.may_run).toBe(true));
  // A later revision of the same study keeps what was found before, another study does not.
  rerender({ study: 1, revision: 2 });
  expect(result.current.data?.may_run).toBe(true);
  rerender({ study: 2, revision: 1 });
  expect(result.current.data).toBeUndefined();
  await waitFor(() => expect(answer).toBeDefined());
  act(() => answer?.());
  await waitFor(() => expect(result.current.data?.may_run).toBe(false));
});
