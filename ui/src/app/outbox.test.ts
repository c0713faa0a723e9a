import { beforeEach, expect, test } from "vitest";
import { Problem } from "./api";
import { createOutbox } from "./outbox";

let stored: string | null;
let clock: number;
let answers: (Problem | undefined)[];
let sent: Record<string, unknown>[];

const storage = {
  getItem: () => stored,
  setItem: (_: string, v: string) => {
    stored = v;
  },
};
const box = () =>
  createOutbox({
    storage,
    now: () => clock,
    send: async (path, body) => {
      const no = answers.shift();
      if (no) throw no;
      sent.push({ path, ...body });
      return { code: "X-1" };
    },
  });
const entry = (key: string, person = 1) => ({
  key,
  person,
  path: "/api/mixes/X-1/weigh",
  body: { typed: "9 g" },
  words: "9 g of part A",
  about: "X-1/1",
});
const lost = () => new Problem(0, "offline", "", "no answer");
const no = () => new Problem(422, "bad_number", "typed", "cannot be meant");

beforeEach(() => {
  stored = null;
  clock = 0;
  answers = [];
  sent = [];
});

test("what is entered while the line is down waits, survives a reload, and is sent once and in order", async () => {
  const b = box();
  answers = [lost(), lost()];
  expect(await b.add(entry("a"))).toBe("waiting");
  expect(await b.add(entry("b"))).toBe("waiting");
  clock = 61_000;
  const again = box();
  expect(again.list().map((w) => w.key)).toEqual(["a", "b"]);
  await Promise.all([again.flush(1), again.flush(1)]);
  await again.flush(1);
  expect(sent.map((s) => s.key)).toEqual(["a", "b"]);
  expect(sent[0]?.ago_s).toBe(61);
  expect(again.list()).toEqual([]);
});

test("a no at once goes to the field, and nothing waits", async () => {
  const b = box();
  answers = [no()];
  await expect(b.add(entry("a"))).rejects.toThrow("cannot be meant");
  expect(b.list()).toEqual([]);
});

test("a no after waiting stays to be seen, and does not hold up the next", async () => {
  const b = box();
  answers = [lost(), lost(), no()];
  await b.add(entry("a"));
  await b.add(entry("b"));
  await b.flush(1);
  expect(sent.map((s) => s.key)).toEqual(["b"]);
  expect(b.list().map((w) => w.refused)).toEqual(["cannot be meant"]);
  await b.flush(1);
  expect(sent).toHaveLength(1);
  b.drop("a");
  expect(b.list()).toEqual([]);
});

test("what was kept though the answer failed is not sent again", async () => {
  const b = box();
  answers = [new Problem(503, "kept", "", "recorded")];
  expect(await b.add(entry("a"))).toBe("sent");
  expect(b.list()).toEqual([]);
});

test("one person's entries are never sent as another's", async () => {
  const b = box();
  answers = [lost()];
  await b.add(entry("a", 1));
  await b.flush(2);
  expect(sent).toEqual([]);
  await b.flush(1);
  expect(sent).toHaveLength(1);
});

test("the answer is heard while the entry still counts as in", async () => {
  const b = box();
  const heard: unknown[] = [];
  b.onAnswer((w, answer) => heard.push([w.about, answer, b.list().length]));
  await b.add(entry("a"));
  expect(heard).toEqual([["X-1/1", { code: "X-1" }, 1]]);
  expect(b.list()).toEqual([]);
});

test("while the sign-in has ended, entries wait for it", async () => {
  const b = box();
  answers = [new Problem(401, "sign_in", "", "please sign in")];
  expect(await b.add(entry("a"))).toBe("waiting");
});
