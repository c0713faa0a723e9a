import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aMaterial, aPiece, showAt } from "../../testing";
import Colour from "./Colour";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

const lab = { l: 60, a: 11, b: 17 };
const tools: Schemas["CraftPaintworkTool"][] = [
  {
    code: "sponge",
    text: "sponge",
    film_mm: 0.03,
    film_range_mm: [0.02, 0.04],
    cm2_min: 40,
    lands: 0.85,
    coverage: 0.9,
    distance_mm: 0,
    hollows: false,
  },
  { code: "wash", text: "wash", film_mm: 0.035, film_range_mm: [0.02, 0.05], cm2_min: 30, lands: 0.9, coverage: 0.9, distance_mm: 0, hollows: true },
];
const state: Schemas["DocumentState"] = { base: 0, step: 0, last: 0, latest: 0, drafted: false, others: [] };
const after = (id: string): Schemas["CraftPaintworkAfter"] => ({
  id,
  lab,
  de00: 1.4,
  moves: 3,
  covered: 0.9,
  hides: 0.6,
  area_cm2: 50,
  grams: 0.4,
  thinner_g: 0,
  minutes: 6,
  wait_s: 240,
  recheck: true,
});
/** What a schedule comes to, worked out by nobody: a step a layer. */
const follows = (doc: Schemas["CraftPaintworkSchedule"], part: Partial<Schemas["ColourScheduleView"]> = {}): Schemas["ColourScheduleView"] => ({
  doc,
  state,
  begun: true,
  ground: "Silicone gel, bare",
  allowed: 1,
  aim: lab,
  area_cm2: 50,
  tools,
  findings: [],
  lights: [{ light: "daylight", de00: 1.4, fails: true, days: [], aim: lab, piece: lab }],
  painted: { start: lab, end: lab, grams: 0.4, minutes: 6, steps: doc.layers.map((l) => after(l.id)), notes: [] },
  ...part,
});
const layer: Schemas["CraftPaintworkLayer"] = { id: "base", name: "own skin", role: "base", medium: "paint-alcohol", tool: "sponge", lab, passes: 2 };

const swatch = (id: number, name: string, off?: number): Schemas["ColourSwatch"] => ({
  id,
  name,
  material: "paint-alcohol",
  medium: "Alcohol colour",
  family: "paint_alcohol",
  parts: [],
  backing: "",
  light: "daylight",
  note: "",
  at: "2026-01-09T10:00:00Z",
  by: "Ivo Brack",
  now: { lab, source: "lab", uncertainty: 0.6 },
  readings: [],
  off,
});

let server: FakeServer;
let schedule: Schemas["ColourScheduleView"];

beforeEach(() => {
  schedule = follows({ layers: [layer] });
  server = new FakeServer()
    .get("/api/me", { demo: true, devices: [], person: { id: 1, login: "ivo", name: "Ivo Brack", role: "fabricator" } } as never)
    .get("/api/pieces", [aPiece({ code: "WB-01", name: "Brow", place: "colour", section_number: 1 })])
    .get("/api/materials", [
      aMaterial({ slug: "paint-alcohol", name: "Alcohol colour", family: "paint_alcohol" }),
      aMaterial({ slug: "paint-cream", name: "Cream colour", family: "paint_cream" }),
      aMaterial({ slug: "powder-translucent", name: "Powder", family: "powder" }),
    ])
    .get("/api/pieces/{code}/colour", { piece: "WB-01", skins: [], lights: [], days: [], recipes: [], warnings: [] })
    .get("/api/pieces/{code}/paint", () => schedule)
    .put("/api/pieces/{code}/paint", (sent) => {
      schedule = follows(sent.doc, { state: { ...state, step: state.step + 1, last: 1, drafted: true } });
      return schedule;
    })
    .post("/api/pieces/{code}/paint/try", (doc) => follows(doc))
    .get("/api/pieces/{code}/texture", { begun: false } as never)
    .get("/api/pigments", [])
    .get("/api/technique-cards", [])
    .get("/api/swatches", [])
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const leaf = (name: string) =>
  showAt(
    `/colour/WB-01?leaf=${encodeURIComponent(name)}`,
    <Routes>
      <Route path="/colour/:code" element={<Colour />} />
    </Routes>,
  );
const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });

