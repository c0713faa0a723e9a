import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Problem, type Schemas } from "../../app/api";
import { useOwnMarks } from "./useOwnMarks";

type Mark = Schemas["CraftWearmapMark"];

// A wearer's map on a server that takes nothing over an older version.
const server = { marks: [] as Mark[], version: 2, puts: 0 };

async function serve(method: string, path: string, options: { body?: { marks: Mark[]; version: number } } = {}) {
  if (path.startsWith("/api/characters")) return { looks: [] };
  if (method === "PUT" && options.body) {
    server.puts++;
    if (options.body.version !== server.version) throw new Problem(409, "changed", "", "Somebody drew a moment ago.");
    server.marks = options.body.marks;
    server.version++;
  }
  return { marks: server.marks, version: server.version };
}

vi.mock("../../app/api", async (original) => ({
  ...(await original<typeof import("../../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: Object.fromEntries(["GET", "PUT"].map((method) => [method, (path: string, options: object) => serve(method, path, options)])),
}));

beforeEach(() => void Object.assign(server, { marks: [], version: 2, puts: 0 }));
afterEach(cleanup);

const mark = (id: string): Mark => ({ id, kind: "hair", sheet: "head", points: [] });
const ids = (list: Mark[]) => list.map((m) => m.id).join();

async function open() {
  const client = new QueryClient();
  const wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>;
  const piece = { code: "PK-01", character_code: "PK", performer_id: 7 } as Schemas["PieceView"];
  const { result } = renderHook(() => useOwnMarks(piece, undefined, true), { wrapper });
  await waitFor(() => expect(client.getQueryData(["wearer marks", 7])).toBeTruthy());
  return { own: result, client };
}

describe("marks on a wearer's own map", () => {
  it("are kept when the hand rests, and again after that", async () => {
    const { own } = await open();
    act(() => own.current.set?.("wearer", [mark("a")]));
    expect(ids(own.current.wearer)).toBe("a");
    await waitFor(() => expect(ids(server.marks)).toBe("a"), { timeout: 3000 });
    await waitFor(() => expect(server.puts).toBe(1));
    act(() => own.current.set?.("wearer", [mark("a"), mark("b")]));
    await waitFor(() => expect(ids(server.marks)).toBe("a,b"), { timeout: 3000 });
    expect(own.current.problem).toBeUndefined();
  });

  it("go over nobody else's, not even after theirs was read", async () => {
    const { own, client } = await open();
    act(() => own.current.set?.("wearer", [mark("mine")]));
    Object.assign(server, { marks: [mark("theirs")], version: 3 });
    await act(() => client.invalidateQueries());
    await waitFor(() => expect(own.current.problem?.code).toBe("changed"), { timeout: 3000 });
    act(() => own.current.set?.("wearer", [mark("mine"), mark("more")]));
    await waitFor(() => expect(server.puts).toBe(2), { timeout: 3000 });
    expect(ids(server.marks)).toBe("theirs");
    expect(ids(own.current.wearer)).toBe("mine,more");
    act(() => own.current.letGo());
    expect(ids(own.current.wearer)).toBe("theirs");
    expect(own.current.problem).toBeUndefined();
  });
});
