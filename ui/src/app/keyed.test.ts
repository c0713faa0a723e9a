import { afterEach, expect, test, vi } from "vitest";
import { api, ask, upload } from "./api";

afterEach(() => vi.unstubAllGlobals());

const scan = { upload: "u-1", piece: "BF-03" };

/** Answers requests in turn, and remembers the key that each came with. */
function answers(...list: (Response | Error)[]) {
  const keys: (string | null)[] = [];
  vi.stubGlobal("fetch", async (input: Request | string, init?: RequestInit) => {
    keys.push(input instanceof Request ? input.headers.get("Idempotency-Key") : new Headers(init?.headers).get("Idempotency-Key"));
    const next = list.shift();
    if (next instanceof Error) throw next;
    return next;
  });
  return keys;
}
const ok = () => new Response("{}", { status: 200, headers: { "Content-Type": "application/json" } });
const say = (status: number) =>
  new Response(JSON.stringify({ status, code: "x", detail: "No." }), { status, headers: { "Content-Type": "application/problem+json" } });
const begin = () => ask(api.POST("/api/scans", { body: scan })).catch(() => undefined);

test("an act that got no answer is sent again with its key, and the next one has another", async () => {
  const keys = answers(new TypeError("lost"), say(503), ok(), ok());
  for (let i = 0; i < 4; i++) await begin();
  expect(keys[0]).toMatch(/^[0-9a-f-]{36}$/);
  expect(keys[1]).toBe(keys[0]);
  expect(keys[2]).toBe(keys[0]);
  expect(keys[3]).not.toBe(keys[0]);
});

test("another act never has the key of the one that waits", async () => {
  const keys = answers(new TypeError("lost"), ok());
  await begin();
  await ask(api.POST("/api/scans", { body: { ...scan, piece: "PK-01" } })).catch(() => undefined);
  expect(keys[1]).not.toBe(keys[0]);
});

test("a no is an answer", async () => {
  const keys = answers(say(422), ok());
  await begin();
  await begin();
  expect(keys[1]).not.toBe(keys[0]);
});

test("a photograph is an act too", async () => {
  const keys = answers(new TypeError("lost"), ok(), ok());
  const form = () => {
    const f = new FormData();
    f.append("file", new File(["x"], "a.png", { lastModified: 1 }));
    return f;
  };
  await upload("/api/copies/BF-03-a/photograph", form()).catch(() => undefined);
  await upload("/api/copies/BF-03-a/photograph", form());
  await upload("/api/copies/BF-03-a/photograph", form());
  expect(keys[1]).toBe(keys[0]);
  expect(keys[2]).not.toBe(keys[0]);
});

test("reads have no key", async () => {
  const keys = answers(ok());
  await ask(api.GET("/api/clock"));
  expect(keys).toEqual([null]);
});
