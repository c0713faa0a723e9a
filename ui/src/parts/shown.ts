import { useLayoutEffect, useSyncExternalStore } from "react";
import type { Problem } from "../app/api";

// How many fields on the screen show a problem just now. A form then needs no
// list of its fields: what none of them shows is said once, for the whole form.
const fields = new WeakMap<Problem, number>();
const watchers = new Set<() => void>();

function shows(problem: Problem, by: number) {
  fields.set(problem, (fields.get(problem) ?? 0) + by);
  for (const w of watchers) w();
}

/** The words of the problem that belongs to this field; it then stands here and nowhere else. */
export function useProblemAt(problem: Problem | undefined, name: string): string | undefined {
  const mine = problem?.field === name ? problem : undefined;
  const whole = mine?.whole;
  useLayoutEffect(() => {
    if (!whole) return;
    shows(whole, 1);
    return () => shows(whole, -1);
  }, [whole]);
  return mine?.message;
}

/** Whether a field on the screen shows this problem. */
export function useIsAtAField(problem: Problem | undefined): boolean {
  return useSyncExternalStore(
    (told) => {
      watchers.add(told);
      return () => watchers.delete(told);
    },
    () => !!problem && (fields.get(problem.whole) ?? 0) > 0,
  );
}
