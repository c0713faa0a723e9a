import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useDraft } from "../../app/useDraft";

export type Copy = Schemas["FinishCopy"];
export type Plan = Schemas["CraftPlanPlan"];
export type PlanView = Schemas["FinishPlanView"];
export type Zone = Schemas["CraftPlanZone"];
export type Inserts = Schemas["CraftPlanInserts"];

/** A copy with its list of work. */
export const useCopy = (code: string) =>
  useRead({ queryKey: ["copy", code], queryFn: () => ask(api.GET("/api/copies/{code}", { params: { path: { code } } })) });

/** One's draft of a finish plan: of a piece, or of a look as look-N; counts are those of the copy in hand. */
export function usePlan(of: string, copy?: string) {
  const params = { path: { of } };
  const draft = useDraft<Plan, PlanView>(["finish plan", of, copy ?? ""], {
    read: () => ask(api.GET("/api/finish-plans/{of}", { params: { ...params, query: copy ? { copy } : {} } })),
    save: (body) => ask(api.PUT("/api/finish-plans/{of}", { params, body })),
    undo: () => ask(api.POST("/api/finish-plans/{of}/undo", { params })),
    redo: () => ask(api.POST("/api/finish-plans/{of}/redo", { params })),
    drop: () => ask(api.DELETE("/api/finish-plans/{of}/draft", { params })),
    carry: (latest) => ask(api.POST("/api/finish-plans/{of}/carry", { params, body: { latest } })),
  });
  return { ...draft, agree: () => draft.act(() => ask(api.POST("/api/finish-plans/{of}/agree", { params }))) };
}

export type PlanDraft = ReturnType<typeof usePlan>;

/** An id that no other of the list has: h1, h2 … */
export function freshId(letter: string, list: { id: string }[]): string {
  let n = list.length + 1;
  while (list.some((x) => x.id === `${letter}${n}`)) n++;
  return `${letter}${n}`;
}

/** A number that is typed; what is none leaves it as it was. */
export function typed(text: string, was: number): number {
  const n = Number(text.replace(",", "."));
  return text.trim() === "" || !Number.isFinite(n) ? was : n;
}
