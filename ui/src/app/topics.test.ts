// @vitest-environment node
import { expect, test } from "vitest";
import { readsOf, touches } from "./topics";

test("a hint touches only what it names", () => {
  const mixes = new Set(["mixes"]);
  expect(touches("mixes", mixes)).toBe(true);
  expect(touches("today", mixes)).toBe(true);
  expect(touches("forms", mixes)).toBe(false);
  expect(touches("regions", mixes)).toBe(false);
});

test("what is not listed is read again rather than shown stale", () => {
  expect(touches("something new", new Set(["lots"]))).toBe(true);
});

test("what an act changes is seen on the thing itself", () => {
  for (const head of ["mixes", "pots", "runs", "copies", "kits", "lots", "forms", "moulds", "scans", "section", "brief", "texture", "pieces"])
    expect(touches(head, new Set([head])), head).toBe(true);
  expect(Object.keys(readsOf).length).toBeGreaterThan(50);
});