describe("a paint schedule", () => {
  it("says what each layer comes to, and saves what is changed of it", async () => {
    leaf("Paint");
    const row = (await screen.findByText("own skin", { selector: "b" })).closest("li");
    expect(row?.textContent).toContain("Alcohol colour, sponge × 2");
    expect(row?.textContent).toContain("1.4 from the target");
    expect(row?.textContent).toContain("0.40 g, 6 min, dries 4 min");
    type("Tool", "wash");
    fireEvent.click(screen.getByLabelText("hidden faces and hollows too"));
    await waitFor(() => expect(server.asked.filter((a) => a.method === "PUT").length).toBeGreaterThan(0), { timeout: 8000 });
    await waitFor(() => {
      const last = server.asked.filter((a) => a.method === "PUT").at(-1)?.body as { doc: Schemas["CraftPaintworkSchedule"] };
      expect(last.doc.layers[0]).toMatchObject({ tool: "wash", hidden: true, name: "own skin" });
    });
  });

  it("is agreed, and a layer more begins from the target", async () => {
    server.post("/api/pieces/{code}/paint/agree", () => follows(schedule.doc, { state: { ...state, latest: 1 } }));
    leaf("Paint");
    await screen.findByText("own skin", { selector: "b" });
    fireEvent.click(screen.getByText("Add a colour"));
    await waitFor(() => expect(document.querySelectorAll("[data-layer]")).toHaveLength(2));
    fireEvent.click(screen.getByText("Agree the schedule"));
    await screen.findByText(/§1 agreed/);
    const saved = server.asked.filter((a) => a.method === "PUT").at(-1)?.body as { doc: Schemas["CraftPaintworkSchedule"] };
    expect(saved.doc.layers[1]).toMatchObject({ role: "base", lab });
  });

  it("tells what cannot be reckoned, what the rules say and what its order asks for", async () => {
    schedule = follows(
      { layers: [layer] },
      {
        findings: [
          { id: "MED-4", severity: "stop", above: "base", reason: "Grease lies under water.", remedy: "Powder it." } as Schemas["CraftRulesFinding"],
        ],
        wrong: { title: "", status: 422, detail: "What colour is it?", code: "missing", field: "layers[0].lab" },
      },
    );
    if (schedule.painted) schedule.painted.notes = [{ code: "hidden", text: "No layer goes on hidden faces.", remedy: "Say of one that it does." }];
    leaf("Paint");
    expect((await screen.findByRole("alert")).textContent).toContain("What colour is it?");
    const said = screen.getByTestId("paint-schedule").textContent;
    expect(said).toMatch(/Stop own skin: Grease lies under water. Powder it./);
    expect(said).toContain("No layer goes on hidden faces.");
    expect((screen.getByText("Agree the schedule").closest("button") as HTMLButtonElement).disabled).toBe(true);
  });

  it("finds what a layer is mixed of, and says when paint does not reach it", async () => {
    server.post("/api/pieces/{code}/paint/propose", (sent) => {
      expect(sent.at).toBe(0);
      return { mixed: [{ pigment: "RO", per_100_g: 4.2 }], de00: 3.1, was: 9.4 };
    });
    leaf("Paint");
    await screen.findByText("own skin", { selector: "b" });
    fireEvent.change(screen.getByLabelText("Where its colour is from"), { target: { value: "mixed" } });
    fireEvent.click(screen.getByText("Find what takes it to the target"));
    expect((await screen.findByText(/From 9.4 to 3.1 from the target/)).textContent).toContain("paint alone does not reach it");
    await waitFor(() => {
      const last = server.asked.filter((a) => a.method === "PUT").at(-1)?.body as { doc: Schemas["CraftPaintworkSchedule"] } | undefined;
      expect(last?.doc.layers[0].mixed).toEqual([{ pigment: "RO", per_100_g: 4.2 }]);
      expect(last?.doc.layers[0].lab).toBeUndefined();
    });
  });

  it("shows both when somebody was quicker", async () => {
    server.post(
      "/api/pieces/{code}/paint/agree",
      () =>
        new No(409, "newer_agreed", "", "Maud Tarn agreed a newer version meanwhile.", {
          yours: { layers: [layer] },
          theirs: { layers: [{ ...layer, name: "another skin" }] },
          who: "Maud Tarn",
          state,
        }),
    );
    leaf("Paint");
    await screen.findByText("own skin", { selector: "b" });
    fireEvent.click(screen.getByText("Agree the schedule"));
    expect(await screen.findByText(/The other, Maud Tarn: another skin/)).toBeTruthy();
  });
});

