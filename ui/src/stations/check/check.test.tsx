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
const server = { copy, found: found as object, asked: [] as unknown[], no: undefined as Problem | undefined };

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
  return { references: [] };
}
vi.mock("../../app/api", async (original) => ({
  ...(await original<typeof import("../../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: Object.fromEntries(["GET", "POST"].map((method) => [method, (path: string, options: object) => serve(method, path, options)])),
}));

beforeEach(() => void Object.assign(server, { copy, found, asked: [], no: undefined }));
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
    expect(screen.getByText("AL-01/M1").getAttribute("href")).toBe("/mould?mould=AL-01%2FM1");
  });
  it("says nothing of a sculpt that was not scanned", async () => {
    server.found = { scan: 0, places: [], profile_mm: [] };
    showAt("/check/AL-01-a", check);
    expect(await screen.findByText("Its story")).toBeTruthy();
    expect(screen.queryByText("Measured on the sculpt")).toBeNull();
  });
  it("sends back with why, and keeps the words when the server asks for more", async () => {
    server.no = new Problem(422, "missing", "reason", "Say why: the next run learns from it.");
    showAt("/check/AL-01-a", check);
    fireEvent.click(await screen.findByText("Send back for repair"));
    expect(await screen.findByText("Say why: the next run learns from it.")).toBeTruthy();
    server.no = undefined;
    fireEvent.change(screen.getByLabelText("Why"), { target: { value: "torn at the temple" } });
    fireEvent.click(screen.getByText("Send back for repair"));
    await waitFor(() => expect(server.asked[1]).toEqual({ verdict: "repair", reason: "torn at the temple" }));
    expect(await screen.findByText("It goes back.")).toBeTruthy();
  });
  it("does not accept what is not finished", async () => {
    server.copy = { ...copy, missing: ["colour_reading"] };
    showAt("/check/AL-01-a", check);
    expect(await screen.findByText(/Still to do before it can be accepted: colour reading/)).toBeTruthy();
    expect((screen.getByText("Accept it").closest("button") as HTMLButtonElement).disabled).toBe(true);
  });
});
