// @vitest-environment node
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { createLoader, REST_MS } from "./loader";

/** A server whose answers come when the test says so. */
function bench() {
  const open: { what: "coarse" | "fine"; q: string; signal?: AbortSignal; answer: (a: string) => void; fail: (e: Error) => void }[] = [];
  const shown: string[] = [];
  const failed: unknown[] = [];
  let busy: string | undefined;
  const wait = (what: "coarse" | "fine", q: string, signal?: AbortSignal) =>
    new Promise<string>((answer, fail) => {
      signal?.addEventListener("abort", () => fail(new Error("stopped")));
      open.push({ what, q, signal, answer, fail });
    });
  const loader = createLoader<string, string>({
    coarse: (q) => wait("coarse", q),
    fine: (q, signal) => wait("fine", q, signal),
    show: (a, fine) => shown.push(`${fine ? "fine" : "coarse"} ${a}`),
    fail: (e) => failed.push(e),
    busy: (b) => {
      busy = b;
    },
  });
  return { loader, open, shown, failed, busy: () => busy };
}

const settle = async () => {
  for (let i = 0; i < 6; i++) await Promise.resolve();
};

describe("what changes faster than it can be shown", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it("asks one coarse question at a time and the newest after it", async () => {
    const b = bench();
    for (const q of ["a", "b", "c", "d"]) b.loader.ask(q);
    expect(b.open.map((o) => o.q)).toEqual(["a"]);
    b.open[0].answer("A");
    await settle();
    expect(b.open.map((o) => o.q)).toEqual(["a", "d"]);
    b.open[1].answer("D");
    await settle();
    expect(b.shown).toEqual(["coarse A", "coarse D"]);
  });

  it("sharpens when the hand rests", async () => {
    const b = bench();
    b.loader.ask("a");
    b.open[0].answer("A");
    await settle();
    expect(b.open).toHaveLength(1);
    vi.advanceTimersByTime(REST_MS);
    expect(b.open[1].what).toBe("fine");
    expect(b.busy()).toBe("fine");
    b.open[1].answer("A!");
    await settle();
    expect(b.shown).toEqual(["coarse A", "fine A!"]);
    expect(b.busy()).toBeUndefined();
  });

  it("never shows an old answer over a new one", async () => {
    const b = bench();
    b.loader.ask("a");
    vi.advanceTimersByTime(REST_MS);
    // The fine answer overtakes the coarse one of the same question.
    b.open[1].answer("A!");
    await settle();
    b.open[0].answer("A");
    await settle();
    expect(b.shown).toEqual(["fine A!"]);
    b.loader.ask("b");
    b.loader.ask("c");
    b.open[2].answer("B");
    await settle();
    b.open[3].answer("C");
    await settle();
    expect(b.shown).toEqual(["fine A!", "coarse B", "coarse C"]);
  });

  it("stops a fine one that was overtaken, and says nothing of it", async () => {
    const b = bench();
    b.loader.ask("a");
    b.open[0].answer("A");
    await settle();
    vi.advanceTimersByTime(REST_MS);
    b.loader.ask("b");
    expect(b.open[1].signal?.aborted).toBe(true);
    await settle();
    expect(b.failed).toHaveLength(0);
  });

  it("can be stopped, and what is shown stays", async () => {
    const b = bench();
    b.loader.ask("a");
    b.open[0].answer("A");
    await settle();
    vi.advanceTimersByTime(REST_MS);
    b.loader.stop();
    await settle();
    expect(b.open[1].signal?.aborted).toBe(true);
    expect(b.busy()).toBeUndefined();
    expect(b.shown).toEqual(["coarse A"]);
  });

  it("tells a failure of what was asked last only", async () => {
    const b = bench();
    b.loader.ask("a");
    b.loader.ask("b");
    b.open[0].fail(new Error("old"));
    await settle();
    expect(b.failed).toHaveLength(0);
    b.open[1].fail(new Error("new"));
    await settle();
    expect(b.failed).toHaveLength(1);
  });
});
