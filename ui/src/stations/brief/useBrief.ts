import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, offline, Problem, type Schemas } from "../../app/api";
import { createSaver, type Saver } from "../../app/saver";

export type Doc = Schemas["PieceBrief"];
export type View = Schemas["BriefView"];

/** What a conflict carries: both briefs, and whose the other is. */
export interface Both {
  yours: Doc;
  theirs: Doc;
  who: string;
  state: Schemas["PieceState"];
}

/** How long a hand must rest before the draft is saved as a step. */
const REST_MS = 450;

/** A person's draft of a brief: what is on the screen, what follows from it, and how it stands with the server. */
export function useBrief(code: string, look: string) {
  const queries = useQueryClient();
  const params = { path: { code }, query: { look } };
  const key = ["brief", code, look];
  const query = useQuery({ queryKey: key, queryFn: () => ask(api.GET("/api/pieces/{code}/brief", { params })), placeholderData: (old) => old });
  const [doc, setDoc] = useState<Doc>();
  const [view, setView] = useState<View>();
  const [problem, setProblem] = useState<Problem>();
  const [waiting, setWaiting] = useState(false);
  const saved = useRef<View>(undefined);
  const timer = useRef<number>(undefined);
  const pending = useRef<Saver<Doc>>(undefined);

  const take = useCallback((next: View) => {
    saved.current = next;
    setView(next);
  }, []);

  // What the server holds is taken over unless a change of ours is under way.
  useEffect(() => {
    if (!query.data || pending.current?.pending) return;
    take(query.data);
    setDoc(query.data.doc);
  }, [query.data, take]);

  const saver = useMemo(
    () =>
      createSaver<Doc>(async (next) => {
        if (!saved.current) return;
        const { base, step } = saved.current.state;
        const answer = await ask(
          api.PUT("/api/pieces/{code}/brief", { params: { path: { code }, query: { look } }, body: { doc: next, base, step } }),
        );
        // What was read while this was written is older than the answer to it.
        await queries.cancelQueries({ queryKey: ["brief", code, look], exact: true });
        take(answer);
        queries.setQueryData(["brief", code, look], answer);
      }),
    [code, look, take, queries],
  );
  pending.current = saver;

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
      // A lost connection is tried again; a no stays until something is changed.
      if (p.status === 0) timer.current = window.setTimeout(() => void save(), 2_000);
      return false;
    }
  }, [saver]);

  /** Puts a changed brief on the screen; it is saved when the hand rests, or at once. */
  const change = useCallback(
    (part: Partial<Doc>, now = false) => {
      setDoc((old) => {
        if (!old) return old;
        const next = { ...old, ...part };
        saver.set(next);
        return next;
      });
      setWaiting(true);
      window.clearTimeout(timer.current);
      timer.current = window.setTimeout(() => void save(), now ? 0 : REST_MS);
    },
    [save, saver],
  );

  /** Does something to the draft on the server and takes over what then stands there. */
  const act = useCallback(
    async (call: () => Promise<View>, keep = false): Promise<View | undefined> => {
      if (keep && !(await save())) return undefined;
      try {
        const next = await call();
        await queries.cancelQueries({ queryKey: ["brief", code, look], exact: true });
        saver.set(undefined);
        take(next);
        setDoc(next.doc);
        setProblem(undefined);
        setWaiting(false);
        await queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "brief" });
        return next;
      } catch (e) {
        setProblem(e instanceof Problem ? e : offline());
        return undefined;
      }
    },
    [code, look, queries, save, saver, take],
  );

  /** Goes back to what is saved: a change that the server refused is let go. */
  const back = useCallback(() => {
    window.clearTimeout(timer.current);
    saver.set(undefined);
    setDoc(saved.current?.doc);
    setProblem(undefined);
    setWaiting(false);
  }, [saver]);

  const undo = () => {
    if (problem && problem.status >= 400 && problem.status !== 409 && saver.pending) {
      back();
      return Promise.resolve(undefined);
    }
    return act(() => ask(api.POST("/api/pieces/{code}/brief/undo", { params })), true);
  };
  const drop = () => act(() => ask(api.DELETE("/api/pieces/{code}/brief/draft", { params })));

  /** Settles a conflict: mine over the other, or the other in place of mine. */
  const settle = async (mine: boolean) => {
    const both = problem?.data as Both | undefined;
    if (!both) return;
    if (problem?.code === "draft_moved") {
      // My own draft moved on in another window: mine becomes its next step, or is let go.
      if (!mine) {
        saver.set(undefined);
        await act(() => ask(api.GET("/api/pieces/{code}/brief", { params })));
        return;
      }
      if (saved.current) saved.current = { ...saved.current, state: both.state };
      await save();
      return;
    }
    if (mine) await act(() => ask(api.POST("/api/pieces/{code}/brief/carry", { params, body: { latest: both.state.latest } })));
    else await drop();
  };

  return {
    doc,
    view,
    problem,
    waiting,
    change,
    /** Drafts a brief that has no draft yet, so that it can be agreed. */
    touch: () => doc && saver.set(doc),
    undo,
    redo: () => act(() => ask(api.POST("/api/pieces/{code}/brief/redo", { params })), true),
    drop,
    settle,
    agree: (signed: Schemas["PieceSignature"][]) => act(() => ask(api.POST("/api/pieces/{code}/brief/agree", { params, body: { signed } })), true),
  };
}

export type BriefDraft = ReturnType<typeof useBrief>;
