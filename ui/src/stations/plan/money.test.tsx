import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { showAt } from "../../testing";
import { amount, Money } from "./Money";

const row = (more: Partial<Schemas["CostRow"]>): Schemas["CostRow"] => ({
  piece: "BF-03",
  name: "Left cheek, hammered",
  family: "silicone",
  production: "The Tallow Court",
  number: 0,
  bar: "",
  price_minor: 110422,
  cost_minor: 86000,
  spent_minor: 20279,
  to_go_minor: 50000,
  limit_minor: 0,
  saved_minor: 0,
  ...more,
});

const offer = (more: Partial<Schemas["CostOffer"]>): Schemas["CostOffer"] => ({
  piece: "BF-03",
  name: "Left cheek, hammered",
  number: 0,
  by: "",
  bar: "",
  good: 2,
  casts: 3,
  currency: "£",
  lines: [
    { part: "material", text: "silicone gel, 120 g a copy", minor: 950 },
    { part: "material", text: "barrier film", minor: 50 },
    { part: "labour", text: "pour", minor: 12000 },
  ],
  overhead_minor: 2000,
  cost_minor: 15000,
  price_minor: 19231,
  each_minor: 9616,
  spares_minor: 5000,
  days: [{ day: "2026-01-23", place: "quayside", copies: 2, minor: 19231 }],
  assumptions: ["3 are begun, so that 2 are good in 91 of 100"],
  ...more,
});

let account: Schemas["CostAccount"];
let rows: Schemas["CostRow"][];
let terms: Schemas["CostTermsView"];
let kept: Schemas["CostTerms"][];
let server: FakeServer;

