import { cleanup, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer } from "../../fakeServer";
import { aDay, showAt } from "../../testing";
import Plan from "./Plan";

let days: Schemas["PlanDay"][];

beforeEach(() => {
  days = [];
  new FakeServer().get("/api/plan", () => days).install();
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
      at_risk: true,
    };
    days = [aDay({ id: 1, needs: [need], kits: 1, received: 0, at_risk: true }), aDay({ id: 2, day: "2026-01-23" })];
    showAt("/plan", <Plan />);
    await screen.findByText("2 shooting days ahead");
    screen.getByText("two to make");
    screen.getByText(/1\/3/);
    screen.getByText("1 kit, 0 received");
    screen.getByText("nothing is worn");
    screen.getByText("no kit yet");
  });

  it("says how a day gets here when there is none", async () => {
    showAt("/plan", <Plan />);
    await screen.findByText(/No shooting day is known yet/);
  });
});
