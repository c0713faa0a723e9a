import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { offline, Problem, type Schemas } from "./api";
import { changesSince, changesSoFar } from "./changes";
import { readAgain, useRead } from "./read";
import { createSaver } from "./saver";
import type { Head } from "./topics";

/** What a person sees of a document that has versions and drafts. */
export interface Viewed<Doc> {
  doc: Doc;
  state: Schemas["DocumentState"];
}

/** What a conflict carries: both documents, and whose the other is. */
export interface Both<Doc> {
  yours: Doc;
  theirs: Doc;
  who: string;
  state: Schemas["DocumentState"];
}

/** How a document is read and written. */
export interface Calls<Doc, View> {
  read: () => Promise<View>;
  save: (body: { doc: Doc; base: number; step: number }) => Promise<View>;
  undo: () => Promise<View>;
  redo: () => Promise<View>;
  drop: () => Promise<View>;
  carry: (latest: number) => Promise<View>;
  /** Refusals after which the screen goes back to what is saved; others leave the change there to be mended. */
  letsGo?: (problem: Problem) => boolean;
}

/** How long a hand must rest before the draft is saved as a step. */
const REST_MS = 450;

/**
 * A person's draft of a document: what is on the screen, what follows from it,
 * and how it stands with the server. The first of key names the kind of
 * document; it is read again only by its own acts.
 */
export function useDraft<Doc extends object, View extends Viewed<Doc>>(key: [Head, ...string[]], calls: Calls<Doc, View>) {
  const queries = useQueryClient();
  const name = key.join(" ");
  // biome-ignore lint/correctness/useExhaustiveDependencies: a key is the same while its words are.
  const held = useMemo(() => key, [name]);
  const call = useRef(calls);
  useLayoutEffect(() => {
    call.current = calls;
  });
  const query = useRead({ queryKey: held, queryFn: () => call.current.read(), placeholderData: (old) => old });
  const [doc, setDoc] = useState<Doc>();
  const [view, setView] = useState<View>();
  const [problem, setProblem] = useState<Problem>();
  const [waiting, setWaiting] = useState(false);
  const saved = useRef<View>(undefined);
  const timer = useRef<number>(undefined);

  // What is on the screen, also for a change that comes before it is drawn.
  const shown = useRef<Doc>(undefined);
  const put = useCallback((next: Doc | undefined) => {
    shown.current = next;
    setDoc(next);
  }, []);

  const take = useCallback((next: View) => {
    saved.current = next;
    setView(next);
  }, []);

  const saver = useMemo(
    () =>
      createSaver<Doc>(async (next) => {
        if (!saved.current) return;
        const { base, step } = saved.current.state;
        const answer = await call.current.save({ doc: next, base, step });
        // What was read while this was written is older than the answer to it.
        await queries.cancelQueries({ queryKey: held, exact: true });
        take(answer);
        queries.setQueryData(held, answer);
      }),
    [held, take, queries],
  );

  // What the server holds is taken over unless a change of ours is under way.
  useEffect(() => {
    if (!query.data || saver.pending) return;
    take(query.data as View);
    put((query.data as View).doc);
  }, [query.data, put, saver, take]);

  const save = useCallback(async (): Promise<boolean> => {
    window.clearTimeout(timer.current);
    try {
      await saver.flush();
      setProblem(undefined);
      setWaiting(false);
      return true;
    } catch (e) {
      const p = e instanceof Problem ? e : offline();
      setProblem(p);
      if (call.current.letsGo?.(p)) {
        saver.set(undefined);
        put(saved.current?.doc);
        setWaiting(false);
      }
      // A lost connection is tried again; a no stays until something is changed.
      if (p.status === 0) timer.current = window.setTimeout(() => void save(), 2_000);
      return false;
    }
  }, [put, saver]);

  /** Puts another document on the screen; it is saved when the hand rests, or at once. */
  const replace = useCallback(
    (next: Doc, now = false) => {
      if (!shown.current) return;
      put(next);
      saver.set(next);
      setWaiting(true);
      window.clearTimeout(timer.current);
      timer.current = window.setTimeout(() => void save(), now ? 0 : REST_MS);
    },
    [put, save, saver],
  );
  /** The same for a part of it. */
  const change = useCallback(
    (part: Partial<Doc>, now = false) => {
      if (shown.current) replace({ ...shown.current, ...part }, now);
    },
    [replace],
  );

  /** Does something to the draft on the server and takes over what then stands there. */
  const act = useCallback(
    async (what: () => Promise<View>, keep = false): Promise<View | undefined> => {
      if (keep && !(await save())) return undefined;
      const mark = changesSoFar();
      try {
        const next = await what();
        await queries.cancelQueries({ queryKey: held, exact: true });
        saver.set(undefined);
        take(next);
        queries.setQueryData(held, next);
        put(next.doc);
        setProblem(undefined);
        setWaiting(false);
        await readAgain(queries, changesSince(mark), held[0]);
        return next;
      } catch (e) {
        setProblem(e instanceof Problem ? e : offline());
        return undefined;
      }
    },
    [held, put, queries, save, saver, take],
  );

  /** Goes back to what is saved: a change that the server refused is let go. */
  const back = useCallback(() => {
    window.clearTimeout(timer.current);
    saver.set(undefined);
    put(saved.current?.doc);
    setProblem(undefined);
    setWaiting(false);
  }, [put, saver]);

  const undo = () => {
    if (problem && problem.status >= 400 && problem.status !== 409 && saver.pending) {
      back();
      return Promise.resolve(undefined);
    }
    return act(() => call.current.undo(), true);
  };
  const drop = () => act(() => call.current.drop());

  /** Settles a conflict: mine over the other, or the other in place of mine. */
  const settle = async (mine: boolean) => {
    const both = problem?.data as Both<Doc> | undefined;
    if (!both) return;
    if (problem?.code === "draft_moved") {
      // My own draft moved on in another window: mine becomes its next step, or is let go.
      if (!mine) {
        saver.set(undefined);
        await act(() => call.current.read());
        return;
      }
      if (saved.current) saved.current = { ...saved.current, state: both.state };
      await save();
      return;
    }
    if (mine) await act(() => call.current.carry(both.state.latest));
    else await drop();
  };

  return {
    doc,
    view,
    problem,
    waiting,
    failed: query.data ? undefined : query.error,
    change,
    replace,
    clearProblem: () => setProblem(undefined),
    /** Drafts a document that has no draft yet, so that it can be agreed. */
    touch: () => doc && saver.set(doc),
    undo,
    redo: () => act(() => call.current.redo(), true),
    drop,
    settle,
    /** Does something else that answers with the whole view, once what is typed is saved. */
    act: (what: () => Promise<View>) => act(what, true),
  };
}

export type Draft<Doc extends object, View extends Viewed<Doc>> = ReturnType<typeof useDraft<Doc, View>>;
