import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, offline, Problem, type Schemas } from "../app/api";
import { useRead } from "../app/read";
import { createSaver } from "../app/saver";
import type { Section } from "../parts/section/geometry";

type View = Schemas["PieceSectionView"];
/** What a conflict carries: both sections, and whose the other is. */
export interface Both {
  yours: Section;
  theirs: Section;
  who: string;
  state: Schemas["DocumentState"];
}
type Consequence = Pick<View, "result" | "findings" | "cautions" | "company" | "lines_mm" | "room">;

/** How long a hand must rest before the draft is saved as a step. */
const REST_MS = 450;

/**
 * A person's draft of a section: what is on the screen, what follows from it,
 * and how it stands with the server. Every change is worked out at once and
 * saved when the hand rests; a refused one goes back to what was saved.
 */
export function useSection(code: string) {
  const queries = useQueryClient();
  const query = useRead({ queryKey: ["section", code], queryFn: () => ask(api.GET("/api/pieces/{code}/section", { params: { path: { code } } })) });
  const [doc, setDoc] = useState<Section>();
  const [live, setLive] = useState<Consequence>();
  const [problem, setProblem] = useState<Problem>();
  const [saving, setSaving] = useState<"saved" | "waiting" | "saving">("saved");
  const saved = useRef<View>(undefined);
  const timer = useRef<number>(undefined);
  const asked = useRef(0);

  const take = useCallback(
    (view: View) => {
      saved.current = view;
      setLive(view);
      queries.setQueryData(["section", code], view);
    },
    [queries, code],
  );

  const saver = useMemo(
    () =>
      createSaver<Section>(async (next) => {
        if (!saved.current) return;
        setSaving("saving");
        const { base, step } = saved.current.state;
        const view = await ask(api.PUT("/api/pieces/{code}/section", { params: { path: { code } }, body: { doc: next, base, step } }));
        // What was read while this was written is older than the answer to it.
        await queries.cancelQueries({ queryKey: ["section", code], exact: true });
        take(view);
      }),
    [code, take, queries],
  );

  // What the server holds is taken over unless a change of ours is under way.
  useEffect(() => {
    if (!query.data || saver.pending) return;
    saved.current = query.data;
    setDoc(query.data.doc);
    setLive(query.data);
  }, [query.data, saver]);

  const save = useCallback(async () => {
    window.clearTimeout(timer.current);
    try {
      await saver.flush();
      if (saved.current) setDoc(saved.current.doc);
      setSaving("saved");
    } catch (e) {
      const p = e instanceof Problem ? e : offline();
      setProblem(p);
      setSaving("waiting");
      if (p.code === "never" && saved.current) {
        saver.set(undefined);
        setDoc(saved.current.doc);
        setLive(saved.current);
        setSaving("saved");
      }
      // A draft that moved on elsewhere waits for the person to choose; a lost
      // connection is tried again.
      if (p.status === 0) timer.current = window.setTimeout(() => void save(), 2_000);
    }
  }, [saver]);

  const work = useCallback(
    async (next: Section) => {
      const turn = ++asked.current;
      try {
        const c = await ask(api.POST("/api/pieces/{code}/section/work", { params: { path: { code } }, body: next }));
        if (turn === asked.current) {
          setLive(c);
          setProblem(undefined);
        }
      } catch (e) {
        if (turn === asked.current) setProblem(e instanceof Problem ? e : offline());
      }
    },
    [code],
  );

  /** Puts a changed section on the screen; now saves without waiting. */
  const change = useCallback(
    (next: Section, now = false) => {
      setDoc(next);
      saver.set(next);
      setSaving("waiting");
      window.clearTimeout(timer.current);
      if (now) {
        setProblem(undefined);
        void save();
        return;
      }
      void work(next);
      timer.current = window.setTimeout(() => void save(), REST_MS);
    },
    [save, saver, work],
  );

  const go = useCallback(
    async (call: () => Promise<View>) => {
      window.clearTimeout(timer.current);
      if (saver.pending) await save();
      try {
        const view = await call();
        await queries.cancelQueries({ queryKey: ["section", code], exact: true });
        saver.set(undefined);
        setProblem(undefined);
        setSaving("saved");
        take(view);
        setDoc(view.doc);
        void queries.invalidateQueries({ queryKey: ["pieces"] });
        return view;
      } catch (e) {
        setProblem(e instanceof Problem ? e : offline());
        return undefined;
      }
    },
    [code, queries, save, saver, take],
  );

  const params = { params: { path: { code } } };
  return {
    doc,
    live,
    state: saved.current?.state ?? query.data?.state,
    signed: saved.current?.signed ?? [],
    problem,
    saving,
    failed: query.data ? undefined : query.error,
    change,
    clearProblem: () => setProblem(undefined),
    undo: () => go(() => ask(api.POST("/api/pieces/{code}/section/undo", params))),
    redo: () => go(() => ask(api.POST("/api/pieces/{code}/section/redo", params))),
    begin: (from: Omit<Schemas["PieceBeginning"], "base" | "step">) => {
      const { base, step } = saved.current?.state ?? { base: 0, step: 0 };
      return go(() => ask(api.POST("/api/pieces/{code}/section/begin", { ...params, body: { ...from, base, step } })));
    },
    swap: (doc: Section, cut: number, at: number) => ask(api.POST("/api/pieces/{code}/section/swap", { ...params, body: { doc, cut, at } })),
    fail: (message: string) => setProblem(new Problem(422, "invalid", "file", message)),
    drop: () => go(() => ask(api.DELETE("/api/pieces/{code}/section/draft", params))),
    agree: (signed: { id: string; at?: string; reason: string }[]) =>
      go(() => ask(api.POST("/api/pieces/{code}/section/agree", { ...params, body: { signed } }))),
    /** After a conflict: takes the other document, or carries ours over it. */
    carry: async (mine: boolean) => {
      if (problem?.code === "newer_agreed") {
        const seen = (problem.data as Both).state.latest;
        await go(() =>
          mine
            ? ask(api.POST("/api/pieces/{code}/section/carry", { ...params, body: { latest: seen } }))
            : ask(api.DELETE("/api/pieces/{code}/section/draft", params)),
        );
        return;
      }
      const ours = saver.pending;
      saver.set(undefined);
      setProblem(undefined);
      const fresh = await queries.fetchQuery({
        queryKey: ["section", code],
        queryFn: () => ask(api.GET("/api/pieces/{code}/section", params)),
        staleTime: 0,
      });
      saved.current = fresh;
      setDoc(fresh.doc);
      setLive(fresh);
      setSaving("saved");
      if (mine && ours) change(ours, true);
    },
  };
}
