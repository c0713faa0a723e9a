import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aMaterial, aPiece, showAt } from "../../testing";
import Colour from "./Colour";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

const rim: Schemas["ColourTouchUp"] = { name: "rim red", material: "paint-alcohol", medium: "alcohol paint", place: "rims", l: 42, a: 24, b: 19 };

const light = (name: Schemas["ColourLight"]["light"], de00: number): Schemas["ColourLight"] => ({ light: name, de00, fails: de00 > 2 });
const matched: Schemas["ColourMatched"] = {
  targets: [
    { region: "brow", text: "brow", side: "", lab: { l: 61, a: 10, b: 18 }, readings: 3, mcdm: 0.2, uncertain: false, guess: false },
    { region: "nose", text: "nose", side: "", lab: { l: 57, a: 14, b: 17 }, readings: 3, mcdm: 0.4, uncertain: false, guess: false },
  ],
  target: { region: "brow", text: "brow", side: "", lab: { l: 61, a: 10, b: 18 }, readings: 3, mcdm: 1.4, uncertain: true, guess: false },
  base: "silicone",
  material: "Silicone gel",
  centre_mm: 6,
  edge_mm: 0.1,
  batch_g: 500,
  opacity_min: 0.7,
  base_only: 4.2,
  proposals: [
    {
      parts: [
        { pigment: "UB", name: "ultramarine blue", per_100_g: 0.037, grams: 0.19, drops: 6 },
        { pigment: "FR", name: "flocking red", per_100_g: 0.1, grams: 0.5 },
      ],
      lights: [light("D65", 0.1), light("A", 2.6), light("LED", 1.2), light("FL11", 0.9)],
      opacity: 0.78,
      load: 0.14,
      rounding: 0.4,
      centre: { l: 61, a: 10, b: 18 },
      edge: { l: 62, a: 11, b: 18 },
    },
  ],
};

let server: FakeServer;
let kept: Schemas["ColourTouchUp"][];

beforeEach(() => {
  kept = [rim];
  server = new FakeServer()
    .get("/api/pieces", [aPiece({ code: "WB-01", name: "Brow", place: "colour", section_number: 1 })])
    .get("/api/materials", [aMaterial({ slug: "paint-alcohol", name: "Alcohol paint", family: "paint_alcohol" })])
    .get("/api/pieces/{code}/match", () => matched)
    .get("/api/pieces/{code}/touch-ups", () => kept)
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

const room = () =>
  showAt(
    "/colour/WB-01",
    <Routes>
      <Route path="/colour/:code" element={<Colour />} />
    </Routes>,
  );
const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
const puts = () => server.asked.filter((a) => a.method === "PUT").map((a) => a.body);

describe("the colours that go with a piece", () => {
  it("keeps what was read and shows it", async () => {
    room();
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
    room();
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
    room();
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
    room();
    fireEvent.click(await screen.findByText("remove"));
    await waitFor(() => expect(screen.queryByText("rim red")).toBeNull());
    screen.getByText(/No touch-up colour is kept for WB-01 yet/);
  });
});

describe("a recipe for the body", () => {
  it("stands beside the skin, with the lights that it fails under by name", async () => {
    room();
    const match = await screen.findByTestId("match");
    await waitFor(() => expect(match.textContent).toContain("ultramarine blue"), { timeout: 5000 });
    expect(match.textContent).toContain("Silicone gel, 6 mm at the centre");
    expect(match.textContent).toMatch(/ultramarine blue0.19 g6 drops.*flocking red0.50 gweigh it/);
    expect(match.textContent).toContain("Fails under lamp light.");
    expect(match.textContent).toContain("a larger batch, or pigment let down");
    expect(match.textContent).toContain("The readings differ by 1.4");
    fireEvent.change(screen.getByLabelText("Matched to"), { target: { value: "nose/" } });
    type("Base that is mixed, g", "250");
    await waitFor(() => expect(server.asked.some((a) => a.query.get("region") === "nose" && a.query.get("batch_g") === "250")).toBe(true), {
      timeout: 5000,
    });
  });
  it("says why there is none", async () => {
    server.get("/api/pieces/{code}/match", () => new No(409, "no_reading", "", "Nobody has read this wearer's skin."));
    room();
    expect(await screen.findByText(/Nobody has read this wearer/)).toBeTruthy();
  });
});
