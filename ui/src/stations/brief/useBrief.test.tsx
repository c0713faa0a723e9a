import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../../app/api";
import { type Doc, useBrief } from "./useBrief";

// A server that keeps one draft, as the real one does: steps, and a no.
const server = {
  step: 0,
  last: 0,
  doc: { asked: "first" } as Doc,
  steps: [] as Doc[],
  calls: [] as string[],
  refuse: undefined as string | undefined,
};

const state = () => ({ base: 0, step: server.step, last: server.last, latest: 0, drafted: server.step > 0, others: [] });
async function serve(method: string, path: string, options: { body?: { doc: Doc; step: number } } = {}) {
  server.calls.push(`${method} ${path}`);
  if (method === "PUT" && options.body) {
    if (server.refuse) throw new Problem(422, "contradiction", "marks[0].points", server.refuse);
    if (options.body.step !== server.step)
      throw new Problem(409, "draft_moved", "", "moved", { yours: server.doc, theirs: server.doc, who: "me", state: state() });
    server.step++;
    server.last = server.step;
    server.doc = options.body.doc;
    server.steps[server.step] = options.body.doc;
  }
  if (path.endsWith("/undo")) {
    server.step--;
    server.doc = server.steps[server.step];
  }
  return { doc: server.doc, state: state(), map: {}, wear: {} };
}

vi.mock("../../app/api", async (original) => ({
  ...(await original<typeof import("../../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: Object.fromEntries(
    ["GET", "PUT", "POST", "DELETE"].map((method) => [method, (path: string, options: object) => serve(method, path, options)]),
  ),
}));

beforeEach(() => {
  Object.assign(server, { step: 0, last: 0, doc: { asked: "first" }, steps: [{ asked: "first" }], calls: [], refuse: undefined });
});
afterEach(cleanup);

function open() {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>;
  return renderHook(() => useBrief("BF-01", ""), { wrapper }).result;
}

describe("a draft of a brief", () => {
  it("saves itself when the hand rests, once for many changes", async () => {
    const draft = open();
    await waitFor(() => expect(draft.current.doc?.asked).toBe("first"));
    act(() => draft.current.change({ asked: "sec" }));
    act(() => draft.current.change({ asked: "second" }));
    expect(draft.current.waiting).toBe(true);
    await waitFor(() => expect(draft.current.waiting).toBe(false), { timeout: 3000 });
    expect(server.calls.filter((c) => c.startsWith("PUT"))).toHaveLength(1);
    expect(server.doc.asked).toBe("second");
  });

  it("keeps a refused change on the screen with the server's no, and lets it go on undo", async () => {
    const draft = open();
    await waitFor(() => expect(draft.current.doc?.asked).toBe("first"));
    server.refuse = "The outline crosses itself.";
    act(() => draft.current.change({ asked: "crossed" }, true));
    await waitFor(() => expect(draft.current.problem?.message).toBe("The outline crosses itself."));
    expect(draft.current.doc?.asked).toBe("crossed");
    await act(async () => void (await draft.current.undo()));
    expect(draft.current.doc?.asked).toBe("first");
    expect(draft.current.problem).toBeUndefined();
    expect(server.calls.some((c) => c.endsWith("/undo"))).toBe(false);
  });

  it("goes a step back on the server when all is saved", async () => {
    const draft = open();
    await waitFor(() => expect(draft.current.doc?.asked).toBe("first"));
    act(() => draft.current.change({ asked: "second" }, true));
    await waitFor(() => expect(server.step).toBe(1));
    await waitFor(() => expect(draft.current.waiting).toBe(false));
    await act(async () => void (await draft.current.undo()));
    expect(draft.current.doc?.asked).toBe("first");
  });

  it("overwrites nothing that another window wrote, and keeps either on a word", async () => {
    const draft = open();
    await waitFor(() => expect(draft.current.doc?.asked).toBe("first"));
    Object.assign(server, { step: 4, last: 4, doc: { asked: "the other window's" } });
    act(() => draft.current.change({ asked: "mine" }, true));
    await waitFor(() => expect(draft.current.problem?.code).toBe("draft_moved"));
    expect(server.doc.asked).toBe("the other window's");
    await act(async () => void (await draft.current.settle(true)));
    await waitFor(() => expect(server.doc.asked).toBe("mine"));

    Object.assign(server, { step: 9, last: 9, doc: { asked: "theirs again" } });
    act(() => draft.current.change({ asked: "mine again" }, true));
    await waitFor(() => expect(draft.current.problem?.code).toBe("draft_moved"));
    await act(async () => void (await draft.current.settle(false)));
    await waitFor(() => expect(draft.current.doc?.asked).toBe("theirs again"));
    expect(server.doc.asked).toBe("theirs again");
  });
});
