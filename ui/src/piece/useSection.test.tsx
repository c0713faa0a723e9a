import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../app/api";
import type { Section } from "../parts/section/geometry";
import { useSection } from "./useSection";

const skin = { id: "skin", kind: "skin" };
const body = (mm: number) => ({ id: "body", kind: "silicone", material: "gel", centre_mm: mm });
const doc = (mm: number): Section => ({ half_width_mm: 30, area_cm2: 28, layers: [skin, body(mm)] });

// A server that keeps one draft, step by step. A reading can be held up on its
// way, as a slow line does.
const server = { step: 0, doc: doc(4), conflicts: 0, reads: 0, hold: undefined as Promise<void> | undefined };

async function serve(method: string, path: string, options: { body?: { doc: Section; step: number } } = {}) {
  if (method === "PUT" && options.body) {
    if (options.body.step !== server.step) {
      server.conflicts++;
      throw new Problem(409, "draft_moved", "", "moved", {});
    }
    server.step++;
    server.doc = options.body.doc;
  }
  const answer = {
    doc: server.doc,
    state: { base: 0, step: server.step, last: server.step, latest: 0, drafted: server.step > 0, others: [] },
    signed: [],
    result: {},
    findings: [],
    cautions: [],
    company: {},
    lines_mm: {},
    room: {},
  };
  if (method === "GET") server.reads++;
  if (method === "GET" && server.hold) await server.hold;
  if (path.endsWith("/work")) return { ...answer, state: undefined };
  return answer;
}

vi.mock("../app/api", async (original) => ({
  ...(await original<typeof import("../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: Object.fromEntries(
    ["GET", "PUT", "POST", "DELETE"].map((method) => [method, (path: string, options: object) => serve(method, path, options)]),
  ),
}));

beforeEach(() => {
  Object.assign(server, { step: 0, doc: doc(4), conflicts: 0, reads: 0, hold: undefined });
});
afterEach(cleanup);

function open() {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>;
  return { section: renderHook(() => useSection("BF-01"), { wrapper }).result, client };
}

describe("a draft of a section", () => {
  it("follows the hand at once and saves when it rests", async () => {
    const { section } = open();
    await waitFor(() => expect(section.current.doc).toBeTruthy());
    act(() => section.current.change(doc(5)));
    expect(section.current.doc?.layers[1].centre_mm).toBe(5);
    expect(section.current.waiting).toBe(true);
    await waitFor(() => expect(section.current.waiting).toBe(false), { timeout: 3000 });
    expect(server.doc.layers[1].centre_mm).toBe(5);
  });

  it("is not set back by what was read while it was written", async () => {
    const { section, client } = open();
    await waitFor(() => expect(section.current.doc).toBeTruthy());
    // A hint makes it read again; the answer is held up and tells of step 0.
    let release = () => {};
    server.hold = new Promise((go) => {
      release = go;
    });
    const late = client.invalidateQueries({ queryKey: ["section", "BF-01"] });
    await waitFor(() => expect(server.reads).toBe(2));
    act(() => section.current.change(doc(6), true));
    await waitFor(() => expect(section.current.waiting).toBe(false));
    await act(async () => {
      release();
      await late;
      await new Promise((told) => setTimeout(told, 60));
    });
    server.hold = undefined;
    expect(section.current.doc?.layers[1].centre_mm).toBe(6);
    act(() => section.current.change(doc(7), true));
    await waitFor(() => expect(server.doc.layers[1].centre_mm).toBe(7));
    expect(server.conflicts).toBe(0);
  });
});
