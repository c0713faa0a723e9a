import type { Step, View } from "./api";
import type { Waiting } from "./waiting";

/** A minute of the day as a clock shows it. */
export function clock(minute: number): string {
  const m = ((Math.floor(minute + 1e-6) % 1440) + 1440) % 1440;
  return `${String(Math.floor(m / 60)).padStart(2, "0")}:${String(m % 60).padStart(2, "0")}`;
}

/** Minutes and seconds that are left, or that have gone by. */
export function left(minutes: number): string {
  const s = Math.round(Math.abs(minutes) * 60);
  return s >= 6000
    ? `${Math.floor(s / 3600)} h ${String(Math.floor((s % 3600) / 60)).padStart(2, "0")}`
    : `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
}

/** The minute of the kit's day by the shop's clock, whatever this device's own says: counted on from the last answer. */
export const nowMin = (v: View, fetchedAt: number, now: number) => v.now_min + (now - fetchedAt) / 60000;

export interface Stand {
  step: Step;
  state: "waits" | "next" | "doing" | "done" | "missed";
  start: number;
  from?: number;
  until?: number;
}

/**
 * How the morning stands: the server's word, with what was ticked here and not sent yet laid over it. Windows run from when the glue was
 * ticked; nothing of a plan is worked out here.
 */
export function stands(v: View, waits: Waiting[], fetchedAt: number, now: number): Stand[] {
  const live = new Map(v.live.steps.map((s) => [s.id, s]));
  const done = new Map<string, number>();
  const missed = new Set<string>();
  for (const s of v.live.steps) {
    if (s.state === "done") done.set(s.id, s.end_min);
    if (s.state === "missed") missed.add(s.id);
  }
  for (const w of waits) {
    if (w.kind !== "tick" || !w.tick.step || w.stopped) continue;
    const at = nowMin(v, fetchedAt, w.at);
    if (w.tick.act === "done") {
      done.set(w.tick.step, at);
      missed.delete(w.tick.step);
    } else if (w.tick.act === "missed" || w.tick.act === "undo") {
      done.delete(w.tick.step);
      const glue = v.run.steps.find((s) => s.id === w.tick.step)?.glue;
      if (w.tick.act === "missed" && glue) done.delete(glue);
      missed.delete(w.tick.step);
    }
  }
  const at = nowMin(v, fetchedAt, now);
  let next = false;
  return v.run.steps.map((step) => {
    const out: Stand = { step, state: "waits", start: live.get(step.id)?.start_min ?? step.start_min };
    const glued = step.glue ? done.get(step.glue) : undefined;
    if (step.window && step.kind === "place" && glued !== undefined) {
      out.from = glued + step.window.from_min;
      out.until = glued + step.window.until_min;
    }
    if (done.has(step.id)) out.state = "done";
    else if ((out.until !== undefined && at > out.until) || missed.has(step.id)) out.state = "missed";
    else if (!next && (v.run.after[step.id] ?? []).every((id) => done.has(id))) {
      out.state = "next";
      next = true;
    }
    return out;
  });
}
