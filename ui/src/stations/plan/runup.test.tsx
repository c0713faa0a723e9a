import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer } from "../../fakeServer";
import { long } from "../../parts/long";
import { showAt } from "../../testing";
import { blocks } from "./blocks";
import { RunUp } from "./RunUp";
import { WhatIf } from "./WhatIf";

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
  day_id: 2,
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

const mend = (more: Partial<Schemas["PlanMend"]>): Schemas["PlanMend"] => ({
  id: 0,
  by: "",
  text: "",
  bar: "",
  late_min: 4755,
  gains_min: 0,
  overtime_min: 0,
  hands_min: 3000,
  more_hands_min: 0,
  late: [],
  days: [{ id: 2, place: "quayside", out: "2026-01-24T05:00:00Z", late_min: 4755, met: 0.04 }],
  met: 0.04,
  met_more: 0,
  most: false,
  moves: 3,
  ...more,
});

let mends: Schemas["PlanMend"][];
let tries: Schemas["PlanMend"][];
let asked: unknown[];
let r: Schemas["PlanRunUp"];
let server: FakeServer;
let sent: unknown[];

beforeEach(() => {
  sent = [];
  asked = [];
  tries = [];
  mends = [
    mend({
      text: "a second mould",
      late_min: 0,
      gains_min: 4755,
      overtime_min: 120,
      more_hands_min: 240,
      met: 0.9,
      most: true,
      days: [{ id: 2, place: "quayside", out: "2026-01-24T05:00:00Z", late_min: 0, met: 0.9 }],
      link: "/mould?piece=AL-03",
    }),
    mend({
      text: "everybody in on Saturday",
      late: ["AL-03"],
      carry: { hours: { kind: "extra", day: "2026-01-24T00:00:00Z", from_min: 540, to_min: 1020 } },
    }),
    mend({
      text: "the oven at night",
      late_min: 4000,
      gains_min: 755,
      carry: { hours: { kind: "night", day: "2026-01-12T00:00:00Z", from_min: 0, to_min: 1440 } },
    }),
  ];
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
    unplanned: [{ piece: "FT-01", day_id: 0, why: "its section is not agreed", link: "/piece/FT-01" }],
    enough: [
      {
        piece: "AL-03",
        missing: 3,
        begin: 5,
        planned: 3,
        chance: 0.93,
        runs: 5,
        mixes: 3,
        per_mix: 2,
        limit: "bowl",
        mix_bar: "",
        test: false,
        judged: 4,
        good: 3,
      },
      {
        piece: "BF-01",
        missing: 1,
        begin: 2,
        planned: 1,
        chance: 0.91,
        runs: 2,
        mixes: 0,
        per_mix: 0,
        limit: "",
        mix_bar: "One piece wants 90 ml, and the bowl holds 40.",
        test: false,
        judged: 0,
        good: 0,
      },
    ],
    sure: 0,
    changes: [],
    pins: [],
    lacking: [],
    air: { temp_c: 20, rh: 0.48, forecast: true },
    weeks: [{ person: "Ivo Brack", days: 31, from_min: 540, to_min: 1020, late_min: 1140, crafts: [] }],
    other: [],
    moulds: [],
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
    .get("/api/plan/mends", () => mends)
    .get("/api/plan/tries", () => tries)
    .post("/api/plan/tries", (body: unknown) => {
      sent.push(body);
      tries = [mend({ id: 7, by: "Ivo Brack", text: "one more pair of hands, every day" })];
      return tries;
    })
    .get("/api/methods", [])
    .post("/api/plan/carry", (body: unknown) => {
      sent.push(body);
      return {
        run_up: r,
        moved: [
          { step: "a", text: "AL-03 no. 1 whip", who: "Ivo Brack", had: "Pip Sallow", was: "2026-01-12T10:00:00Z", is: "2026-01-17T10:00:00Z" },
        ],
      };
    })
    .post("/api/plan/try", (body: unknown) => {
      asked.push(body);
      return {
        start_at: "2026-01-12T10:15:00Z",
        end_at: "2026-01-12T10:30:00Z",
        broken: ["Pip Sallow is at two things at once."],
        fits: true,
        why: "",
        late_min: 4755,
        was_late_min: 4755,
        moved: 2,
      };
    })
    .post("/api/plan/pins", (body: unknown) => {
      sent.push(body);
      return r;
    })
    .put("/api/plan/week", (body: unknown) => {
      sent.push(body);
      return r;
    })
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
    const enough = within(screen.getByTestId("enough"));
    enough.getByText(/enough in 93 of 100/);
    enough.getByText("3 mixes");
    enough.getByText(/of 2 at most, the largest bowl holds no more/);
    enough.getByText(/the bowl holds 40/);
    enough.getByText(/takes each copy for good/);
  });

  it("carries a change out as one act, tells what moved, and leaves what is hot to a lead", async () => {
    showAt("/plan", <WhatIf />);
    const row = (await screen.findByText("everybody in on Saturday")).closest("[data-mend]") as HTMLElement;
    within(row).getByText("3 d 7 h late");
    const mould = screen.getByRole("cell", { name: /a second mould/ }).closest("[data-mend]") as HTMLElement;
    within(mould).getByText("on time");
    within(mould).getByText("+4 h");
    within(mould).getByText("0.9");
    within(mould).getByText("raises the chance the most");
    const night = screen.getByRole("cell", { name: /the oven at night/ }).closest("[data-mend]") as HTMLElement;
    within(night).getByText("a lead may");
    expect(within(night).queryByText("Do it")).toBeNull();
    expect(screen.queryByText("Money")).toBeNull(); // it is for leads
    fireEvent.click(within(row).getByText("Do it"));
    await waitFor(() => expect(sent).toHaveLength(1));
    await screen.findByText(/was Pip's/);
  });

  it("keeps another change beside the plan", async () => {
    showAt("/plan", <WhatIf />);
    fireEvent.change(await screen.findByLabelText("What if"), { target: { value: "hands" } });
    fireEvent.click(screen.getByText("Plan it beside"));
    await waitFor(() => expect(sent).toEqual([expect.objectContaining({ kind: "hands" })]));
    await screen.findByText("kept by Ivo Brack");
  });

  it("sees spares beside the plan, and carries out how sure it is to be", async () => {
    mends = [mend({ text: "as many begun as it takes to have enough in 90 of 100", more_hands_min: 300, carry: { sure: 0.9 } })];
    showAt("/plan", <WhatIf />);
    fireEvent.change(await screen.findByLabelText("What if"), { target: { value: "spares" } });
    fireEvent.change(screen.getByLabelText("Enough good ones in"), { target: { value: "0.95" } });
    fireEvent.click(screen.getByText("Plan it beside"));
    await waitFor(() => expect(sent).toEqual([expect.objectContaining({ kind: "spares", sure: 0.95 })]));
    const row = screen.getByText(/as many begun/).closest("[data-mend]") as HTMLElement;
    fireEvent.click(within(row).getByText("Do it"));
    await waitFor(() => expect(sent.at(-1)).toEqual({ sure: 0.9 }));
  });

  it("says how sure the plan makes it, and draws how full the racks are apart", async () => {
    r = {
      ...r,
      sure: 0.9,
      lanes: [...r.lanes, { id: "racks", kind: "rack" }],
      bars: [
        ...r.bars,
        bar({ lane: "racks", step: "racks.40", piece: "", family: "", text: "3 of 4", to: "2026-01-12T12:00:00Z", wait: true }),
        bar({
          lane: "racks",
          step: "racks.48",
          piece: "",
          family: "",
          text: "4 of 4",
          from: "2026-01-12T12:00:00Z",
          to: "2026-01-13T12:00:00Z",
          wait: true,
        }),
      ],
    };
    showAt("/plan", <RunUp />);
    await screen.findByText(/enough are good in 90 of 100 by each day/);
    screen.getByText("4 of 4");
  });

  it("moves a step by keys, says what breaks, and puts it there", async () => {
    showAt("/plan", <RunUp />);
    const svg = await screen.findByTestId("run-up");
    const bar = svg.querySelector("[role=button]") as SVGGElement;
    fireEvent.keyDown(bar, { key: "Enter" });
    const hand = await screen.findByTestId("by-hand");
    await screen.findByText("Pip Sallow is at two things at once.");
    fireEvent.keyDown(hand, { key: "ArrowRight" });
    await waitFor(() => expect(asked.at(-1)).toEqual({ step: "a", person: "Ivo Brack", start_at: "2026-01-12T10:15:00.000Z" }));
    await screen.findByText(/2 steps move/);
    fireEvent.click(screen.getByText("Put it there, to stay"));
    await waitFor(() => expect(sent).toHaveLength(1));
  });

  it("names a further mould that was decided, and takes it back", async () => {
    r = { ...r, moulds: [{ id: 4, piece: "AL-03", by: "Maud Tarn", at: "2026-01-12T09:00:00Z", dry_at: "2026-01-20T17:00:00Z" }] };
    server.delete("/api/plan/moulds/{id}", (a) => {
      sent.push(a.params.id);
      return { ...r, moulds: [] };
    });
    showAt("/plan", <RunUp />);
    const moulds = await screen.findByTestId("moulds");
    within(moulds).getByText(/dry by Tue 20 Jan/);
    fireEvent.click(within(moulds).getByText("take back"));
    await waitFor(() => expect(sent).toEqual(["4"]));
  });

  it("lets a fabricator decide on a mould, and leaves a later day to a lead", async () => {
    mends = [
      mend({ text: "a second mould of AL-03", link: "/mould?piece=AL-03", carry: { mould: "AL-03" } }),
      mend({ text: "the quayside a day later", carry: { later: { day_id: 2, days: 1 } } }),
    ];
    showAt("/plan", <WhatIf />);
    const row = (text: string) => screen.getByText(text).closest("[data-mend]") as HTMLElement;
    await screen.findByText("the quayside a day later");
    within(row("the quayside a day later")).getByText("a lead may");
    expect(within(row("the quayside a day later")).queryByText("Do it")).toBeNull();
    fireEvent.click(within(row("a second mould of AL-03")).getByText("Do it"));
    await waitFor(() => expect(sent).toEqual([{ mould: "AL-03" }]));
  });

  it("keeps somebody's own week", async () => {
    showAt("/plan", <RunUp />);
    const weeks = await screen.findByTestId("weeks");
    fireEvent.click(within(weeks).getByText("Sa"));
    fireEvent.click(within(weeks).getByText("moulds"));
    fireEvent.change(within(weeks).getByLabelText("Until"), { target: { value: "16:30" } });
    fireEvent.click(within(weeks).getByText("Keep"));
    await waitFor(() =>
      expect(sent).toEqual([{ person: "Ivo Brack", days: 63, from_min: 540, to_min: 990, late_min: 1140, crafts: ["sculpt", "make", "finish"] }]),
    );
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
