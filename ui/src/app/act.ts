import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useLayoutEffect, useRef, useState } from "react";
import { offline, Problem } from "./api";
import { changesSince, changesSoFar } from "./changes";
import { readAgain } from "./read";

/**
 * An act of the person. It runs once at a time: a second press while it runs is
 * the same press. It is busy only while it runs; what the server's answers name
 * as changed is read again then. The server's problem is kept so that it can be
 * shown at its field.
 */
export const useAct = <A extends unknown[], R>(act: (...args: A) => Promise<R>) => usePressed(act, false);

/**
 * Acts of the person that may be given faster than the server answers, as ticks
 * on a list are: each waits for the one before it, and none is lost.
 */
export const useEach = <A extends unknown[], R>(act: (...args: A) => Promise<R>) => usePressed(act, true);

function usePressed<A extends unknown[], R>(act: (...args: A) => Promise<R>, each: boolean) {
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem>();
  const now = useRef({ act, running: 0, last: Promise.resolve() as Promise<unknown> });
  // Before anybody can press what is drawn: what is pressed does what it shows.
  useLayoutEffect(() => {
    now.current.act = act;
  });
  const run = useCallback(
    async (...args: A): Promise<R | undefined> => {
      const held = now.current;
      if (held.running > 0 && !each) return undefined;
      const before = held.running > 0 ? held.last : undefined;
      let over = () => {};
      held.last = new Promise<void>((done) => {
        over = done;
      });
      held.running++;
      setBusy(true);
      // What went wrong with the one before stays to be read.
      if (before) await before;
      else setProblem(undefined);
      const mark = changesSoFar();
      try {
        const result = await held.act(...args);
        void readAgain(queries, changesSince(mark));
        return result;
      } catch (e) {
        const p = e instanceof Problem ? e : offline();
        setProblem(p);
        // Somebody was first: what they did is looked at.
        if (p.status === 409) void readAgain(queries);
        return undefined;
      } finally {
        held.running--;
        setBusy(held.running > 0);
        over();
      }
    },
    [queries, each],
  );
  return { run, busy, problem, clear: () => setProblem(undefined) };
}
