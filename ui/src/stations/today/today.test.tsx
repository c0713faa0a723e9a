import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer } from "../../fakeServer";
import { aDay, showAt } from "../../testing";
import Today from "./Today";

let mine: Schemas["TodayMine"];
let days: Schemas["PlanDay"][];
let standing: Schemas["PlanStanding"][];
let sent: { path: string; body: unknown }[];

const nothing = (): Schemas["TodayMine"] =>
  JSON.parse(
    '{"person": "Ivo Brack", "people": [], "open": false, "soon": [], "then": [], "beside": [], "left": [], "moved": [], "gaps": [], "did": []}',
  );

const span = (more: Partial<Schemas["WorkSpan"]>): Schemas["WorkSpan"] => ({
  id: 3,
  person: "Ivo Brack",
  act: "coat",
  code: "R-0009",
  title: "Coat 2 of 3",
  step: "R-0009.2",
  piece: "NM-01-L",
  units: 1,
  planned_min: 15,
  began_at: "2026-01-12T08:05:00Z",
  interrupted: false,
  later: false,
  note: "",
  ...more,
});

beforeEach(() => {
  mine = nothing();
  days = [];
  standing = [];
  sent = [];
  new FakeServer()
    .get("/api/me", { demo: false, devices: [], person: { id: 2, name: "Ivo Brack", login: "ivo", role: "fabricator" } })
    .get("/api/today/mine", () => mine)
    .get("/api/today", () => JSON.parse('{"then": [], "notes": []}'))
    .get("/api/plan", () => days)
    .get("/api/plan/standing", () => standing)
    .get("/api/pots", { pots: [], room: { temp_c: 21, rh: 0.5 }, room_measured: true, room_typed: false })
    .get("/api/clock", { now: "2026-01-12T08:15:00Z", settable: true })
    .post("/api/work", (body: unknown) => {
      sent.push({ path: "begin", body });
      return span({});
    })
    .post("/api/work/{id}/stop", (body: unknown) => {
      sent.push({ path: "stop", body });
      mine = { ...nothing(), did: [span({ ended_at: "2026-01-12T08:15:00Z" })] };
      return span({ ended_at: "2026-01-12T08:15:00Z" });
    })
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
  it("shows how the next days stand by the plan", async () => {
    const need = { family: "latex", name: "", coming: 0, again: 0, missing: 1, good: 0, wanted: 1, words: "1 not begun" };
    days = [aDay({ id: 1, needs: [{ ...need, piece: "NM-01" }] }), aDay({ id: 2, needs: [{ ...need, piece: "AL-03" }] })];
    standing = [
      { id: 1, late_min: 0, slack_min: 720, late: [], unplanned: [], beyond: false },
      { id: 2, late_min: 120, slack_min: -120, late: [{ piece: "AL-03", late_min: 120 }], unplanned: [], beyond: false },
    ];
    const { container } = room();
    await screen.findAllByText("2 h late");
    expect(container.querySelector('[data-day="1"]')?.textContent).toMatch(/12 h in hand.*NM-01 0\/1$/);
    expect(container.querySelector('[data-day="2"]')?.textContent).toMatch(/AL-03 0\/1 2 h late/);
  });

  it("puts what a hand does next first, with all that speaks for it, begins its clock and goes there", async () => {
    mine = {
      ...nothing(),
      now: {
        title: "Coat 2 of 3",
        why: "The first takes it now.",
        link: "/build?run=R-0009",
        in_s: 0,
        piece: "NM-01-L",
        act: "coat",
        step: "R-0009.2",
        minutes: 15,
        with: "12 g of latex",
        frees: "NM-01/M1",
        follows: "then it waits until 09:45",
      },
    };
    mine.then.push({ title: "Demould WB-01-b", why: "through at about ten", link: "/build", in_s: 6300, at: "2026-01-12T10:00:00Z" });
    mine.then.push({ title: "BF-02 no. 1 pour", why: "", link: "/mix", in_s: 9000, step: "x", bar: "Nickel is on the list." });
    room();
    await screen.findByText("Coat 2 of 3");
    screen.getByText("The first takes it now.");
    screen.getByText(/about 15 min, 12 g of latex, frees NM-01\/M1, then it waits until 09:45/);
    // 08:15 and an hour and three quarters.
    const hour = new Date("2026-01-12T10:00:00Z").toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: "UTC" });
    screen.getByText(hour);
    screen.getByText("Not now: Nickel is on the list.");
    expect(screen.queryByText("start")).toBeNull(); // what is forbidden is not offered
    fireEvent.click(screen.getByText("Start"));
    await screen.findByText("the build room");
    expect(sent[0].body).toEqual(expect.objectContaining({ act: "coat", step: "R-0009.2", planned_min: 15 }));
  });

  it("ends what somebody is at with a word, and shows how long it took", async () => {
    mine = { ...nothing(), doing: span({}), did: [span({})] };
    room();
    await screen.findByText("10 min of about 15 min");
    fireEvent.change(screen.getByLabelText("A word on it"), { target: { value: "thin at the rim" } });
    fireEvent.click(screen.getByRole("checkbox"));
    await waitFor(() => expect(screen.getByRole("checkbox").closest("label")?.dataset.state).toBe("checked"));
    fireEvent.click(screen.getByText("It is done"));
    await waitFor(() => expect(sent[0]).toEqual({ path: "stop", body: expect.objectContaining({ note: "thin at the rim", interrupted: true }) }));
    await screen.findByText("10 min of 15 min");
  });

  it("asks when something ended that was begun on a day before", async () => {
    mine = { ...nothing(), open: true, doing: span({ began_at: "2026-01-09T14:00:00Z" }) };
    room();
    await screen.findByText(/and never ended/);
    expect((screen.getByText("It is done").closest("button") as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("When did it end?"), { target: { value: "14:40" } });
    fireEvent.click(screen.getByText("It is done"));
    await waitFor(() => expect(sent[0].body).toEqual(expect.objectContaining({ ended_at: "2026-01-09T14:40:00.000Z" })));
  });

  it("shows time in which nothing was noted, and lets it be said later", async () => {
    mine = { ...nothing(), gaps: [{ from: "2026-01-09T10:00:00Z", to: "2026-01-09T11:30:00Z", did: ["10:20 X-0003 weighed"] }] };
    room();
    await screen.findByText(/the record has 10:20 X-0003 weighed/);
    fireEvent.click(screen.getByText("Say what it was"));
    fireEvent.change(screen.getByLabelText("What it was"), { target: { value: "swept the bench" } });
    fireEvent.click(screen.getByText("Note it"));
    await waitFor(() =>
      expect(sent[0].body).toEqual(
        expect.objectContaining({ title: "swept the bench", began_at: "2026-01-09T10:00:00.000Z", ended_at: "2026-01-09T11:30:00.000Z" }),
      ),
    );
  });

  it("says so when nothing waits", async () => {
    room();
    await screen.findByText(/Nothing waits for a hand/);
  });
});
