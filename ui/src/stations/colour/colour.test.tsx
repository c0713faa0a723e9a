import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aMaterial, aPiece, showAt } from "../../testing";
import Colour from "./Colour";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

const rim: Schemas["ColourTouchUp"] = { name: "rim red", material: "paint-alcohol", medium: "alcohol paint", place: "rims", l: 42, a: 24, b: 19 };

const lab = { l: 61, a: 10, b: 18 };
const light = (name: string, de00: number, days: string[] = []): Schemas["ColourLight"] => ({
  light: name,
  de00,
  fails: de00 > 1,
  days,
  aim: lab,
  piece: { ...lab, l: 60 },
});
const flat = Array.from({ length: 36 }, () => 0.4);
const aim: Schemas["ColourAim"] = {
  kind: "skin",
  words: "brow",
  region: "brow",
  side: "",
  read: lab,
  lab,
  tan_steps: 0,
  tans: [0, 1].map((steps) => ({ steps, lab })),
  uncertainty: 0.6,
  guess: false,
  readings: 3,
  aside: 1,
  mcdm: 0.4,
  unsure: false,
  allowed: 1,
  why: "full finish",
  own: false,
  measured: false,
  version: 2,
};
const proposal = (merit: Schemas["ColourProposal"]["merit"], parts: Schemas["ColourPart"][], tungsten: number): Schemas["ColourProposal"] => ({
  merit,
  rank: 1,
  parts,
  lights: [light("daylight", 0.1), light("tungsten", tungsten, ["23 Jan, bakehouse"]), light("LED", 0.4), light("tubes", 0.9)],
  opacity: 0.78,
  load: 0.14,
  score: 0.4,
  rounding: 0.4,
  trial_g: 50,
  cost_minor: 12,
  centre: lab,
  edge: { l: 62, a: 11, b: 18 },
  edge_de00: 1.2,
  r: flat,
});
const blue: Schemas["ColourPart"] = {
  material: "pigment-blue",
  name: "ultramarine",
  per_100_g: 0.037,
  grams: 0.19,
  drops: 6,
  lot: "25-1",
  once: true,
};
const red: Schemas["ColourPart"] = { material: "flock-red", name: "flocking red", per_100_g: 0.1, grams: 0.5, once: true };
const matched: Schemas["ColourMatched"] = {
  aim,
  aim_r: flat,
  search: "best",
  layer: "body",
  section: 1,
  base: "silicone",
  material: "Silicone gel",
  centre_mm: 6,
  edge_mm: 0.1,
  batch_g: 500,
  opacity_min: 0.7,
  max_load: 3,
  fixed: [],
  aged: 0,
  base_only: 4.2,
  days: [],
  unknown: ["Green of ours"],
  proposals: [proposal("daylight", [blue, red], 2.6), proposal("lamp", [blue], 0.6)],
};
const taken: Schemas["ColourRecipe"] = {
  code: "CR-001",
  layer: "body",
  material: "silicone-gel",
  material_name: "Silicone gel",
  section: 1,
  base: "silicone",
  thickness_mm: 3,
  mix: "X-0001",
  mix_state: "weighing",
  at: "2026-01-12T10:00:00Z",
  by: "Ivo Brack",
  parts: [blue],
  aim: { words: "brow", lab, r: flat, under: flat, allowed: 1, aged: 0 },
  real: [{ ...blue, per_100_g: 0.03 }],
  base_g: 50,
  ready: true,
  open: true,
  drawdowns: [],
};
let asRoom: Schemas["ColourRoom"];

let server: FakeServer;
let kept: Schemas["ColourTouchUp"][];

