import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { useAnswer, useAskWhatIf } from "@/api/asking";
import { type RunInfo, type StudyChange, type Summary, api, unwrap } from "@/api/client";
import { isActive } from "@/api/hooks";

export type Asked = {
  /** The answer that is shown, if any. */
  answer: RunInfo | undefined;
  /** What is being asked, or was asked in vain. */
  pending: RunInfo | undefined;
  values: Record<string, number | string>;
  ask: (values: Record<string, number | string>) => void;
  clear: () => void;
};

/** What a run would have come to with other values: asked of the server, shown once all of it is there. */
export function useWhatIf(base: RunInfo | undefined): Asked {
  const cache = useQueryClient();
  const ask = useAskWhatIf();
  const [state, setState] = useState<{ of: number; values: Record<string, number | string> }>();
  const [wanted, setWanted] = useState<{ of: number; id: number }>();
  const [answer, setAnswer] = useState<{ of: number; run: RunInfo }>();
  const mine = <T extends { of: number }>(one: T | undefined) => (one?.of === base?.id ? one : undefined);
  const pending = useAnswer(mine(wanted)?.id).data;

  useEffect(() => {
    if (!pending || isActive(pending.status) || pending.increments === 0 || base === undefined) return;
    let isWanted = true;
    // Its history first: without one there is nothing to show.
    cache
      .fetchQuery({
        queryKey: ["history", pending.id, pending.increments],
        queryFn: async () =>
          unwrap<Summary[]>(await api.GET("/api/runs/{run_id}/history", { params: { path: { run_id: pending.id } } })),
        staleTime: Infinity,
      })
      .then(() => isWanted && setAnswer({ of: base.id, run: pending }))
      .catch(() => undefined);
    return () => {
      isWanted = false;
    };
  }, [pending, base, cache]);

  return {
    answer: mine(answer)?.run,
    pending: mine(wanted) && pending?.id === wanted?.id ? pending : undefined,
    values: mine(state)?.values ?? {},
    ask: (values) => {
      if (base === undefined) return;
      const before = state;
      setState({ of: base.id, values });
      const changes: StudyChange[] = Object.entries(values).map(([path, value]) => ({ op: "replace", path, value }));
      if (changes.length === 0) {
        setWanted(undefined);
        setAnswer(undefined);
        return;
      }
      ask.mutate(
        { run: base.id, changes },
        {
          onSuccess: (run) => setWanted({ of: base.id, id: run.id }),
          // What cannot be asked is told, and what was asked before stands.
          onError: () => setState(before),
        },
      );
    },
    clear: () => {
      setState(undefined);
      setWanted(undefined);
      setAnswer(undefined);
    },
  };
}
