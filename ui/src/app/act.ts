import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { offline, Problem } from "./api";

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
        await queries.invalidateQueries();
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
