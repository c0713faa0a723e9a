import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../../app/api";
import { showAt } from "../../testing";
import Check from "./Check";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

const copy = {
  code: "AL-01-a",
  piece: "AL-01",
  piece_name: "Brow of bark",
  state: "made",
  reason: "",
  run: "R-0009",
  mixes: "X-0011",
  items: ["trim", "seam", "edge", "colour_reading", "photograph"],
  section_number: 2,
  left_to_do: 0,
  mould: "AL-01/M1",
  ticks: [],
  missing: [] as string[],
  left: [] as string[],
  work: [
    { id: "trim", kind: "trim", text: "Flash and rim cut", why: "", minutes: 10, turn: 0 },
    { id: "edge", kind: "edge", text: "Edge thin all round", why: "", minutes: 10, turn: 0 },
  ],
  verdicts: [],
  journal: [],
};
const found = {
  scan: 7,
  at: "2026-01-09T15:00:00Z",
  mean_mm: 3.46,
  most_mm: 6.3,
  least_mm: 0.35,
  area_cm2: 57.5,
  profile_mm: [5.7, 0],
  places: [
    { kind: "core_contact", words: "core contact, 0.5 cm²: would cast as a hole" },
    { kind: "edge", words: "edge 0.34 mm thick" },
  ],
};
const server = { copy, found: found as object, asked: [] as unknown[], faults: [] as unknown[], no: undefined as Problem | undefined };

async function serve(method: string, path: string, options: { body?: unknown } = {}) {
  if (method === "POST") {
    server.asked.push(options.body);
    if (server.no) throw server.no;
    return { state: "repair", words: "It goes back.", needs_run: false };
  }
  if (path === "/api/copies") return [server.copy];
  if (path === "/api/copies/{code}") return server.copy;
  if (path === "/api/pieces/{code}/measured") return server.found;
  if (path === "/api/copies/{code}/features") return [];
  if (path === "/api/copies/{code}/beside") return { shots: [], grade: "full", wanting: ["front"] };
  if (path === "/api/copies/{code}/faults") return server.faults;
  if (path === "/api/me") return { person: { id: 2, login: "ivo", name: "Ivo Brack", role: "fabricator" }, devices: [] };
  if (path === "/api/lights") return [];
  return { references: [] };
}
vi.mock("../../app/api", async (original) => ({
  ...(await original<typeof import("../../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: Object.fromEntries(["GET", "POST"].map((method) => [method, (path: string, options: object) => serve(method, path, options)])),
}));

beforeEach(() => void Object.assign(server, { copy, found, asked: [], faults: [], no: undefined }));
afterEach(cleanup);

const check = (
  <Routes>
    <Route path="/check/:code" element={<Check />} />
  </Routes>
);

describe("judging a copy", () => {
  it("says where to look, by what was measured on the sculpt", async () => {
    showAt("/check/AL-01-a", check);
    expect(await screen.findByText("core contact, 0.5 cm²: would cast as a hole")).toBeTruthy();
    expect(screen.getByText("edge 0.34 mm thick")).toBeTruthy();
    expect(screen.getByText("3.5 mm mean, 6.3 mm at most, 0.35 mm at least off the edge.")).toBeTruthy();
  });
  it("tells its story, and what it was made from", async () => {
    showAt("/check/AL-01-a?leaf=Story", check);
    expect((await screen.findByText("AL-01/M1")).getAttribute("href")).toBe("/mould?mould=AL-01%2FM1");
  });
  it("says nothing of a sculpt that was not scanned", async () => {
    server.found = { scan: 0, places: [], profile_mm: [] };
    showAt("/check/AL-01-a", check);
    expect(await screen.findByText("Verdict")).toBeTruthy();
    expect(screen.queryByText("Measured on the sculpt")).toBeNull();
  });
  it("sends back what is to be done again, and keeps the words when the server asks for more", async () => {
    server.no = new Problem(422, "missing", "reason", "Say why: the next run learns from it.");
    showAt("/check/AL-01-a", check);
    fireEvent.click(await screen.findByText("Back for repair"));
    fireEvent.click(screen.getByText("Edge thin all round"));
    fireEvent.click(screen.getByText("Send it back"));
    expect(await screen.findByText("Say why: the next run learns from it.")).toBeTruthy();
    server.no = undefined;
    fireEvent.change(screen.getByLabelText("Why"), { target: { value: "torn at the temple" } });
    fireEvent.click(screen.getByText("Send it back"));
    await waitFor(() => expect(server.asked[1]).toEqual({ verdict: "repair", reason: "torn at the temple", seen: 0, items: ["edge"] }));
    expect(await screen.findByText("It goes back.")).toBeTruthy();
  });
  it("keeps a copy for less, and says what for", async () => {
    showAt("/check/AL-01-a", check);
    fireEvent.click(await screen.findByText("Keep it for less"));
    fireEvent.change(screen.getByLabelText("It is still good"), { target: { value: "wet" } });
    fireEvent.change(screen.getByLabelText("Why"), { target: { value: "the rim is short" } });
    fireEvent.click(screen.getByText("Keep it so"));
    await waitFor(() => expect(server.asked).toEqual([{ verdict: "downgrade", reason: "the rim is short", seen: 0, use_as: "wet" }]));
  });
  it("does not accept what has a fault that nobody answered", async () => {
    server.faults = [{ id: 3, name: "surface stays sticky", settled: false }];
    showAt("/check/AL-01-a", check);
    expect(await screen.findByText(/A fault is not answered/)).toBeTruthy();
    expect((screen.getByText("Accept it").closest("button") as HTMLButtonElement).disabled).toBe(true);
  });
  it("does not accept what is not finished", async () => {
    server.copy = { ...copy, missing: ["colour_reading"], left: ["Read its colour in daylight"] };
    showAt("/check/AL-01-a", check);
    expect(await screen.findByText(/Still to do before it can be accepted: Read its colour in daylight/)).toBeTruthy();
    expect((screen.getByText("Accept it").closest("button") as HTMLButtonElement).disabled).toBe(true);
  });
});
