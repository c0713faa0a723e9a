import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer } from "../../fakeServer";
import { long } from "../../parts/long";
import { showAt } from "../../testing";
import { blocks } from "./blocks";
import { RunUp } from "./RunUp";

const bar = (more: Partial<Schemas["PlanBar"]>): Schemas["PlanBar"] => ({
  lane: "Ivo Brack",
  step: "a",
  piece: "AL-03",
  family: "foam_latex",
  text: "AL-03 no. 1 whip",
  from: "2026-01-12T10:00:00Z",
  to: "2026-01-12T10:15:00Z",
  wait: false,
  binds: false,
  overtime: false,
  ...more,
});

const late: Schemas["PlanLateDay"] = {
  job: "j",
  piece: "AL-03",
  late_min: 4755,
  words: "because AL-03/M1 is not to be had until Wed 21 Jan 17:15",
  steps: ["a"],
  hands_min: 345,
  waits_min: 1800,
  nights_min: 6000,
  by: [{ id: "Pip Sallow", minutes: 30 }],
  place: "quayside",
  out: "2026-01-24T05:00:00Z",
  ends: "2026-01-27T12:15:00Z",
};

let r: Schemas["PlanRunUp"];
let server: FakeServer;
let sent: unknown[];

beforeEach(() => {
  sent = [];
  r = {
    origin: "2026-01-12T00:00:00Z",
    now: "2026-01-12T09:10:00Z",
    ends: "2026-02-14T00:00:00Z",
    lanes: [
      { id: "Ivo Brack", kind: "person" },
      { id: "AL-03/M1", kind: "mould" },
    ],
    bars: [bar({ binds: true }), bar({ lane: "AL-03/M1", step: "h", to: "2026-01-13T10:15:00Z", wait: true })],
    nights: [{ from: "2026-01-12T17:00:00Z", to: "2026-01-13T09:00:00Z" }],
    days: [
      { id: 2, place: "quayside", out: "2026-01-24T05:00:00Z", late_min: 4755, slack_min: -4755, met: 0.04, met_low: 0.02, met_high: 0.07, n: 200 },
    ],
    late: [late],
    moved: [],
    unplanned: [{ piece: "FT-01", why: "its section is not agreed", link: "/piece/FT-01" }],
    enough: [{ piece: "AL-03", missing: 3, begin: 5, chance: 0.93, test: false, judged: 4, good: 3 }],
    changes: [],
    pins: [],
    lacking: [],
    other: [],
    steps: 2,
    late_min: 4755,
    overtime_min: 0,
    proven: false,
    least_late_min: 0,
    taken_by: "",
    bar: "",
    seed: 1,
    tried: 1500,
  };
  server = new FakeServer();
  server
    .get("/api/me", { demo: false, devices: [], person: { id: 2, name: "Ivo Brack", login: "ivo", role: "fabricator" } })
    .get("/api/plan/run-up", () => r)
    .get("/api/plan/mends", [
      { text: "a second mould", late_min: 0, gains_min: 4755, overtime_min: 120, late: [], link: "/mould?piece=AL-03" },
      {
        text: "everybody in on Saturday",
        late_min: 4755,
        gains_min: 0,
        overtime_min: 0,
        late: ["AL-03"],
        carry: { kind: "extra", day: "2026-01-24T00:00:00Z", from_min: 540, to_min: 1020 },
      },
      {
        text: "the oven at night",
        late_min: 4000,
        gains_min: 755,
        overtime_min: 0,
        late: [],
        carry: { kind: "night", day: "2026-01-12T00:00:00Z", from_min: 0, to_min: 1440 },
      },
    ])
    .post("/api/plan/hours", (body: unknown) => {
      sent.push(body);
      r = {
        ...r,
        changes: [{ id: 1, kind: "extra", person: "", day: "2026-01-24T00:00:00Z", from_min: 540, to_min: 1020, words: "", by: "Ivo Brack" }],
      };
      return r;
    })
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("the planned run-up", () => {
  it("says what is late and why, and what is not planned", async () => {
    showAt("/plan", <RunUp />);
    await screen.findByText("AL-03 is 3 d 7 h late for the quayside");
    screen.getByText(/not to be had until Wed 21 Jan/);
    screen.getByText(/it is not proven that this is the least/);
    screen.getByText("its section is not agreed");
    screen.getByTitle(/AL-03 for the quayside is late/);
    screen.getByText("quayside 05:00");
    within(screen.getByTestId("days")).getByText("4 of 100");
    within(screen.getByTestId("enough")).getByText(/enough in 93 of 100/);
  });

  it("carries a change out as one act, and leaves what is hot to a lead", async () => {
    showAt("/plan", <RunUp />);
    const row = (await screen.findByText("everybody in on Saturday")).closest("[data-mend]") as HTMLElement;
    within(row).getByText("no change");
    screen.getByText("on time");
    const night = screen.getByText("the oven at night").closest("[data-mend]") as HTMLElement;
    within(night).getByText("a lead may");
    expect(within(night).queryByText("Do it")).toBeNull();
    fireEvent.click(within(row).getByText("Do it"));
    await waitFor(() => expect(sent).toHaveLength(1));
    await screen.findByText(/open beside the hours/);
  });

  it("says why there is none", async () => {
    r = { ...r, bar: "The casts that AL-03/M1 still stands are not enough." };
    showAt("/plan", <RunUp />);
    await screen.findByText(/not enough/);
  });

  it("makes one block of what is done without a pause, and keeps waits apart", () => {
    const list = blocks([
      bar({ step: "b", text: "fill", from: "2026-01-12T10:15:00Z", to: "2026-01-12T10:30:00Z" }),
      bar({}),
      bar({ step: "c", from: "2026-01-12T12:00:00Z", to: "2026-01-12T12:30:00Z", binds: true }),
      bar({ step: "d", piece: "BF-01", from: "2026-01-12T12:30:00Z", to: "2026-01-12T13:00:00Z" }),
    ]);
    expect(list.map((b) => [b.piece, b.steps.length, b.binds])).toEqual([
      ["AL-03", 2, false],
      ["AL-03", 1, true],
      ["BF-01", 1, false],
    ]);
  });

  it("says times as people do", () => {
    expect([long(20), long(80), long(240), long(1440), long(4755)]).toEqual(["20 min", "1 h 20 min", "4 h", "1 d", "3 d 7 h"]);
  });
});
