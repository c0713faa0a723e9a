import { api, ask, type Schemas } from "../../app/api";
import { type Both as BothOf, useDraft } from "../../app/useDraft";

export type Doc = Schemas["PieceBrief"];
export type View = Schemas["BriefView"];
export type Both = BothOf<Doc>;

/** A person's draft of a brief: what is on the screen, what follows from it, and how it stands with the server. */
export function useBrief(code: string, look: string) {
  const params = { path: { code }, query: { look } };
  const draft = useDraft<Doc, View>(["brief", code, look], {
    read: () => ask(api.GET("/api/pieces/{code}/brief", { params })),
    save: (body) => ask(api.PUT("/api/pieces/{code}/brief", { params, body })),
    undo: () => ask(api.POST("/api/pieces/{code}/brief/undo", { params })),
    redo: () => ask(api.POST("/api/pieces/{code}/brief/redo", { params })),
    drop: () => ask(api.DELETE("/api/pieces/{code}/brief/draft", { params })),
    carry: (latest) => ask(api.POST("/api/pieces/{code}/brief/carry", { params, body: { latest } })),
  });
  return {
    ...draft,
    agree: (signed: Schemas["DocumentSignature"][]) => draft.act(() => ask(api.POST("/api/pieces/{code}/brief/agree", { params, body: { signed } }))),
  };
}

export type BriefDraft = ReturnType<typeof useBrief>;
