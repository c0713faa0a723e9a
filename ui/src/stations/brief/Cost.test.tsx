import { cleanup, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { FakeServer } from "../../fakeServer";
import { show } from "../../testing";
import { Cost } from "./Cost";
import type { BriefDraft } from "./useBrief";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

test("one sum of hours stands above its parts, and a part on which room and brief are apart says both", async () => {
  new FakeServer()
    .get("/api/pieces/{code}/hours", {
      parts: [
        {
          part: "copies",
          text: "Copies",
          where: "workshop",
          hours: 3.26,
          from: "room",
          brief_hours: 40,
          spent_hours: 0,
          note: "1.1 h each, 3 wanted",
          disagree: true,
        },
        { part: "brief", text: "a test on the skin", where: "chair", hours: 1, from: "brief", brief_hours: 1, spent_hours: 2, disagree: false },
      ],
      workshop_hours: 3.26,
      chair_hours: 1,
      total_hours: 4.26,
    })
    .install();
  const draft = {
    doc: { steps: [{ id: "a", text: "casts", where: "workshop", skill: "fabricator", hours: 40, part: "copies" }], budget: [], limit_minor: 0 },
    view: { actuals: [], wear: { hours: 2 } },
    change: vi.fn(),
  } as unknown as BriefDraft;
  show(<Cost code="BF-03" draft={draft} />);
  expect(await screen.findByText(/Hours: 4.3 h/)).toBeTruthy();
  expect(screen.getByText(/1.1 h each, 3 wanted; the brief says 40 h/)).toBeTruthy();
  expect(screen.getByText("2 h spent")).toBeTruthy();
});
