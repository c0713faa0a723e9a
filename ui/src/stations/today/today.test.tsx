import { cleanup, fireEvent, screen } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer } from "../../fakeServer";
import { showAt } from "../../testing";
import Today from "./Today";

let today: Schemas["TodayView"];

const nothing = (): Schemas["TodayView"] => JSON.parse('{"then": [], "notes": []}');

beforeEach(() => {
  today = nothing();
  new FakeServer()
    .get("/api/today", () => today)
    .get("/api/plan", [])
    .get("/api/pots", { pots: [], room: { temp_c: 21, rh: 0.5 }, room_measured: true, room_typed: false })
    .get("/api/clock", { now: "2026-01-12T08:15:00Z", settable: true })
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const room = () =>
  showAt(
    "/",
    <Routes>
      <Route path="/" element={<Today />} />
      <Route path="/build" element={<b>the build room</b>} />
    </Routes>,
  );

describe("today", () => {
  it("puts what a hand does next first, with its reason, and goes there", async () => {
    today = { ...nothing(), now: { title: "Coat 2 of 3", why: "The first takes it now.", link: "/build?run=R-0009", in_s: 0, piece: "NM-01-L" } };
    today.then.push({ title: "Demould WB-01-b", why: "through at about ten", link: "/build", in_s: 6300 });
    room();
    await screen.findByText("Coat 2 of 3");
    screen.getByText("The first takes it now.");
    // 08:15 and an hour and three quarters.
    const hour = new Date("2026-01-12T10:00:00Z").toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: "UTC" });
    screen.getByText(hour);
    fireEvent.click(screen.getByText("Start"));
    await screen.findByText("the build room");
  });

  it("says so when nothing waits", async () => {
    room();
    await screen.findByText(/Nothing waits for a hand/);
  });
});
