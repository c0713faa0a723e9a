import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { offline, Problem } from "./api";

const PATIENCE_MS = 1_500;

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
        // Nobody waits long for what is read again: the server may be gone by now.
        await Promise.race([queries.invalidateQueries(), new Promise((go) => window.setTimeout(go, PATIENCE_MS))]);
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
