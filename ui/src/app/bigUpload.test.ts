// @vitest-environment node
import { describe, expect, it } from "vitest";
import { Problem } from "./api";
import { type Means, sendFile } from "./bigUpload";

const file = (size: number) => ({
  name: "head.stl",
  size,
  lastModified: 7,
  slice: (a?: number, b?: number) => new Blob(["x".repeat((b ?? 0) - (a ?? 0))]),
});

/** A server that loses the line at the given calls. */
function server(size: number, had = 0, faults: Record<number, unknown> = {}) {
  let received = had;
  let call = 0;
  const seen: number[] = [];
  const by: Means = {
    begin: async () => ({ id: "u", received }),
    read: async () => ({ id: "u", received }),
    put: async (_, at, piece) => {
      const fault = faults[call++];
      if (fault === "lost after") {
        received += piece.size;
        throw new TypeError("lost");
      }
      if (fault) throw fault;
      if (at !== received) throw new Problem(409, "moved_on", "", "");
      seen.push(at);
      received += piece.size;
      return { id: "u", received };
    },
    wait: async () => {},
  };
  return { by, seen, done: () => received === size };
}

describe("sending a large file", () => {
  const size = 5 << 20;
  it("sends it in pieces and says how far it is", async () => {
    const s = server(size);
    const shares: number[] = [];
    expect(await sendFile(file(size), (x) => shares.push(x), new AbortController().signal, s.by)).toBe("u");
    expect(s.done()).toBe(true);
    expect(shares.at(-1)).toBe(1);
    expect(s.seen).toEqual([0, 2 << 20, 4 << 20]);
  });
  it("goes on where it was, and after a lost answer", async () => {
    const s = server(size, 2 << 20, { 0: new TypeError("lost"), 1: "lost after" });
    await sendFile(file(size), () => {}, new AbortController().signal, s.by);
    expect(s.done()).toBe(true);
    expect(s.seen).toEqual([4 << 20]);
  });
  it("gives up with what is kept, and at once on a no", async () => {
    const lost = server(size, 0, Object.fromEntries(Array.from({ length: 20 }, (_, i) => [i, new TypeError("lost")])));
    await expect(sendFile(file(size), () => {}, new AbortController().signal, lost.by)).rejects.toThrow("choose the same file again");
    const no = server(size, 0, { 0: new Problem(404, "not_found", "", "gone") });
    await expect(sendFile(file(size), () => {}, new AbortController().signal, no.by)).rejects.toThrow("gone");
    expect(no.seen).toEqual([]);
  });
  it("stops when it is told to", async () => {
    const stop = new AbortController();
    stop.abort();
    await expect(sendFile(file(size), () => {}, stop.signal, server(size).by)).rejects.toThrow();
  });
});
