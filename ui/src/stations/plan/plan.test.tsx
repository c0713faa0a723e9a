import { cleanup, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer } from "../../fakeServer";
import { aDay, showAt } from "../../testing";
import Plan from "./Plan";

let days: Schemas["PlanDay"][];
let standing: Schemas["PlanStanding"][];

beforeEach(() => {
  days = [];
  standing = [];
  new FakeServer()
    .get("/api/plan", () => days)
    .get("/api/plan/standing", () => standing)
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("the run-up", () => {
  it("says what each day needs and what is behind", async () => {
    const need: Schemas["PlanNeed"] = {
      piece: "NM-01-L",
      family: "latex",
      name: "Salt-cracked hand",
      coming: 0,
      again: 0,
      missing: 2,
      good: 1,
      wanted: 3,
      words: "two to make",
    };
    days = [aDay({ id: 1, needs: [need], kits: 1, received: 0 }), aDay({ id: 2, day: "2026-01-23" })];
    showAt("/plan", <Plan />);
    await screen.findByText("2 shooting days ahead");
    screen.getByText("two to make");
    screen.getByText(/1\/3/);
    screen.getByText("1 kit, 0 received");
    screen.getByText("nothing is worn");
    screen.getByText("no kit yet");
  });

  it("says of each day how it stands by the plan, and not by how near it is", async () => {
    const need = (piece: string): Schemas["PlanNeed"] => ({
      piece,
      family: "latex",
      name: "",
      coming: 0,
      again: 0,
      missing: 2,
      good: 0,
      wanted: 2,
      words: "2 not begun",
    });
    days = [
      aDay({ id: 1, needs: [need("NM-01"), need("AL-03")] }),
      aDay({ id: 2, needs: [need("FT-01")] }),
      aDay({ id: 3, needs: [need("BF-01")] }),
      aDay({ id: 4 }),
    ];
    const at = (id: number, more: Partial<Schemas["PlanStanding"]>): Schemas["PlanStanding"] => ({
      id,
      late_min: 0,
      late: [],
      unplanned: [],
      beyond: false,
      ...more,
    });
    standing = [
      at(1, { late_min: 360, slack_min: -360, late: [{ piece: "AL-03", late_min: 360 }] }),
      at(2, { unplanned: [{ piece: "FT-01", day_id: 2, why: "its section is not agreed", link: "/piece/FT-01" }] }),
      at(3, { slack_min: 2880 }),
      at(4, { beyond: true }),
    ];
    const { container } = showAt("/plan", <Plan />);
    await screen.findAllByText("6 h late");
    const row = (id: number) => container.querySelector(`[data-day="${id}"]`)?.textContent ?? "";
    expect(row(1)).toMatch(/NM-01.*2 not begun/);
    expect(row(1)).toMatch(/AL-03.*6 h late/);
    expect(row(2)).toMatch(/not all planned.*not in the plan/);
    expect(row(3)).toMatch(/2 d in hand.*2 not begun/);
    expect(row(4)).toContain("not planned yet");
  });

  it("says how a day gets here when there is none", async () => {
    showAt("/plan", <Plan />);
    await screen.findByText(/No shooting day is known yet/);
  });
});
