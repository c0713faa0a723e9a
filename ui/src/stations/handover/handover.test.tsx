import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { FakeServer, No } from "../../fakeServer";
import { aCopy, aDay, showAt } from "../../testing";
import HandOver from "./HandOver";

let server: FakeServer;

beforeEach(() => {
  server = new FakeServer()
    .get("/api/kits", [])
    .get("/api/copies", [
      aCopy({ code: "NM-01-L-a", state: "accepted", way: "coats" }),
      aCopy({ code: "NM-01-L-b", state: "made" }),
      aCopy({ code: "NM-01-L-c", state: "packed" }),
    ])
    .get("/api/artists", [{ id: 1, name: "Jun Abbot", what: "", note: "", phone: "" }])
    .get("/api/plan", [aDay({ id: 7 }), aDay({ id: 9, day: "2026-01-23" })])
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const room = () =>
  showAt(
    "/handover",
    <Routes>
      <Route path="/handover/:code?" element={<HandOver />} />
    </Routes>,
  );

describe("packing a kit", () => {
  it("offers accepted copies only, and says the rule book's no without losing the choice", async () => {
    const bodies: unknown[] = [];
    server.post("/api/kits", (body) => {
      bodies.push(body);
      return new No(409, "rule", "", "The wearer takes no latex. Nothing was recorded.");
    });
    room();
    fireEvent.click(await screen.findByText("NM-01-L-a"));
    expect(screen.queryByText("NM-01-L-b")).toBeNull();
    expect(screen.queryByText("NM-01-L-c")).toBeNull();
    fireEvent.change(screen.getByLabelText("For the day"), { target: { value: "9" } });
    fireEvent.change(screen.getByLabelText("Makeup artist"), { target: { value: "Jun Abbot" } });
    fireEvent.click(screen.getByText("Pack the kit"));
    await screen.findByText("The wearer takes no latex. Nothing was recorded.");
    expect(bodies).toEqual([{ day_id: 9, more_days: [], artist: "Jun Abbot", performer: "", scene: "", note: "", copies: ["NM-01-L-a"] }]);
    expect(screen.getByRole("button", { pressed: true }).textContent).toContain("NM-01-L-a");
  });

  it("says what comes first when nothing is accepted", async () => {
    server.get("/api/copies", [aCopy({ state: "made" })]);
    room();
    await waitFor(() => screen.getByText(/No accepted copy waits/));
  });
});
