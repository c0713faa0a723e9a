// @vitest-environment node
import { expect, test } from "vitest";
import { readChanges } from "./changes";
import { readsOf, touches } from "./topics";

test("a hint touches only what it names", () => {
  const mixes = [{ topic: "mixes" }];
  expect(touches(["mixes"], mixes)).toBe(true);
  expect(touches(["today"], mixes)).toBe(true);
  expect(touches(["forms"], mixes)).toBe(false);
  expect(touches(["regions"], mixes)).toBe(false);
});

test("what is not listed is read again rather than shown stale", () => {
  expect(touches(["something new"], [{ topic: "lots" }])).toBe(true);
});

test("what an act changes is seen on the thing itself", () => {
  for (const head of ["mixes", "pots", "runs", "copies", "kits", "lots", "forms", "moulds", "scans", "section", "brief", "texture", "pieces"])
    expect(touches([head], [{ topic: head }]), head).toBe(true);
  expect(Object.keys(readsOf).length).toBeGreaterThan(50);
});

test("a hint about one thing leaves the page of another alone", () => {
  const other = [{ topic: "section", code: "PK-01" }];
  expect(touches(["section", "BF-03"], other)).toBe(false);
  expect(touches(["section", "PK-01"], other)).toBe(true);
  expect(touches(["section", "BF-03"], [{ topic: "section" }])).toBe(true);
  // Lists, and what hangs on another thing's code, are read again.
  expect(touches(["pieces"], other)).toBe(true);
  expect(touches(["kit", "K-1"], [{ topic: "copies", code: "BF-03-a" }])).toBe(true);
});

test("codes come as they are", () => {
  expect(readChanges("section/BF-03,kits/a%2Cb%2Fc,pieces")).toEqual([
    { topic: "section", code: "BF-03" },
    { topic: "kits", code: "a,b/c" },
    { topic: "pieces" },
  ]);
  expect(readChanges("")).toEqual([]);
  expect(readChanges(null)).toBe("everything");
});