beforeEach(() => {
  kept = [];
  rows = [row({}), row({ piece: "FT-01", name: "Gills", family: "gelatin", bar: "its section is not agreed" })];
  terms = {
    currency: "£",
    rate_minor: 2800,
    overtime_factor: 1.5,
    overhead_pct: 18,
    margin_pct: 22,
    oven_minor: 180,
    rates: [{ person: "Maud Tarn", minor: 3800 }],
    people: ["Maud Tarn", "Pip Sallow"],
    default: true,
    by: "",
  };
  account = {
    offer: offer({}),
    currency: "£",
    begun: 4,
    made: 2,
    spent_minor: 20279,
    stuff_minor: 6200,
    to_go_minor: 5000,
    limit_minor: 6000,
    bought_minor: 4400,
    saved_minor: 7700,
    used: [{ material: "silicone-gel", name: "Silicone gel", supplier: "Harrow Rubber Works", grams: 480, minor: 1800 }],
    worked: [{ act: "pour", person: "Ivo Brack", minutes: 120, copies: 2, minor: 6000 }],
    variance: {
      actual: 20279,
      estimate: 18000,
      labour_rate: 400,
      labour_efficiency: 2600,
      material_price: -300,
      material_usage: 0.2,
      yield: -421,
      total: 2279,
    },
  };
  server = new FakeServer()
    .get("/api/me", { demo: false, devices: [], person: { id: 1, name: "Maud Tarn", login: "maud", role: "lead" } })
    .get("/api/cost", () => ({
      currency: "£",
      pieces: rows,
      productions: [{ name: "The Tallow Court", price_minor: 110422, spent_minor: 20279, to_go_minor: 50000, kits_minor: 65, saved_minor: 7700 }],
    }))
    .get("/api/cost/terms", () => terms)
    .put("/api/cost/terms", (body) => {
      if (body.margin_pct >= 100) return new No(422, "E_MARGIN", "margin_pct", "A margin is below 100 %.");
      kept.push(body);
      terms = { ...terms, ...body, default: false, by: "Maud Tarn", at: "2026-01-12T09:00:00Z" };
      return terms;
    })
    .get("/api/cost/pieces/{code}", (a) =>
      a.params.code === "FT-01" ? { ...account, offer: offer({ piece: "FT-01", bar: "its section is not agreed" }) } : account,
    )
    .post("/api/cost/pieces/{code}/offer", () => {
      account = { ...account, offer: offer({ number: 1, by: "Maud Tarn", at: "2026-01-12T09:10:00Z" }) };
      return account;
    });
  server.install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("the money", () => {
  it("is written as money is", () => {
    expect(amount("£", 1234567)).toBe("£12,345.67");
    expect(amount("£", -50)).toBe("−£0.50");
  });

  it("adds up a piece: its lines by kind, what falls on spares and days, what it rests on", async () => {
    showAt("/plan", <Money />);
    const a = within(await screen.findByTestId("account"));
    a.getByText(/BF-03: £192.31 for 2 copies/);
    a.getByText("£10.00"); // both materials
    a.getByText(/3 are begun; that not every one is good costs £50.00/);
    a.getByText(/quayside 23.01. £192.31/);
    a.getByText("3 are begun, so that 2 are good in 91 of 100");
    screen.getByText(/offered £1,104.22, spent £202.79, kits £0.65, to go £500.00, saved £77.00/);
  });

  it("says what was spent beside the limit, and why that differs, by cause", async () => {
    showAt("/plan", <Money />);
    const so = within(await screen.findByTestId("so-far"));
    so.getByText(/So far £202.79, £50.00 to go/);
    so.getByText("£62.00 of £60.00 for material");
    so.getByText(/Harrow Rubber Works/);
    so.getByText("2 h");
    so.getByText(/saved £77.00/);
    const why = within(screen.getByTestId("variance"));
    why.getByText("+£22.79 dearer");
    why.getByText("+£26.00");
    why.getByText("−£3.00");
    expect(why.queryByText("more material for each copy")).toBeNull(); // a fifth of a hundredth is nothing
  });

  it("keeps an offer, and then it can be printed", async () => {
    showAt("/plan", <Money />);
    await screen.findByTestId("account");
    expect(screen.queryByText("print it")).toBeNull();
    fireEvent.click(screen.getByText("Keep it as the offer"));
    await screen.findByText(/offer no. 1, kept/);
    expect(screen.getByText("print it").closest("a")?.getAttribute("href")).toBe("/api/cost/pieces/BF-03/offer.pdf");
    screen.getByText("Keep a new offer, worked out now");
  });

  it("says why a piece has no price", async () => {
    const { container } = showAt("/plan?piece=FT-01", <Money />);
    await screen.findByText("FT-01 has no price yet: its section is not agreed.");
    fireEvent.click(container.querySelector('[data-cost="BF-03"]') as HTMLElement);
    await screen.findByText(/BF-03: £192.31/);
  });

  it("changes only what was typed of the terms, and says at its field what cannot be", async () => {
    showAt("/plan", <Money />);
    const t = within(await screen.findByTestId("terms"));
    t.getByText(/the program's own figures/);
    const keep = () => t.getByText("Charge like this").closest("button") as HTMLButtonElement;
    expect(keep().disabled).toBe(true);
    fireEvent.change(t.getByLabelText("An hour"), { target: { value: "31,50" } });
    fireEvent.change(t.getByLabelText("An hour of Pip"), { target: { value: "16" } });
    fireEvent.change(t.getByLabelText("Margin %"), { target: { value: "120" } });
    fireEvent.click(keep());
    await screen.findByText("A margin is below 100 %.");
    expect((t.getByLabelText("An hour") as HTMLInputElement).value).toBe("31,50");
    fireEvent.change(t.getByLabelText("Margin %"), { target: { value: "abc" } });
    expect(keep().disabled).toBe(true);
    fireEvent.change(t.getByLabelText("Margin %"), { target: { value: "25" } });
    fireEvent.change(t.getByLabelText("An hour of Maud"), { target: { value: "" } });
    fireEvent.click(keep());
    await waitFor(() =>
      expect(kept).toEqual([
        {
          currency: "£",
          rate_minor: 3150,
          overtime_factor: 1.5,
          overhead_pct: 18,
          margin_pct: 25,
          oven_minor: 180,
          rates: [{ person: "Pip Sallow", minor: 1600 }],
        },
      ]),
    );
    await screen.findByText(/by Maud Tarn/);
  });

  it("teaches an empty shop", async () => {
    rows = [];
    showAt("/plan", <Money />);
    await screen.findByText(/No piece is in work/);
  });
});
