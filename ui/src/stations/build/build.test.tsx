import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { showAt } from "../../testing";
import Build from "./Build";
import { heights } from "./Buildup";
import { shows } from "./Places";
import { doneWords, waited } from "./RunClose";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

const stage = (seq: number, more: Partial<Schemas["BuildStage"]> = {}): Schemas["BuildStage"] => ({
  seq,
  act: "coat",
  text: `Coat ${seq} of 3: Latex, stippled.`,
  coat: seq,
  of: 3,
  waits: "dry",
  wait_s: 0,
  material: "latex-balloon",
  grams: 8.9,
  lots: [],
  ...more,
});

const run = (more: Partial<Schemas["BuildRun"]> = {}): Schemas["BuildRun"] => ({
  code: "R-0009",
  piece: "NM-01-L",
  piece_name: "Salt-cracked hand",
  way: "coats",
  way_text: "coats",
  section_number: 1,
  place: "chair 2",
  started_at: "2026-01-12T08:05:00Z",
  by: "Ivo Brack",
  copies: [{ code: "NM-01-L-a", state: "making" }],
  mixes: [],
  checks: [],
  stages: [
    stage(1, { done_at: "2026-01-12T08:30:00Z", by: "Ivo Brack", lots: ["25-012"], pot_id: 12 }),
    stage(2),
    stage(3),
    stage(4, { act: "lift", text: "Powder it.", coat: undefined, of: undefined, material: undefined, waits: "", ends: true }),
  ],
  next: 2,
  left_s: 0,
  ...more,
});

const pot = (more: Partial<Schemas["BuildPot"]> = {}): Schemas["BuildPot"] => ({
  id: 12,
  label: "NM-01-L-a coat 1 of 3",
  piece: "NM-01-L",
  run: "R-0009",
  kind: "dry",
  family: "latex",
  started_at: "2026-01-12T08:30:00Z",
  fill: 0.4,
  marks: [{ stage: "touch", text: "touch-dry", level: 0.3, reached: true }],
  state: "ready",
  words: "ready for the next coat",
  left: "next coat",
  left_s: 600,
  low_s: 300,
  high_s: 900,
  goes_on: true,
  rings: false,
  warnings: [],
  why: ["closed form"],
  ...more,
});

const copy: Schemas["BuildCopy"] = {
  code: "NM-01-L-a",
  piece: "NM-01-L",
  run: "R-0009",
  way: "coats",
  mixes: "",
  state: "making",
  reason: "",
  section_number: 1,
  left_to_do: 0,
  made_at: "2026-01-12T08:05:00Z",
};

let server: FakeServer;
let pots: Schemas["BuildPot"][];
let current: Schemas["BuildRun"];
let bands: Schemas["BuildBand"][];
let places: Schemas["BuildPlace"][];
let night: Schemas["BuildNight"];

