// @vitest-environment node
import { describe, expect, it } from "vitest";
import { differences } from "./differences";
import type { Doc } from "./useBrief";

const blank: Doc = {
  asked: "as if grown",
  decided: "",
  camera: "close",
  camera_m: 0,
  backdrop: "plain",
  wear_hours: 5,
  exertion: "acting",
  speech: "speaks",
  water: "none",
  stunt: false,
  way_out: {},
  area_cm2: 34,
  worn: "",
  keep_free: ["mouth", "nose"],
  marks: [],
  wishes: [],
  exaggeration: [],
  features: [],
  questions: [],
  steps: [],
  budget: [],
  limit_minor: 0,
};

describe("what two briefs say differently", () => {
  it("is nothing when they say the same, in whatever order", () => {
    expect(differences(blank, { ...blank, keep_free: ["nose", "mouth"] })).toEqual([]);
  });

  it("names what was changed, came and went", () => {
    const wish = { id: "w", text: "bigger", by: "the director", times: 2, constraint: "", decision: "", decided_by: "", state: "open" as const };
    const before = { ...blank, wishes: [wish], features: [{ id: "f", text: "ear rim", region: "", picture: 0 }] };
    const after = { ...blank, stunt: true, way_out: { closure: "zip", minutes: 1 }, wishes: [{ ...wish, state: "declined" as const }] };
    expect(differences(before, after)).toEqual([
      { what: "stunt", before: "", after: "yes" },
      { what: "way out", before: "", after: "zip, 1" },
      { what: "wish", before: "bigger: open", after: "bigger: declined" },
      { what: "feature", before: "ear rim", after: "" },
    ]);
  });

  it("sees a point that moved on the map", () => {
    const mark = { id: "m", kind: "region" as const, sheet: "head" as const, points: [{ u: 1, v: 2 }], text: "cheek" };
    const [d] = differences({ ...blank, marks: [mark] }, { ...blank, marks: [{ ...mark, points: [{ u: 9, v: 2 }] }] });
    expect(d.what).toBe("on the map");
    expect(d.before).not.toBe(d.after);
  });
});