it("fills a layer as a card says, and a card is written from what was tried", async () => {
  const card: Schemas["ColourCard"] = {
    id: 3,
    name: "salt fleck",
    tool: "wash",
    distance_mm: 220,
    dilution: 1,
    coverage: 0.1,
    load: "blotted once",
    instead: "",
    note: "",
    at: "2026-01-09T10:00:00Z",
    by: "Ivo Brack",
  };
  server.get("/api/technique-cards", [card]).post("/api/technique-cards", () => new No(422, "missing", "name", "What does it look like?"));
  leaf("Paint");
  await screen.findByText("own skin", { selector: "b" });
  fireEvent.change(await screen.findByLabelText("By a card"), { target: { value: "3" } });
  await waitFor(() => {
    const last = server.asked.filter((a) => a.method === "PUT").at(-1)?.body as { doc: Schemas["CraftPaintworkSchedule"] } | undefined;
    expect(last?.doc.layers[0]).toMatchObject({ tool: "wash", coverage: 0.1, dilution: 1, note: "salt fleck: blotted once" });
  });
  cleanup();
  leaf("Cards");
  await screen.findByText(/held at 220 mm, thinned 1 : 1, covers 10 %, blotted once/);
  type("Covers, %", "12,5");
  fireEvent.click(screen.getByText("Keep the card"));
  await screen.findByText("What does it look like?");
  expect(server.posted("/api/technique-cards").at(-1)).toMatchObject({ tool: "spatter", coverage: 0.125 });
  expect((screen.getByLabelText("Covers, %") as HTMLInputElement).value).toBe("12,5");
});

it("puts an injury into the schedule, the rim first", async () => {
  const zone = (name: string, share: number): Schemas["CraftInjuryColoured"] =>
    ({ name, share, edge_mm: 6, lab, de00: 3, skin: {} }) as Schemas["CraftInjuryColoured"];
  server.get("/api/pieces/{code}/injury", () => ({
    kind: { id: "bruise" as const, text: "bruise", stages_h: [1], stages: ["fresh"], last_h: 400, order: ["yellow around", "red"] },
    hours: 16,
    depth: 0.5,
    zones: [zone("middle", 0.5), zone("rim", 1)],
    stages: [{ hours: 1, word: "fresh", zones: [zone("middle", 0.5), zone("rim", 1)] }],
    skin: { lab, words: "cheek" } as Schemas["ColourAim"],
    bloods: [{ id: "venous", name: "fresh and dark", class: "pouring", films: [{ mm: 0.3, lab }] }],
  }));
  leaf("Injuries");
  await screen.findByText(/On cheek, as it will be on the day/);
  expect(screen.getByTestId("injuries").textContent).toContain("Nobody dates or treats a real injury by them");
  fireEvent.click(screen.getByText("Put it into the paint schedule"));
  await waitFor(() => expect(server.asked.filter((a) => a.method === "PUT")).toHaveLength(1));
  const sent = server.asked.find((a) => a.method === "PUT")?.body as { doc: Schemas["CraftPaintworkSchedule"] };
  expect(sent.doc.layers.map((l) => l.id)).toEqual(["base", "bruise-rim", "bruise-middle"]);
});

describe("the book of swatches", () => {
  it("finds the nearest to one of its own, and keeps the words when a reading is refused", async () => {
    server
      .get("/api/swatches", (a) =>
        a.query.get("l") ? [swatch(1, "quay grey", 0), swatch(2, "wet slate", 7.3)] : [swatch(2, "wet slate"), swatch(1, "quay grey")],
      )
      .post("/api/swatches", () => new No(422, "missing", "reading.b", "Type b: a blank is no zero."));
    leaf("Swatches");
    await screen.findByText("quay grey");
    fireEvent.click(screen.getAllByText("find near ones")[1]);
    await screen.findByText(/7.3 away/);
    type("Called", "rust");
    type("L", "40");
    type("a", "20");
    fireEvent.click(screen.getByText("Keep the colour"));
    await screen.findByText("Type b: a blank is no zero.");
    expect((screen.getByLabelText("Called") as HTMLInputElement).value).toBe("rust");
    expect(server.posted("/api/swatches").at(-1)).toMatchObject({ name: "rust", reading: { source: "lab", l: 40, a: 20 } });
  });
});

