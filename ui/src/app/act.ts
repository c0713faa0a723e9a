import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { offline, Problem } from "./api";
import { lineIsDown } from "./line";

/**
 * An act of the person: runs it once at a time, keeps the server's problem so
 * that it can be shown at its field, and re-reads what the screen shows.
 */
export function useAct<A extends unknown[], R>(act: (...args: A) => Promise<R>) {
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem>();
  const run = useCallback(
    async (...args: A): Promise<R | undefined> => {
      setBusy(true);
      setProblem(undefined);
      try {
        const result = await act(...args);
        const read = queries.invalidateQueries();
        // While the server is away nobody waits for what cannot be read again.
        if (!lineIsDown()) await read;
        return result;
      } catch (e) {
        setProblem(e instanceof Problem ? e : offline());
        return undefined;
      } finally {
        setBusy(false);
      }
    },
    [act, queries],
  );
  return { run, busy, problem, clear: () => setProblem(undefined) };
}
