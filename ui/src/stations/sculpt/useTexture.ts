import { useEffect, useMemo, useRef, useState } from "react";
import { api, ask, offline, Problem, type Schemas } from "../../app/api";
import { type Both as BothOf, useDraft } from "../../app/useDraft";
import { createLoader } from "../../parts/relief/loader";
import { type Relief, readRelief } from "../../parts/relief/relief";

export type Doc = Schemas["CraftTextureRecipe"];
export type Layer = Schemas["CraftTextureLayer"];
export type View = Schemas["SculptView"];
export type Judged = Schemas["CraftTextureJudged"];
export type Step = Schemas["CraftTextureStep"];
export type Found = Schemas["CraftTextureFound"];
export type Both = BothOf<Doc>;
type Shown = Schemas["SculptShown"];

/** A person's draft of a texture plan, and what is done on the clay. */
export function useTexture(code: string) {
  const params = { path: { code } };
  const draft = useDraft<Doc, View>(["texture", code], {
    read: () => ask(api.GET("/api/pieces/{code}/texture", { params })),
    save: (body) => ask(api.PUT("/api/pieces/{code}/texture", { params, body })),
    undo: () => ask(api.POST("/api/pieces/{code}/texture/undo", { params })),
    redo: () => ask(api.POST("/api/pieces/{code}/texture/redo", { params })),
    drop: () => ask(api.DELETE("/api/pieces/{code}/texture/draft", { params })),
    carry: (latest) => ask(api.POST("/api/pieces/{code}/texture/carry", { params, body: { latest } })),
  });
  return { ...draft, agree: () => draft.act(() => ask(api.POST("/api/pieces/{code}/texture/agree", { params }))) };
}

export type TextureDraft = ReturnType<typeof useTexture>;

/** How many pixels are enough while a dial turns, and when the hand rests. */
const COARSE = 26_000;
const FINE = 360_000;

export interface Looked {
  relief?: Relief;
  sent?: Shown;
  /** Of the finest that was made; older than the relief while a dial turns. */
  judged?: Judged;
  painted?: Schemas["CraftTexturePainted"];
  fine: boolean;
  busy: "coarse" | "fine" | undefined;
  problem?: Problem;
  stop: () => void;
}

const relief = (body: Schemas["SculptAsk"], signal?: AbortSignal) => ask(api.POST("/api/textures/relief", { body, signal }));

/** The relief of a plan as it is being changed: coarse at once, sharp at rest. */
export function useRelief(doc: Doc | undefined, paint: boolean): Looked {
  const [shown, setShown] = useState<{ relief: Relief; sent: Shown; fine: boolean }>();
  const [judged, setJudged] = useState<Judged>();
  const [painted, setPainted] = useState<Schemas["CraftTexturePainted"]>();
  const [busy, setBusy] = useState<"coarse" | "fine">();
  const [problem, setProblem] = useState<Problem>();
  const loader = useMemo(
    () =>
      createLoader<{ doc: Doc; paint: boolean }, Shown>({
        coarse: (q) => relief({ doc: q.doc, pixels: COARSE, paint: q.paint }),
        fine: (q, signal) => relief({ doc: q.doc, pixels: FINE, judge: true, paint: q.paint }, signal),
        show: (sent, fine) => {
          setShown({ relief: readRelief(sent), sent, fine });
          if (sent.judged) setJudged(sent.judged);
          setPainted(sent.painted);
          setProblem(undefined);
        },
        fail: (e) => setProblem(e instanceof Problem ? e : offline()),
        busy: setBusy,
      }),
    [],
  );
  const empty = !doc || doc.layers.every((l) => l.off);
  const asked = useRef("");
  useEffect(() => {
    if (!doc || empty) {
      setShown(undefined);
      setJudged(undefined);
      asked.current = "";
      return;
    }
    // The same question again needs no answer.
    const words = JSON.stringify([doc, paint]);
    if (words === asked.current) return;
    asked.current = words;
    loader.ask({ doc, paint });
  }, [doc, empty, paint, loader]);
  useEffect(() => () => loader.stop(), [loader]);
  return { ...shown, judged, painted, fine: shown?.fine ?? false, busy, problem, stop: loader.stop };
}
