import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, offline, Problem, type Schemas } from "../app/api";
import { type Both as BothOf, useDraft } from "../app/useDraft";
import type { Section } from "../parts/section/geometry";

type View = Schemas["PieceSectionView"];
/** What a conflict carries: both sections, and whose the other is. */
export type Both = BothOf<Section>;
type Consequence = Pick<View, "result" | "findings" | "cautions" | "company" | "lines_mm" | "room">;

/**
 * A person's draft of a section: what is on the screen, what follows from it,
 * and how it stands with the server. Every change is worked out at once and
 * saved when the hand rests; a layer that may never be goes back to what was
 * saved.
 */
export function useSection(code: string) {
  const params = { params: { path: { code } } };
  const draft = useDraft<Section, View>(["section", code], {
    read: () => ask(api.GET("/api/pieces/{code}/section", params)),
    save: (body) => ask(api.PUT("/api/pieces/{code}/section", { ...params, body })),
    undo: () => ask(api.POST("/api/pieces/{code}/section/undo", params)),
    redo: () => ask(api.POST("/api/pieces/{code}/section/redo", params)),
    drop: () => ask(api.DELETE("/api/pieces/{code}/section/draft", params)),
    carry: (latest) => ask(api.POST("/api/pieces/{code}/section/carry", { ...params, body: { latest } })),
    letsGo: (problem) => problem.code === "never",
  });
  const { view, waiting } = draft;
  // What follows from a change that is not saved yet, and what is wrong with it.
  const [worked, setWorked] = useState<Consequence>();
  const [wrong, setWrong] = useState<Problem>();
  const asked = useRef(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was saved is newer than what was worked out before it.
  useEffect(() => {
    asked.current++;
    setWorked(undefined);
    setWrong(undefined);
  }, [view]);
  const work = useCallback(
    async (next: Section) => {
      const turn = ++asked.current;
      try {
        const c = await ask(api.POST("/api/pieces/{code}/section/work", { params: { path: { code } }, body: next }));
        if (turn !== asked.current) return;
        setWorked(c);
        setWrong(undefined);
      } catch (e) {
        if (turn === asked.current) setWrong(e instanceof Problem ? e : offline());
      }
    },
    [code],
  );

  return {
    doc: draft.doc,
    live: (waiting ? worked : undefined) ?? view,
    state: view?.state,
    signed: view?.signed ?? [],
    problem: wrong ?? draft.problem,
    waiting,
    failed: draft.failed,
    /** Puts a changed section on the screen; now saves without waiting. */
    change: (next: Section, now = false) => {
      setWrong(undefined);
      draft.clearProblem();
      draft.replace(next, now);
      if (!now) void work(next);
    },
    clearProblem: () => {
      setWrong(undefined);
      draft.clearProblem();
    },
    undo: draft.undo,
    redo: draft.redo,
    begin: (from: Omit<Schemas["PieceBeginning"], "base" | "step">) => {
      const { base, step } = view?.state ?? { base: 0, step: 0 };
      return draft.act(() => ask(api.POST("/api/pieces/{code}/section/begin", { ...params, body: { ...from, base, step } })));
    },
    swap: (doc: Section, cut: number, at: number) => ask(api.POST("/api/pieces/{code}/section/swap", { ...params, body: { doc, cut, at } })),
    fail: (message: string) => setWrong(new Problem(422, "invalid", "file", message)),
    drop: draft.drop,
    agree: (signed: { id: string; at?: string; reason: string }[]) =>
      draft.act(() => ask(api.POST("/api/pieces/{code}/section/agree", { ...params, body: { signed } }))),
    /** After a conflict: takes the other document, or carries ours over it. */
    carry: draft.settle,
  };
}

/** A section with a draft, as its page holds it. */
export type Drafted = ReturnType<typeof useSection>;
