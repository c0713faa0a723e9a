import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aMaterial, aPiece, around, freshClient, showAt } from "../../testing";
import { PourSheet } from "./PourSheet";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

const sheet = (total: number, short?: string): Schemas["MixSheet"] =>
  ({
    name: "By its sheet",
    makes: "silicone-gel",
    number: 0,
    total_g: total,
    short,
    lines: [],
    steps: [],
    recipe: { clock: "cure" },
    follows: {
      touch: "off_skin",
      touch_why: "",
      cautions: ["Gloves: the safety data sheet decides."],
      confirm: [],
      exposes: [],
      allergens: [],
      near: [],
    },
    mixes: { mixes: 1, sizes: [2], limit: "none" },
    amount: { pours: 2, per_copy_g: 6.5, volume: { mean_ml: 6.1, sd_ml: 0.6 } },
    working: { left_s: 1500, temp_c: 21 },
  }) as unknown as Schemas["MixSheet"];

const gel = (more: Partial<Schemas["MixWanted"]> = {}): Schemas["MixWanted"] => ({
  layer: "body",
  material: "silicone-gel",
  name: "Silicone gel",
  each_g: 6.5,
  with: [],
  body: true,
  runs: [],
  recipes: [{ slug: "sheet-silicone-gel", name: "By its sheet" }],
  ...more,
});

let server: FakeServer;

beforeEach(() => {
  server = new FakeServer()
    .get("/api/materials", [
      aMaterial({ slug: "silicone-gel", name: "Silicone gel", family: "silicone_addition", ratio: { a: 1, b: 1 }, cure: {} as never }),
    ])
    .get("/api/pieces/{code}/amounts", { voices: [], disagree: [], volume_ml: 0 } as never)
    .get("/api/pieces/{code}", { copies_wanted: 4, copies_good: 1 } as never)
    .get("/api/pieces/{code}/wanted", [gel()])
    .get("/api/recipes", [
      { slug: "sheet-silicone-gel", name: "By its sheet", group: "Two parts", makes: "silicone-gel" },
      { slug: "gelatin", name: "Gelatin base", group: "Gelatin", makes: "gelatin-animal" },
    ] as never)
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
  it("begins with what the section takes of its body", async () => {
    room();
    await screen.findByText("15.2 g", { exact: false });
    expect((screen.getByLabelText("Each copy") as HTMLInputElement).value).toBe("6.5 g");
    expect(orders().at(-1)).toMatchObject({ recipe: "sheet-silicone-gel", amount: { each: { grams: 6.5 }, copies: 3 } });
  });

  it("takes the amount that is believed and the copies that are missing", async () => {
    server.get("/api/pieces/{code}/amounts", {
      voices: [{ name: "water", volume_ml: 42.3, sd_ml: 0.8 }],
      believed: "water",
      disagree: [],
      volume_ml: 42.3,
      areas: { areas: [], disagree: [], cm2: 34 },
    } as never);
    room();
    await waitFor(() => expect(orders().at(-1)?.amount.scan).toEqual({ volume_ml: 42.3 }));
    await waitFor(() => expect(orders().at(-1)?.amount.copies).toBe(3));
    expect(screen.getByText("How much it takes: 42.3 ml on 34.0 cm²")).toBeTruthy();
  });

  it("takes what the section says is stirred in, each percentage with what it is of", async () => {
    server.get("/api/pieces/{code}/wanted", [
      gel({
        with: [
          { material: "softener", percent: 40 },
          { material: "pigment-red", percent: 0.5 },
        ],
      }),
    ]);
    room();
    await waitFor(() =>
      expect(orders().at(-1)?.additions).toEqual([
        { material: "softener", percent: 40, of: "parts" },
        { material: "pigment-red", percent: 0.5, of: "parts" },
      ]),
    );
  });

  it("keeps what somebody chose and typed when the piece is read anew", async () => {
    const client = freshClient();
    render(around(<PourSheet pieces={[aPiece({ code: "BF-03", name: "Cheek" })]} piece="BF-03" />, client, "/mix"));
    expect((await screen.findByLabelText("Each copy")) as HTMLInputElement).toHaveProperty("value", "6.5 g");
    fireEvent.change(screen.getByLabelText("Told by"), { target: { value: "mass" } });
    fireEvent.change(await screen.findByLabelText("Mass"), { target: { value: "200 g" } });
    fireEvent.change(screen.getByLabelText("Copies"), { target: { value: "5" } });
    server
      .get("/api/pieces/{code}/amounts", { voices: [], disagree: [], volume_ml: 17.7 } as never)
      .get("/api/pieces/{code}", { copies_wanted: 9, copies_good: 1 } as never);
    const before = server.asked.filter((a) => a.path === "/api/pieces/{code}/amounts").length;
    await client.invalidateQueries();
    await waitFor(() => expect(server.asked.filter((a) => a.path === "/api/pieces/{code}/amounts").length).toBeGreaterThan(before));
    await new Promise((done) => setTimeout(done, 60));
    expect((screen.getByLabelText("Mass") as HTMLInputElement).value).toBe("200 g");
    expect((screen.getByLabelText("Copies") as HTMLInputElement).value).toBe("5");
  });

  it("mixes any recipe for the shop, by its mass", async () => {
    room();
    await screen.findByText("15.2 g", { exact: false });
    fireEvent.change(screen.getByLabelText("For"), { target: { value: "" } });
    fireEvent.change(screen.getByLabelText("By"), { target: { value: "gelatin" } });
    await waitFor(() => expect(orders().at(-1)).toMatchObject({ recipe: "gelatin", amount: { mass: { grams: 300 } } }));
    expect(orders().at(-1)?.piece).toBeUndefined();
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
    expect((screen.getByLabelText("Each copy") as HTMLInputElement).value).toBe("6.5 g");
  });

  it("writes the sheet and goes to the bench", async () => {
    server.post("/api/mixes", () => ({ code: "X-0042" }) as never);
    room();
    fireEvent.click(await screen.findByText("Write the sheet"));
    await screen.findByText("the bench");
  });
});
