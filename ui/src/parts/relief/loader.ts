/**
 * Shows what a changing question comes to: a coarse answer at once, a fine one
 * when the hand rests. One coarse question is under way at most, and the newest
 * waits; an answer that is older than what is shown is thrown away, and a fine
 * one that was overtaken is stopped.
 */
export interface Loader<Q> {
  ask(q: Q): void;
  /** Stops what is under way; what is shown stays. */
  stop(): void;
}

interface Calls<Q, A> {
  coarse: (q: Q) => Promise<A>;
  fine: (q: Q, signal: AbortSignal) => Promise<A>;
  show: (a: A, fine: boolean, q: Q) => void;
  fail: (e: unknown) => void;
  busy: (what: "coarse" | "fine" | undefined) => void;
}

/** How long a hand rests before the fine answer is asked for, in ms. */
export const REST_MS = 260;

export function createLoader<Q, A>(calls: Calls<Q, A>, rest = REST_MS): Loader<Q> {
  let asked = 0;
  let shown = 0;
  let running = false;
  let waiting: { q: Q; n: number } | undefined;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let fine: AbortController | undefined;

  const coarse = async (q: Q, n: number) => {
    running = true;
    calls.busy("coarse");
    try {
      const a = await calls.coarse(q);
      if (n > shown) {
        shown = n;
        calls.show(a, false, q);
      }
    } catch (e) {
      // Only what was asked last is worth a word.
      if (n === asked) calls.fail(e);
    }
    running = false;
    if (waiting) {
      const next = waiting;
      waiting = undefined;
      void coarse(next.q, next.n);
    } else if (!fine) calls.busy(undefined);
  };

  const sharpen = async (q: Q, n: number) => {
    const own = new AbortController();
    fine = own;
    calls.busy("fine");
    try {
      const a = await calls.fine(q, own.signal);
      if (!own.signal.aborted && n >= shown) {
        shown = n;
        calls.show(a, true, q);
      }
    } catch (e) {
      if (!own.signal.aborted && n === asked) calls.fail(e);
    }
    if (fine === own) {
      fine = undefined;
      if (!running) calls.busy(undefined);
    }
  };

  return {
    ask(q) {
      const n = ++asked;
      fine?.abort();
      fine = undefined;
      clearTimeout(timer);
      if (running) waiting = { q, n };
      else void coarse(q, n);
      timer = setTimeout(() => void sharpen(q, n), rest);
    },
    stop() {
      clearTimeout(timer);
      waiting = undefined;
      fine?.abort();
      fine = undefined;
      calls.busy(undefined);
    },
  };
}
