import type { Schemas } from "../app/api";
import { long } from "./long";

type Standing = Schemas["PlanStanding"];

/** How a day stands by the plan, in few words; bad is what a colour is turned by. None while the plan is worked out. */
export function ofDay(st?: Standing): { text: string; bad: boolean } {
  if (!st) return { text: "", bad: false };
  if (st.late_min > 0) return { text: `${long(st.late_min)} late`, bad: true };
  if (st.unplanned.length > 0) return { text: "not all planned", bad: true };
  if (st.beyond) return { text: "not planned yet", bad: false };
  return { text: st.slack_min === undefined ? "" : `${long(st.slack_min)} in hand`, bad: false };
}

/** What a day needs, what is late or in no plan first. */
export function worstFirst(needs: Schemas["PlanNeed"][], st?: Standing): Schemas["PlanNeed"][] {
  return [...needs].sort((a, b) => Number(ofPiece(st, b.piece, "").bad) - Number(ofPiece(st, a.piece, "").bad));
}

/** The same of one piece for that day. */
export function ofPiece(st: Standing | undefined, piece: string, words: string): { text: string; bad: boolean } {
  const late = st?.late.find((l) => l.piece === piece);
  if (late) return { text: `${long(late.late_min)} late`, bad: true };
  if (st?.unplanned.some((u) => u.piece === piece)) return { text: "not in the plan", bad: true };
  return { text: words, bad: false };
}