describe("pigments of the shop", () => {
  it("say what they are reckoned as and how far a lot drifted; one reading asks for the sort", async () => {
    const own = {
      id: 2,
      base: "silicone",
      way: "pair",
      amount: 0.5,
      thickness_mm: 0.6,
      rms: 0.001,
      off: 0.1,
      weak_bands: [],
      at: "2026-01-09T10:00:00Z",
      by: "Ivo",
      drift: 2.4,
    };
    server
      .get("/api/pigments", [
        {
          material: "pigment-red",
          name: "Red oxide",
          fibre: false,
          drop_g: 0.03,
          into: ["silicone_addition", "silicone_condensation"],
          usable_g: 55,
          lot: "24-012",
          price_minor_kg: 9000,
          known: true,
          looks: lab,
          own: own as Schemas["ColourCalibration"],
          before: [{ ...own, lot: "23-001" } as Schemas["ColourCalibration"]],
        },
      ])
      .post("/api/pigments/calibrations", () => []);
    leaf("Pigments");
    const red = (await screen.findByText("Red oxide", { selector: "b" })).closest("[data-pigment]");
    expect(red?.textContent).toContain("over white and black");
    expect(red?.textContent).toContain("2.4 from the lot 23-001");
    expect(screen.getByText("Into silicone")).toBeTruthy();
    fireEvent.click(screen.getByLabelText("one reading has to do"));
    fireEvent.change(screen.getByLabelText("What sort it is"), { target: { value: "organic" } });
    fireEvent.click(screen.getByText("Keep the calibration"));
    await waitFor(() => expect(server.posted("/api/pigments/calibrations")).toHaveLength(1));
    const sent = server.posted("/api/pigments/calibrations")[0] as Schemas["ColourNewCalibration"];
    expect(sent).toMatchObject({ material: "pigment-red", class: "organic", amount: 0.5 });
    expect(sent.over_black).toBeUndefined();
  });
});

it("a palette compares its parts and shares a colour anew", async () => {
  let palette: Schemas["ColourPalette"] = {
    look: 4,
    name: "grown",
    character: "WB",
    pieces: ["WB-01"],
    shots: [],
    version: 3,
    colours: [{ name: "quay grey", lab, spread: 3.9, apart: "WB-01 and headdress", parts: [{ what: "WB-01", lab, off: 0.2 }, { what: "hands" }] }],
  };
  server
    .get("/api/pieces/{code}/palettes", () => [palette])
    .put("/api/looks/{id}/palette", (sent) => {
      palette = { ...palette, version: 4, colours: sent.colours };
      return palette;
    });
  leaf("Palette");
  await screen.findByText(/up to 3.9 apart: WB-01 and headdress/);
  expect(screen.getByText("not read there yet")).toBeTruthy();
  type("A colour that is shared", "bell red");
  for (const [k, v] of [
    ["L", "42"],
    ["a", "24"],
    ["b", "19"],
  ])
    type(k, v);
  fireEvent.click(screen.getByText("Share it"));
  await screen.findByText("bell red");
  const sent = server.asked.find((a) => a.method === "PUT")?.body as { colours: Schemas["ColourPaletteColour"][]; version: number };
  expect(sent.version).toBe(3);
  expect(sent.colours[1]).toMatchObject({ name: "bell red", lab: { l: 42, a: 24, b: 19 }, parts: [{ what: "WB-01" }] });
});

it("a set's own light is taken from its file", async () => {
  server
    .get("/api/lights", [{ name: "daylight", own: false, resampled: false, tint: [1, 1, 1] }])
    .post("/api/lights", () => new No(422, "E_BANDS", "file", "Wavelengths run from 400 nm or less."));
  leaf("Lights");
  await screen.findByText("daylight");
  type("Called as the day says it", "chapel");
  const file = new File(["nm,power\n400,1\n"], "chapel.csv", { type: "text/csv" });
  Object.defineProperty(file, "text", { value: () => Promise.resolve("nm,power\n400,1\n") });
  fireEvent.change(screen.getByLabelText("File of the light"), { target: { files: [file] } });
  await screen.findByText("chapel.csv");
  fireEvent.click(screen.getByText("Keep the light"));
  await screen.findByText("Wavelengths run from 400 nm or less.");
  expect(server.posted("/api/lights")).toEqual([{ name: "chapel", origin: "", file: "nm,power\n400,1\n" }]);
  expect((screen.getByLabelText("Called as the day says it") as HTMLInputElement).value).toBe("chapel");
});
