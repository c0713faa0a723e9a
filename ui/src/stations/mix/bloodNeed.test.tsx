import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { FakeServer, No } from "../../fakeServer";
import { showAt } from "../../testing";
import { BloodNeed } from "./BloodNeed";

let server: FakeServer;

beforeEach(() => {
  const kind = { depth_mm: 0.4, skins_min: 15, stains: 2, edible: false, stays: false, gloss: "wet", renew: 0.5, remover: "soap_water" };
  server = new FakeServer()
    .get("/api/blood", [
      { ...kind, id: "arterial", product: "blood-house" },
      { ...kind, id: "gel", product: "blood-gel" },
    ])
    .post("/api/blood/need", () => ({ first_ml: 0.59, ml: 23.2, grams: 31.3, by_type: { arterial: 23.2 }, skins_min: 15, stains: 2 }))
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("how much blood a scene takes", () => {
  it("asks place by place and carries the millilitres into a pour sheet", async () => {
    showAt("/recipes/blood-running", <BloodNeed slug="blood-running" makes="blood-house" />);
    const link = await screen.findByText("Weigh 24 ml");
    expect(link.getAttribute("href")).toBe("/mix?recipe=blood-running&ml=24");
    expect(screen.queryByText("gel")).toBeNull();
    fireEvent.click(screen.getByText("One more place"));
    fireEvent.change(screen.getByLabelText("Takes"), { target: { value: "8" } });
    await waitFor(() => expect(server.posted("/api/blood/need").at(-1)).toMatchObject({ takes: 8, waste_pct: 30, places: [{ area_cm2: 12 }, {}] }));
  });

  it("shows a no at its field, and no amount beside it", async () => {
    server.post("/api/blood/need", () => new No(422, "out_of_range", "takes", "expected number <= 1000"));
    showAt("/recipes/blood-running", <BloodNeed slug="blood-running" makes="blood-house" />);
    await screen.findByText("expected number <= 1000");
    expect(screen.queryByText(/Weigh/)).toBeNull();
  });

  it("is not there for what is no blood", async () => {
    showAt("/recipes/foam", <BloodNeed slug="foam" makes="foam-latex" />);
    await waitFor(() => expect(server.asked.length).toBe(1));
    expect(screen.queryByText("How much a scene takes")).toBeNull();
  });
});
