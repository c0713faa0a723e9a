import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aMaterial, aPiece, showAt } from "../../testing";
import { PourSheet } from "./PourSheet";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

const sheet = (total: number, short?: string): Schemas["MixSheet"] =>
  ({
    total_g: total,
    short,
    cautions: ["Gloves: the safety data sheet decides."],
    lines: [],
    amount: { pours: 2, per_copy_g: 6.5, volume: { mean_ml: 6.1, sd_ml: 0.6 } },
    working: { left_s: 1500, temp_c: 21 },
  }) as unknown as Schemas["MixSheet"];

// Two equal cuts of 17 cm²: the section's own figures are of both.
const section = {
  doc: { area_cm2: 17, layers: [] },
  result: { body: { area_cm2: 34, mean_mm: 1.8, volume_ml: 6.12 } },
} as unknown as Schemas["PieceSectionView"];

let server: FakeServer;

beforeEach(() => {
  server = new FakeServer()
    .get("/api/materials", [
      aMaterial({ slug: "silicone-gel", name: "Silicone gel", family: "silicone_addition", ratio: { a: 1, b: 1 }, cure: {} as never }),
    ])
    .get("/api/pieces/{code}/amounts", { voices: [], disagree: [], volume_ml: 0 } as never)
    .get("/api/pieces/{code}", { copies_wanted: 4, copies_good: 1 } as never)
    .get("/api/pieces/{code}/section", section as never)
    .get("/api/quantity", (a) => {
      const value = Number.parseFloat(a.query.get("text") ?? "");
      return Number.isNaN(value) ? new No(422, "missing", "text", "Type an amount.") : ({ value } as never);
    })
    .post("/api/mixes/sheet", () => sheet(15.2))
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const room = () =>
  showAt(
    "/mix",
    <Routes>
      <Route path="/mix" element={<PourSheet pieces={[aPiece({ code: "WB-01", name: "Brow" })]} piece="WB-01" />} />
      <Route path="/mix/:code" element={<b>the bench</b>} />
    </Routes>,
  );
const orders = () => server.posted("/api/mixes/sheet") as Schemas["MixOrder"][];

describe("the pour sheet", () => {
  it("begins with what the section takes over all its cuts", async () => {
    room();
    await screen.findByText("15.2 g", { exact: false });
    expect((screen.getByLabelText("Area") as HTMLInputElement).value).toBe("34.0 cm²");
    expect(orders().at(-1)?.amount.area).toEqual({ area_cm2: 34, mean_mm: 1.8 });
  });

  it("takes the amount that is believed, the section's silicone, and the copies that are missing", async () => {
    server
      .get("/api/pieces/{code}/amounts", {
        voices: [{ name: "water", volume_ml: 42.3, sd_ml: 0.8 }],
        believed: "water",
        disagree: [],
        volume_ml: 42.3,
        areas: { areas: [], disagree: [], cm2: 34 },
      } as never)
      .get("/api/pieces/{code}/section", { ...section, doc: { layers: [{ kind: "silicone", material: "silicone-firm" }] } } as never);
    room();
    await waitFor(() => expect(orders().at(-1)?.amount.scan).toEqual({ volume_ml: 42.3 }));
    await waitFor(() => expect(orders().at(-1)).toMatchObject({ material: "silicone-firm", amount: { copies: 3 } }));
    expect(screen.getByText(/The section says nothing of softener and colour/)).toBeTruthy();
    expect(screen.getByText("How much it takes: 42.3 ml on 34.0 cm²")).toBeTruthy();
  });

  it("takes what the section says is stirred in", async () => {
    const stirred = {
      kind: "silicone",
      material: "silicone-gel",
      with: [
        { material: "softener", percent: 40 },
        { material: "pigment-red", percent: 0.5 },
      ],
    };
    server.get("/api/pieces/{code}/section", { ...section, doc: { layers: [stirred] } } as never);
    room();
    await waitFor(() =>
      expect(orders().at(-1)?.additions).toEqual([
        { material: "softener", percent: 40, of: "parts" },
        { material: "pigment-red", percent: 0.5 },
      ]),
    );
    expect(screen.queryByText(/The section says nothing of softener and colour/)).toBeNull();
  });

  it("does not write a sheet that the shelf is short of, and says of what", async () => {
    server.post("/api/mixes/sheet", () => sheet(15.2, "3 g of softener are missing."));
    room();
    await screen.findByText("3 g of softener are missing.");
    expect((screen.getByText("Write the sheet").closest("button") as HTMLButtonElement).disabled).toBe(true);
  });

  it("says the server's no and keeps what was typed", async () => {
    room();
    await screen.findByText("15.2 g", { exact: false });
    server.post("/api/mixes/sheet", () => new No(422, "out_of_range", "copies", "Pour at least one copy."));
    fireEvent.change(screen.getByLabelText("Copies"), { target: { value: "0" } });
    await screen.findByText("Pour at least one copy.");
    expect((screen.getByLabelText("Area") as HTMLInputElement).value).toBe("34.0 cm²");
  });

  it("writes the sheet and goes to the bench", async () => {
    server.post("/api/mixes", () => ({ code: "X-0042" }) as never);
    room();
    fireEvent.click(await screen.findByText("Write the sheet"));
    await screen.findByText("the bench");
  });
});