beforeEach(() => {
  kept = [rim];
  asRoom = { piece: "WB-01", aim, skins: [], lights: [], days: [], recipes: [], warnings: [] };
  server = new FakeServer()
    .get("/api/pieces", [aPiece({ code: "WB-01", name: "Brow", place: "colour", section_number: 1 })])
    .get("/api/materials", [aMaterial({ slug: "paint-alcohol", name: "Alcohol paint", family: "paint_alcohol" })])
    .get("/api/pieces/{code}/match", () => matched)
    .get("/api/pieces/{code}/colour", () => asRoom)
    .get("/api/pieces/{code}/day-colours", () =>
      kept.map((t) => ({ ...t, medium: t.medium ?? "", from: "kept" as const, lab: { l: t.l, a: t.a, b: t.b }, in_kit: false, for_skin: true })),
    )
    .put("/api/pieces/{code}/touch-ups", (t) => {
      kept = [...kept, { ...t, medium: "alcohol paint" }];
      return kept;
    })
    .delete("/api/pieces/{code}/touch-ups/{name}", (a) => {
      kept = kept.filter((t) => t.name !== a.params.name);
      return kept;
    })
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const room = (leaf = "") =>
  showAt(
    `/colour/WB-01${leaf && `?leaf=${encodeURIComponent(leaf)}`}`,
    <Routes>
      <Route path="/colour/:code" element={<Colour />} />
    </Routes>,
  );
const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
const puts = () => server.asked.filter((a) => a.method === "PUT").map((a) => a.body);

describe("the colours that go with a piece", () => {
  it("keeps what was read and shows it", async () => {
    room("For the day");
    await screen.findByText("rim red");
    type("Called", "hollow green");
    for (const [label, value] of [
      ["L", "51,5"],
      ["a", "-12"],
      ["b", "8"],
    ])
      type(label, value);
    fireEvent.click(screen.getByText("Keep it"));
    await screen.findByText("hollow green");
    expect(puts()).toEqual([{ name: "hollow green", material: "paint-alcohol", place: "", l: 51.5, a: -12, b: 8 }]);
    expect((screen.getByLabelText("Called") as HTMLInputElement).value).toBe("");
  });

  it("does not take an empty box for a black", async () => {
    room("For the day");
    await screen.findByText("rim red");
    type("Called", "hollow green");
    type("L", "51");
    fireEvent.click(screen.getByText("Keep it"));
    await screen.findByText("Type a.");
    expect(puts()).toEqual([]);
    expect((screen.getByLabelText("Called") as HTMLInputElement).value).toBe("hollow green");
  });

  it("says the server's no at its box and keeps what was typed", async () => {
    server.put("/api/pieces/{code}/touch-ups", () => new No(422, "missing", "name", "Name the colour as you would ask for it."));
    room("For the day");
    await screen.findByText("rim red");
    for (const [label, value] of [
      ["L", "51"],
      ["a", "0"],
      ["b", "0"],
    ])
      type(label, value);
    fireEvent.click(screen.getByText("Keep it"));
    await screen.findByText("Name the colour as you would ask for it.");
    expect((screen.getByLabelText("L") as HTMLInputElement).value).toBe("51");
  });

  it("removes one", async () => {
    room("For the day");
    fireEvent.click(await screen.findByText("remove"));
    await waitFor(() => expect(screen.queryByText("rim red")).toBeNull());
    screen.getByText(/No touch-up colour is kept for WB-01 yet/);
  });
});

describe("a recipe for the body", () => {
  it("stands beside the target, with the lights that it fails under by name, and is taken by one tap", async () => {
    server.post("/api/pieces/{code}/colour-recipes", () => asRoom);
    room();
    const match = await screen.findByTestId("match");
    await waitFor(() => expect(match.textContent).toContain("ultramarine"), { timeout: 5000 });
    expect(match.textContent).toMatch(/ultramarinelot 25-1, by the library0.19 g6 drops/);
    expect(match.textContent).toMatch(/flocking rednot enough on the shelf, by the library0.50 gweighed/);
    expect(match.textContent).toContain("Fails under tungsten.");
    expect(match.textContent).toContain("23 Jan, bakehouse");
    expect(match.textContent).toContain("mix 50 g at least");
    expect(match.textContent).toContain("Green of ours");
    expect(match.textContent).toContain("3 readings, 1 put aside");
    // The one that is best under tungsten holds there.
    fireEvent.click(match.querySelector('[data-proposal="2"]') as Element);
    expect(match.textContent).toContain("Holds under every light.");
    fireEvent.click(screen.getByText("Mix a 50 g trial"));
    await screen.findByText(/Nothing is mixed for the body of WB-01/);
    expect(server.posted("/api/pieces/{code}/colour-recipes")).toEqual([{ parts: [{ material: "pigment-blue", per_100_g: 0.037 }], base_g: 50 }]);
  });

  it("is looked for anew by what is asked, and what is typed stays", async () => {
    room();
    await screen.findByText("Mix a 50 g trial", {}, { timeout: 5000 });
    fireEvent.change(screen.getByLabelText("Look for"), { target: { value: "shelf" } });
    type("Base, g", "250");
    type("Opaque, %", "95");
    await waitFor(
      () =>
        expect(
          server.asked.some((a) => a.query.get("search") === "shelf" && a.query.get("batch_g") === "250" && a.query.get("opacity") === "0.95"),
        ).toBe(true),
      { timeout: 5000 },
    );
    expect((screen.getByLabelText("Base, g") as HTMLInputElement).value).toBe("250");
  });

  it("follows the tan until the day", async () => {
    server.put("/api/pieces/{code}/colour-target", () => asRoom);
    room();
    fireEvent.click(await screen.findByRole("radio", { name: "+1 steps" }));
    await waitFor(() => expect(puts()).toHaveLength(1));
    expect(puts()[0]).toMatchObject({ kind: "skin", region: "brow", tan_steps: 1, version: 2 });
  });

  it("says why there is none", async () => {
    asRoom = { ...asRoom, aim: undefined, no_aim: "Nobody has read this wearer's skin." };
    room();
    expect(await screen.findByText(/Nobody has read this wearer/)).toBeTruthy();
  });

  it("names what will be seen on which day", async () => {
    asRoom.warnings = [{ kind: "fails", text: "23 Jan, bakehouse: under tungsten CR-001 is 2.6 off, and 1.0 is allowed.", light: "tungsten" }];
    room();
    expect((await screen.findByTestId("colour-warnings")).textContent).toContain("under tungsten CR-001 is 2.6 off");
  });
});

describe("a drawdown", () => {
  beforeEach(() => {
    asRoom.recipes = [taken];
  });

  it("shows what was weighed beside what was meant", async () => {
    room("Mixed and read");
    const one = await screen.findByText("ultramarine");
    expect(one.parentElement?.textContent).toContain("0.037 g0.030 g (−19 %)");
  });

  it("is not read while it is wet, and a blank is no zero", async () => {
    server.post("/api/colour-recipes/{code}/drawdowns", (sent) =>
      sent.dry
        ? new No(422, "missing", "reading.b", "Type b: a blank is no zero.")
        : new No(422, "not_dry", "dry", "Wait until it has set and is dry."),
    );
    room("Mixed and read");
    await screen.findByTestId("draw-down");
    fireEvent.change(screen.getByLabelText("How it is read"), { target: { value: "lab" } });
    type("L", "58,4");
    type("a", "11");
    fireEvent.click(screen.getByText("Say what to add"));
    await screen.findByText("Wait until it has set and is dry.");
    fireEvent.click(screen.getByLabelText("it has set and is dry"));
    fireEvent.click(screen.getByText("Say what to add"));
    await screen.findByText("Type b: a blank is no zero.");
    expect((screen.getByLabelText("L") as HTMLInputElement).value).toBe("58,4");
    const sent = server.posted("/api/colour-recipes/{code}/drawdowns").at(-1);
    expect(sent).toEqual({ thickness_mm: 3, backing: "white", dry: true, reading: { source: "lab", l: 58.4, a: 11 } });
  });

  it("says what to add, and puts it into the cup once", async () => {
    asRoom.recipes = [
      {
        ...taken,
        drawdowns: [
          {
            id: 7,
            thickness_mm: 3,
            backing: "white",
            base_g: 50,
            at: "2026-01-12T12:00:00Z",
            by: "Ivo Brack",
            read: { lab, source: "lab", uncertainty: 0.6 },
            answer: {
              verdict: "corrected",
              before: 2.4,
              after: 0.1,
              rounded: 0.3,
              band: 0.6,
              add: [{ ...blue, grams: 0.06, drops: 2 }],
              add_base_g: 0,
              factors: [{ material: "pigment-blue", name: "ultramarine", times: 0.71 }],
              strange_bands: 0,
              as_it_is: lab,
              r_as_it_is: flat,
              r_put_right: flat,
              put_right: lab,
              cost_minor: 1,
            },
          },
        ],
      },
    ];
    server.post("/api/colour-recipes/{code}/drawdowns/{id}/add", () => asRoom);
    room("Mixed and read");
    const read = (await screen.findByText("It can be put right.")).closest("[data-drawdown]");
    expect(read?.textContent).toContain("As it is 2.4 off, ±0.6; then 0.3.");
    expect(read?.textContent).toContain("ultramarine behaves as 71 % of what was weighed");
    expect(read?.textContent).toContain("add ultramarine, lot 25-10.06 g2 drops");
    fireEvent.click(screen.getByText("Put it into the cup"));
    await waitFor(() => expect(server.asked.filter((a) => a.method === "POST")).toHaveLength(1));
  });
});