beforeEach(() => {
  pots = [pot()];
  current = run();
  bands = [];
  places = [];
  night = { rang: [], silent_s: 0 };
  server = new FakeServer()
    .get("/api/pots", () => ({ pots, room: { temp_c: 21, rh: 0.5 }, room_measured: true, room_typed: false }))
    .get("/api/copies", [copy])
    .get("/api/runs", () => [current])
    .get("/api/runs/{code}", () => current)
    .get("/api/pieces", [])
    .get("/api/places", () => places)
    .get("/api/night", () => night)
    .get("/api/meanwhile", [])
    .get("/api/pots/{id}/out", { zones: ["centre", "edge"], last: [] })
    .get("/api/clock", { now: "2026-01-12T09:10:00Z" } as never)
    .get("/api/runs/{code}/buildup", () => ({ on: "mould, gypsum", on_family: "gypsum", bands }))
    .get("/api/runs/{code}/coats", { coats: 0, plans: [] })
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("the work sheet", () => {
  const band = (seq: number, more: Partial<Schemas["BuildBand"]> = {}): Schemas["BuildBand"] => ({
    seq,
    layer: "shell",
    name: "Latex",
    family: "latex",
    coat: seq,
    of: 3,
    zones: [],
    state: "planned",
    high_mm: 0.3,
    from: [],
    water: 0,
    ...more,
  });
  const on = { on_at: "2026-01-12T08:30:00Z", by: "Ivo Brack", from: ["25-012"] };

  it("stands from the innermost up, with the water of each coat and where it is shut in", async () => {
    bands = [
      band(1, { ...on, state: "drying", water: 0.4, dry_at: "2026-01-12T12:30:00Z", band_s: 1800, trapped: "Coat 1 still holds 40 %." }),
      band(2, { ...on, state: "wet", water: 0.9, below: "coat 1 with 60 % of its water", zones: ["brow"] }),
      band(3),
    ];
    showAt("/build", <Build />);
    const sheet = await screen.findByTestId("buildup");
    expect([...sheet.querySelectorAll("[data-band]")].map((b) => b.getAttribute("data-band"))).toEqual(["3", "2", "1"]);
    const [third, second, first] = sheet.querySelectorAll<HTMLElement>("[data-band]");
    expect(third.textContent).toContain("planned, 0.3 mm");
    expect(second.textContent).toContain("brow only");
    expect(second.textContent).toContain("wet, not dry in sixty days");
    expect(second.textContent).toContain("on coat 1 with 60 % of its water");
    await waitFor(() => expect(first.textContent).toMatch(/40 % of its water, dry \d\d:30 ± 30 min/));
    expect(sheet.textContent).toContain("1 · mind. Coat 1 still holds 40 %.");
    expect(sheet.textContent).toContain("mould, gypsum");
    const tide = first.querySelectorAll("rect")[1];
    expect(Number(tide.getAttribute("height")) / Number(first.querySelector("rect")?.getAttribute("height"))).toBeCloseTo(0.4, 2);
  });
  it("draws a band as high as it goes on, none too low to be read", () => {
    const high = heights([{ high_mm: 0.3 }, { high_mm: 0.6 }, { high_mm: 0.001 }]);
    expect(high[1]).toBeGreaterThanOrEqual(high[0]);
    expect(high[2]).toBeGreaterThan(30);
    expect(heights([{ high_mm: 0 }])).toHaveLength(1);
  });
  it("takes no room where nothing stands in layers", async () => {
    showAt("/build", <Build />);
    await screen.findByTestId("next-stage");
    expect(screen.queryByTestId("buildup")).toBeNull();
  });
});

describe("what a coat put on too early costs", () => {
  const plan = (plan: Schemas["BuildCoatPlan"]["plan"], next: string, last: string, dry?: string): Schemas["BuildCoatPlan"] => ({
    plan,
    next_at: `2026-01-12T${next}:00Z`,
    last_at: `2026-01-12T${last}:00Z`,
    dry_at: dry && `2026-01-12T${dry}:00Z`,
  });

  it("is said where it is held back, each way beside the others", async () => {
    current = run({ held_back: "It is wet." });
    server.get("/api/runs/{code}/coats", {
      coats: 2,
      trapped: "Coat 1, a coat that is on, holds its water 2 h longer than the one over it.",
      plans: [
        plan("now", "08:35", "09:40", "17:20"),
        plan("recoat", "09:05", "09:50", "11:20"),
        plan("dry", "09:20", "10:10", "11:10"),
        plan("wet_on_wet", "08:35", "08:38"),
      ],
    });
    showAt("/build", <Build />);
    const price = await screen.findByTestId("coat-price");
    expect(price.textContent).toMatch(/Not before 09:05.*dry at 17:20 instead of 11:20/);
    expect(price.textContent).toContain("holds its water 2 h longer");
    expect(screen.getByTestId("coat-plans").textContent).toContain("2 coats to come");
    expect(screen.getByTestId("coat-plans").textContent).toContain("not in sixty days");
  });

  it("is not claimed where waiting wins nothing, nor are one coat's ways told twice", async () => {
    current = run({ held_back: "It is wet." });
    server.get("/api/runs/{code}/coats", {
      coats: 1,
      plans: [
        plan("now", "08:35", "08:35", "10:00"),
        plan("recoat", "09:05", "09:05", "10:20"),
        plan("dry", "09:20", "09:20", "10:40"),
        plan("wet_on_wet", "08:35", "08:35", "10:00"),
      ],
    });
    showAt("/build", <Build />);
    const price = await screen.findByTestId("coat-price");
    expect(price.textContent).toContain("it dries no later");
    expect(screen.getByTestId("coat-plans").textContent).not.toContain("wet on wet");
  });

  it("takes no room where no coat is to come on another", async () => {
    server.get("/api/runs/{code}/coats", { coats: 0, plans: [] });
    showAt("/build", <Build />);
    await screen.findByTestId("next-stage");
    expect(screen.queryByTestId("coat-plans")).toBeNull();
  });
});

describe("a session", () => {
  it("holds until somebody has looked", async () => {
    pots = [];
    current = run({ stages: [stage(1, { act: "open", text: "Open the mould.", coat: undefined, hold: "A corner lifts clean." })], next: 1 });
    server.post("/api/runs/{code}/stages/{seq}", (b) =>
      (b as { checked?: boolean }).checked ? current : new No(422, "missing", "checked", "Look first, and say that it is so."),
    );
    showAt("/build?run=R-0009", <Build />);
    fireEvent.click(await screen.findByText("It is out"));
    expect(await screen.findByText(/Look first/)).toBeTruthy();
    fireEvent.click(screen.getByLabelText("A corner lifts clean."));
    fireEvent.change(screen.getByLabelText("Hands were at it, minutes"), { target: { value: "4,5" } });
    fireEvent.click(screen.getByText("It is out"));
    await waitFor(() => expect(server.posted("/api/runs/{code}/stages/{seq}")).toEqual([{}, { checked: true, hand_min: 4.5 }]));
  });
  it("asks its wearer how it is, and says when to let them out", async () => {
    current = run({ on_wearer: true, check_min: 20, ask_next_at: "2026-01-12T08:50:00Z" });
    server.post("/api/runs/{code}/comfort", () => {
      current = { ...current, unwell: true, checks: [{ at: "2026-01-12T09:10:00Z", comfort: 2, words: "faint", by: "Pip Sallow" }] };
      return current;
    });
    showAt("/build", <Build />);
    const wearer = await screen.findByTestId("wearer");
    await waitFor(() => expect(wearer.textContent).toContain("ask how it is now"));
    fireEvent.change(screen.getByLabelText("In their words"), { target: { value: "faint" } });
    fireEvent.click(screen.getByLabelText("2 of 10"));
    await waitFor(() => expect(server.posted("/api/runs/{code}/comfort")).toEqual([{ comfort: 2, words: "faint" }]));
    expect(await screen.findByText(/They are at 2/)).toBeTruthy();
  });
  it("tells what was waited beside what was told", () => {
    expect(waited({ expected_s: 2100, waited_s: 2520, hand_s: 600 })).toBe("waited 42 min, told 35 min · hands 10 min");
    expect(waited({ expected_s: 2100 })).toBe("told to wait 35 min");
    expect(waited({})).toBe("");
  });
});

describe("an oven", () => {
  it("draws how the mould warms through, and when it is cured and may be opened", async () => {
    pots = [pot({ kind: "set", bakes: true, label: "AL-02-a bake", family: "foam_latex", state: "running", held_back: "It is hot." })];
    const point = (at: string, air_c: number, coldest_c: number, wall_c: number) => ({ at: `2026-01-12T${at}:00Z`, air_c, coldest_c, wall_c });
    server.get("/api/pots/{id}/curve", {
      points: [point("08:30", 60, 19, 19), point("10:00", 95, 70, 75), point("12:00", 95, 91, 92), point("14:00", 40, 62, 60)],
      reach_c: 90,
      open_c: 62.8,
      cure_at: "2026-01-12T12:10:00Z",
      open_at: "2026-01-12T14:00:00Z",
    });
    showAt("/build", <Build />);
    const curve = await screen.findByTestId("curve");
    expect(curve.querySelector("title")?.textContent).toMatch(/cured at .*:10, open at .*:00/);
    expect(curve.textContent).toContain("open below 63 °C");
    expect(curve.querySelectorAll("path").length).toBeGreaterThan(5);
  });
  it("has none where nothing bakes", async () => {
    showAt("/build", <Build />);
    await screen.findByTestId("next-stage");
    expect(screen.queryByTestId("curve")).toBeNull();
  });
});

describe("a demould", () => {
  it("takes its weight and its faults by their place, and says how the last ones came out", async () => {
    pots = [pot({ kind: "cure", state: "ready", copy: "BF-03-d", run: undefined, goes_on: false })];
    server
      .get("/api/pots/{id}/out", {
        zones: ["centre", "halfway", "edge"],
        last: [{ copy: "BF-03-c", mould: "BF-03/M2", weight_g: 41.5, early_at: 0.82, faults: [{ kind: "tear", zone: "edge" }] }],
      })
      .post("/api/pots/{id}/out", () => pot());
    showAt("/build", <Build />);
    expect((await screen.findByTestId("out-sheet")).textContent).toContain("BF-03-c from BF-03/M2: taken out at 82 %, tear at the edge, 41.5 g");
    fireEvent.change(screen.getByLabelText("What is wrong"), { target: { value: "bubble" } });
    fireEvent.click(screen.getByLabelText("bubble at the edge"));
    fireEvent.click(screen.getByLabelText("bubble at the centre"));
    fireEvent.click(screen.getAllByText("Not so")[1]);
    fireEvent.change(screen.getByLabelText("It weighs, g"), { target: { value: "40,2" } });
    fireEvent.click(screen.getByText("Demould it"));
    await waitFor(() => expect(server.posted("/api/pots/{id}/out")).toEqual([{ weight_g: 40.2, faults: [{ kind: "bubble", zone: "edge" }] }]));
  });
});

describe("a pot that rings", () => {
  it("is taken in hand by one, and the other sees who", async () => {
    pots = [pot({ rings: true, rang_at: "2026-01-12T09:00:00Z" })];
    server.post("/api/pots/{id}/answer", () => {
      pots = [pot({ rang_at: "2026-01-12T09:00:00Z", answered_at: "2026-01-12T09:01:00Z", answered_by: "Pip Sallow" })];
      return pots[0];
    });
    showAt("/build", <Build />);
    fireEvent.click(await screen.findByText(/I am on it/));
    expect(await screen.findByText(/Pip Sallow took it in hand/)).toBeTruthy();
  });
  it("says where its window shut", async () => {
    pots = [pot({ past: true, too_late_at: "2026-01-12T08:50:00Z", too_late: "it may gel before it is in the mould" })];
    showAt("/build", <Build />);
    expect((await screen.findByTestId("too-late")).textContent).toMatch(/Too late since .*08:50|Too late since .*may gel/);
  });
  it("of the night stands in the morning's list", async () => {
    night = {
      from: "2026-01-11T18:15:00Z",
      to: "2026-01-12T05:50:00Z",
      rang: [{ pot: 9, label: "PK-01-b", piece: "PK-01", at: "2026-01-12T01:10:00Z", words: "ready to come out", late: false }],
      silent_s: 3600,
      low_c: 17.2,
      top_c: 19.9,
    };
    showAt("/build", <Build />);
    const list = await screen.findByTestId("night");
    expect(list.textContent).toContain("no reading of the room came for 1 h");
    expect(list.textContent).toContain("PK-01-b: ready to come out");
    expect(list.textContent).toContain("between 17.2 and 19.9 °C");
  });
  it("offers what fits into its wait", async () => {
    pots = [pot({ kind: "cure", state: "running", left_s: 2500, goes_on: false, run: undefined, held_back: "It is firming." })];
    server.get("/api/meanwhile", [{ title: "Finish BF-03-b", why: "", link: "/finish/BF-03-b", in_s: 0, hand_s: 1500 }]);
    showAt("/build", <Build />);
    const list = await screen.findByTestId("meanwhile");
    expect(list.textContent).toContain("fits into 40 min");
    expect(list.textContent).toContain("Finish BF-03-b about 25 min");
  });
});

describe("places", () => {
  const place = (more: Partial<Schemas["BuildPlace"]> = {}): Schemas["BuildPlace"] => ({
    code: "oven",
    name: "oven",
    kind: "oven",
    alone: false,
    flame: false,
    pots: [],
    ...more,
  });
  it("say what they show, what they are set to and what stands in them", () => {
    expect(shows(place())).toBe("not read, off");
    expect(shows(place({ temp_c: 84.2, set_c: 95, alone: true }))).toBe("84 °C, set to 95 °C, may run alone");
    expect(shows(place({ kind: "rack", flame: true }))).toBe("as the room, a flame burns there");
    expect(shows(place({ kind: "rack", takes: 12 }))).toBe("as the room, takes 12 at once");
    expect(shows(place({ kind: "cold", temp_c: 5.04, rh: 0.78 }))).toBe("5.0 °C · 78 % RH");
  });
  it("are set, and what cannot be is said at its field", async () => {
    places = [place({ pots: ["AL-02-a bake"], set_c: 95 })];
    server.post("/api/places/{code}/set", (b) =>
      ((b as { set_c?: number }).set_c ?? 0) > 105 ? new No(422, "out_of_range", "set_c", "oven is set to 40 to 105 °C.") : places,
    );
    showAt("/build", <Build />);
    fireEvent.click(await screen.findByRole("button", { name: "oven" }));
    expect(screen.getByTestId("places").textContent).toContain("AL-02-a bake");
    fireEvent.change(screen.getByLabelText("Set it to, °C"), { target: { value: "900" } });
    fireEvent.click(screen.getByText("Set it"));
    expect(await screen.findByText(/40 to 105/)).toBeTruthy();
    fireEvent.click(screen.getByText("It is off"));
    await waitFor(() => expect(server.posted("/api/places/{code}/set")).toEqual([{ set_c: 900 }, {}]));
  });
  it("take so much at once, as somebody who knows says", async () => {
    places = [place({ kind: "rack", code: "rack", name: "rack" })];
    server.post("/api/places/{code}/rules", (b) =>
      ((b as { takes?: number }).takes ?? 0) < 1 ? new No(422, "out_of_range", "takes", "At least one.") : places,
    );
    showAt("/build", <Build />);
    fireEvent.click(await screen.findByRole("button", { name: "rack" }));
    fireEvent.change(screen.getByLabelText("Copies it takes at once"), { target: { value: "none" } });
    fireEvent.click(screen.getAllByText("Keep it").at(-1) as HTMLElement); // the first is its thermometer's
    expect(await screen.findByText("At least one.")).toBeTruthy();
    expect((screen.getByLabelText("Copies it takes at once") as HTMLInputElement).value).toBe("none");
    fireEvent.change(screen.getByLabelText("Copies it takes at once"), { target: { value: "8" } });
    fireEvent.click(screen.getAllByText("Keep it").at(-1) as HTMLElement); // the first is its thermometer's
    await waitFor(() => expect(server.posted("/api/places/{code}/rules")).toEqual([{ takes: 0 }, { takes: 8 }]));
  });
  it("are written down, with an empty shop told what for", async () => {
    server.post("/api/places", () => [place()]);
    showAt("/build", <Build />);
    expect((await screen.findByTestId("places")).textContent).toContain("write yours down");
    fireEvent.click(screen.getByText("Write a place down"));
    fireEvent.change(screen.getByLabelText("Name"), { target: { value: "cold 1" } });
    fireEvent.change(screen.getByLabelText("What it is"), { target: { value: "cold" } });
    fireEvent.click(screen.getByText("Keep it"));
    await waitFor(() => expect(server.posted("/api/places")).toEqual([{ name: "cold 1", kind: "cold" }]));
  });
});

describe("helping coats along", () => {
  const way = (preset: Schemas["BuildHelp"]["preset"], more: Partial<Schemas["BuildHelp"]> = {}): Schemas["BuildHelp"] => ({
    preset,
    words: preset ?? "",
    now: false,
    saves_s: 0,
    ready_at: "2026-01-12T11:20:00Z",
    others: [],
    ...more,
  });
  const there = (place: string, more: Partial<Schemas["BuildHelp"]> = {}) => way(undefined, { place, words: `in ${place}`, ...more });
  const openWays = async () => fireEvent.click(await screen.findByText(/Help it along/));

  it("says what each air saves and its limit, and puts the pot there", async () => {
    pots = [pot({ state: "running" })];
    server
      .get("/api/pots/{id}/help", [
        way("still", { now: true }),
        way("fan", { saves_s: 2700, limit: "On a wearer only moving air.", others: [{ label: "GC-01-a", saves_s: 600 }] }),
        way("warm_dryer", { saves_s: -600 }),
        there("warm-box", { ready_at: undefined, refused: "It is wet with what burns." }),
      ])
      .post("/api/pots/{id}/air", () => pot());
    showAt("/build", <Build />);
    await openWays();
    const fan = (await screen.findByText("fan")).closest("[data-air]") as HTMLElement;
    expect(fan.textContent).toMatch(/45 min sooner.*On a wearer only moving air/);
    expect(document.querySelector("[data-air=warm_dryer]")?.textContent).toContain("10 min later");
    expect(document.querySelector("[data-air=still]")?.textContent).toContain("as now");
    expect(fan.textContent).toContain("what stands beside it too: GC-01-a 10 min sooner");
    const box = document.querySelector("[data-place=warm-box]") as HTMLElement;
    expect(box.textContent).toContain("wet with what burns");
    expect(box.querySelector("button")).toBeNull();
    fireEvent.click(fan.querySelector("button") as HTMLElement);
    await waitFor(() => expect(server.posted("/api/pots/{id}/air")).toEqual([{ preset: "fan" }]));
  });

  it("puts a pot somewhere else, and with a reason where that was held back", async () => {
    pots = [pot({ kind: "cure", state: "running", held_back: "It is firming.", copy: "BF-03-d", run: undefined, goes_on: false })];
    server
      .get("/api/pots/{id}/help", [there("", { words: "in the room", now: true }), there("oven", { saves_s: 900 })])
      .post("/api/pots/{id}/place", (b) =>
        (b as { reason?: string }).reason ? pot() : new No(409, "held_back", "", "AL-02 bake stands there: bake them apart."),
      );
    showAt("/build", <Build />);
    await openWays();
    fireEvent.click(await screen.findByText("It stands there now"));
    expect(await screen.findByText(/bake them apart/)).toBeTruthy();
    expect(document.querySelector("[data-place=oven]")).toBeTruthy();
    fireEvent.click(screen.getByText("Move it early"));
    const why = screen.getAllByLabelText("Why before its time");
    fireEvent.change(why[why.length - 1], { target: { value: "it is cured" } });
    fireEvent.click(screen.getByText("Move it all the same"));
    await waitFor(() => expect(server.posted("/api/pots/{id}/place")).toEqual([{ place: "oven" }, { place: "oven", reason: "it is cured" }]));
  });

  it("takes a weight, and says at its field what cannot be", async () => {
    pots = [pot({ state: "running", marks: [{ stage: "dry", text: "dry through", level: 0.9, reached: false }] })];
    server.post("/api/pots/{id}/weigh", (b) =>
      (b as { grams: number }).grams > 20 ? new No(422, "contradiction", "grams", "Drying, nothing gets heavier.") : pot(),
    );
    showAt("/build", <Build />);
    fireEvent.click(await screen.findByText("Weigh it"));
    const grams = screen.getByLabelText(/weighed on before, g/);
    fireEvent.change(grams, { target: { value: "30" } });
    fireEvent.click(screen.getByText("Keep the weight"));
    expect(await screen.findByText(/nothing gets heavier/)).toBeTruthy();
    expect((grams as HTMLInputElement).value).toBe("30");
    fireEvent.change(grams, { target: { value: "14,2" } });
    fireEvent.click(screen.getByText("Keep the weight"));
    await waitFor(() => expect(server.posted("/api/pots/{id}/weigh")).toEqual([{ grams: 30 }, { grams: 14.2 }]));
    expect(await screen.findByText("Weigh it")).toBeTruthy();
  });

  it("takes what a finger found, and says what the shop learned", async () => {
    const marks = [
      { stage: "touch", text: "touch-dry", level: 0.3, reached: true },
      { stage: "dry", text: "dry through", level: 0.9, reached: false },
    ];
    pots = [pot({ state: "running", marks })];
    server
      .get("/api/pots/{id}/help", [way("still", { now: true })])
      .get("/api/paces", [{ place: "still/form", words: "left in still air, on a form", n: 7, times: 1.21, times_low: 1.02, times_high: 1.44 }])
      .post("/api/pots/{id}/observe", () => pot({ state: "running", marks }))
      .post("/api/paces/forget", () => []);
    showAt("/build", <Build />);
    fireEvent.click(await screen.findByText("It is clear and no longer cold now"));
    expect(screen.queryByText("It is no longer tacky now")).toBeNull();
    await waitFor(() => expect(server.posted("/api/pots/{id}/observe")).toEqual([{ stage: "dry" }]));
    await openWays();
    expect((await screen.findByText(/1.21 of the book's time/)).textContent).toContain("from 7 signs");
    fireEvent.click(screen.getByText("Start anew"));
    await waitFor(() => expect(server.posted("/api/paces/forget")).toEqual([{ place: "still/form" }]));
  });

  it("is not offered for what is ready or does not dry", async () => {
    pots = [pot({ kind: "set", state: "running" })];
    showAt("/build", <Build />);
    await screen.findByTestId("next-stage");
    expect(screen.queryByText("Help it along")).toBeNull();
  });
});

describe("a session close up", () => {
  it("says what is next and takes it as done, with the lot and a note", async () => {
    server.post("/api/runs/{code}/stages/{seq}", () => {
      current = run({ next: 3, held_back: "NM-01-L-a coat 2 of 3 is wet; the next coat may go on in about 4 min." });
      return current;
    });
    showAt("/build", <Build />);
    expect((await screen.findByTestId("next-stage")).textContent).toBe("Coat 2 of 3: Latex, stippled.");
    fireEvent.change(screen.getByLabelText("Note"), { target: { value: "knuckles first" } });
    fireEvent.click(screen.getByText("Coat 2 is on"));
    await waitFor(() => expect(server.posted("/api/runs/{code}/stages/{seq}")).toEqual([{ note: "knuckles first" }]));
    expect(server.asked.find((a) => a.method === "POST")?.params).toEqual({ code: "R-0009", seq: "2" });
    expect(await screen.findByText(/the next coat may go on in about 4 min/)).toBeTruthy();
  });
  it("holds a hurried hand back, and goes on with a reason", async () => {
    current = run({ held_back: "It is wet." });
    server.post("/api/runs/{code}/stages/{seq}", () => current);
    showAt("/build", <Build />);
    fireEvent.click(await screen.findByText("Coat it early"));
    fireEvent.change(screen.getByLabelText("Why before its time"), { target: { value: "dryer on it" } });
    fireEvent.click(screen.getByText("Coat it all the same"));
    await waitFor(() => expect(server.posted("/api/runs/{code}/stages/{seq}")).toEqual([{ reason: "dryer on it" }]));
  });
  it("shows the server's no at the lot, and keeps what was typed", async () => {
    server.post("/api/runs/{code}/stages/{seq}", () => new No(422, "lot_refused", "lot", "Lot 25-012 may not be used: recalled."));
    showAt("/build", <Build />);
    const lot = await screen.findByLabelText("Lot");
    fireEvent.change(lot, { target: { value: "25-012" } });
    fireEvent.click(screen.getByText("Coat 2 is on"));
    expect(await screen.findByText("Lot 25-012 may not be used: recalled.")).toBeTruthy();
    expect((lot as HTMLInputElement).value).toBe("25-012");
  });
  it("plans one more coat", async () => {
    server.post("/api/runs/{code}/coats", () => current);
    showAt("/build", <Build />);
    fireEvent.click(await screen.findByText("One more coat"));
    await waitFor(() => expect(server.posted("/api/runs/{code}/coats")).toHaveLength(1));
  });
  it("is said to be over when it is", async () => {
    pots = [];
    current = run({ ended_at: "2026-01-12T09:30:00Z", next: 0 });
    showAt("/build?run=R-0009", <Build />);
    expect(await screen.findByText(/This session is over/)).toBeTruthy();
    expect(screen.queryByTestId("next-stage")).toBeNull();
  });
});

describe("a pot close up", () => {
  it("is taken out when it is ready, and says why when it is held back", async () => {
    pots = [
      pot({ id: 5, label: "BF-03-d", copy: "BF-03-d", run: "R-0006", kind: "cure", goes_on: false, state: "running", held_back: "It is firming." }),
    ];
    server.post("/api/pots/{id}/out", () => pots[0]);
    showAt("/build", <Build />);
    expect((await screen.findByTestId("held-back")).textContent).toContain("It is firming.");
    fireEvent.click(screen.getByText("Take it out early"));
    fireEvent.change(screen.getByLabelText("Why before its time"), { target: { value: "the mould is wanted" } });
    fireEvent.click(screen.getByText("Take it out all the same"));
    await waitFor(() => expect(server.posted("/api/pots/{id}/out")).toEqual([{ reason: "the mould is wanted" }]));
  });
  it("never says more than all of the way", async () => {
    pots = [pot({ goes_on: false, run: undefined, copy: "GC-01-a", fill: 1 })];
    showAt("/build", <Build />);
    expect(await screen.findByText(/100 % of the way/)).toBeTruthy();
  });
  it("of a mould leads to its own room", async () => {
    pots = [pot({ id: 9, label: "AL-03/M1", run: undefined, kind: "mould", goes_on: false })];
    showAt("/build", <Build />);
    expect(await screen.findByText("Weigh it in Mould")).toBeTruthy();
    expect(screen.queryByText("Powder and lift")).toBeNull();
  });
});

describe("beginning a session", () => {
  const piece = (code: string): Schemas["Piece"] => ({
    code,
    name: "A piece",
    region: "hand_back",
    side: "",
    place: "build",
    family: "latex",
    copies_wanted: 2,
    copies_good: 0,
    character_code: "NM",
    character_name: "the net-mender",
    production: "The Tallow Court",
    production_id: 1,
    section_number: 1,
    brief_number: 1,
    created_at: "2025-12-01T09:00:00Z",
  });
  const outlook = (more: Partial<Schemas["BuildOutlook"]> = {}): Schemas["BuildOutlook"] => ({
    piece: "NM-01-L",
    way: "coats",
    way_text: "coats",
    from_mix: false,
    section_number: 1,
    stages: [],
    count: { wanted: 2, good: 0, free: 0, coming: 0, begun: 1, planned: 0 },
    days: 0,
    ...more,
  });
  it("sends copies, place and one key, and goes to it", async () => {
    pots = [];
    server
      .get("/api/pieces", [piece("NM-01-L")])
      .get("/api/pieces/{code}/outlook", outlook())
      .get("/api/moulds", [])
      .post("/api/runs", () => run({ code: "R-0010" }));
    showAt("/build?piece=NM-01-L", <Build />);
    fireEvent.change(await screen.findByLabelText("Copies"), { target: { value: "2" } });
    screen.getByText(/No shooting day to come asks for it/);
    fireEvent.change(screen.getByLabelText("Where"), { target: { value: "chair 2" } });
    fireEvent.click(screen.getByText("Begin it"));
    await waitFor(() => expect(server.posted("/api/runs")).toMatchObject([{ piece: "NM-01-L", copies: 2, place: "chair 2", moulds: [] }]));
    expect((server.posted("/api/runs")[0] as { key: string }).key).toMatch(/^[0-9a-f-]{36}$/);
  });
  it("sends what is cast from a mix to Mix", async () => {
    pots = [];
    server
      .get("/api/pieces", [piece("BF-03")])
      .get("/api/pieces/{code}/outlook", outlook({ way: "cast", from_mix: true }))
      .get("/api/moulds", []);
    showAt("/build", <Build />);
    expect(await screen.findByText("Mix for it")).toBeTruthy();
    expect(screen.queryByText("Begin it")).toBeNull();
  });
});

describe("what is said when a stage is done", () => {
  it("names the coat, and something for every act", () => {
    expect(doneWords({ act: "slush", coat: 3, of: 6 })).toBe("Coat 3 is on");
    for (const act of ["film", "lay on", "insert", "whip", "bake", "wash", "melt", "chill", "pour", "lift", "open", "fit", "anything"])
      expect(doneWords({ act })).toMatch(/\w/);
  });
});
