import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aMaterial, aPiece, showAt } from "../../testing";
import Colour from "./Colour";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

const rim: Schemas["ColourTouchUp"] = { name: "rim red", material: "paint-alcohol", medium: "alcohol paint", place: "rims", l: 42, a: 24, b: 19 };

let server: FakeServer;
let kept: Schemas["ColourTouchUp"][];

beforeEach(() => {
  kept = [rim];
  server = new FakeServer()
    .get("/api/pieces", [aPiece({ code: "WB-01", name: "Brow", place: "colour", section_number: 1 })])
    .get("/api/materials", [aMaterial({ slug: "paint-alcohol", name: "Alcohol paint", family: "paint_alcohol" })])
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
