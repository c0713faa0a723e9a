import type { Schemas } from "../app/api";

export type CopyState = Schemas["BuildCopy"]["state"];

// The life of a copy, as the server's package copies has it: what the states
// mean to the screens, said once.

/** It is being made: in a mould, under a coat, in the oven. */
export const isBeingMade = (state: CopyState) => state === "making";
/** It is made, and is finished, judged or repaired. */
export const isOnBench = (state: CopyState) => state === "made" || state === "repair";
/** It was sent back. */
export const isRepair = (state: CopyState) => state === "repair";
/** It is good and in no kit yet. */
export const isFree = (state: CopyState) => state === "accepted";
/** It was judged for good or bad. */
export const isJudged = (state: CopyState) => !isBeingMade(state) && !isOnBench(state);
/** Somebody may still judge it. */
export const isOpen = (state: CopyState) => isBeingMade(state) || isOnBench(state) || isFree(state);

/** The state in words. */
export const stateWords = (state: CopyState) => (isBeingMade(state) ? "being made" : state.replaceAll("_", " "));

/** What a copy is kept for that is good for less than it was made for. */
export const useWords: Record<string, string> = { distant: "kept for far from the camera", wet: "kept for wet scenes", double: "kept for a double" };

/** Where a copy is worked on next. */
export function whereNext(c: Pick<Schemas["BuildCopy"], "code" | "state" | "pot_id" | "run">): string {
  if (isBeingMade(c.state)) return c.pot_id ? `/build?pot=${c.pot_id}` : `/build?run=${c.run}`;
  return isOnBench(c.state) ? `/finish/${c.code}` : `/check/${c.code}`;
}

/** What it was made from and in. */
export const madeFrom = (c: Pick<Schemas["BuildCopy"], "run" | "mixes" | "mould">) => [c.run, c.mixes, c.mould].filter(Boolean).join(", ");
