import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { system } from "../../app/theme";
import { LightDial } from "../../parts/relief/LightDial";
import { Turn } from "../../parts/Turn";
import { Dials } from "./Dials";
import { commonDials, familyDials, kinds, ladder, standsAt, turned } from "./kinds";
import { withShape } from "./Shapes";
import type { Doc, Step } from "./useTexture";
import { groups, wordsOf } from "./Work";

afterEach(cleanup);
const show = (what: React.ReactNode) => render(<ChakraProvider value={system}>{what}</ChakraProvider>);

function OwnTurn() {
  const [mm, setMM] = useState(3);
  return <Turn label="Last row" unit="mm" value={mm} min={0} max={30} step={0.1} set={setMM} />;
}

describe("dials", () => {
  it("stand where the texture says, or where it usually does", () => {
    for (const k of kinds)
      for (const d of [...k.dials, ...commonDials]) {
        expect(standsAt({ kind: k.name }, d), `${k.name} ${d.label}`).toBe(d.usual);
        expect(d.usual).toBeGreaterThanOrEqual(Math.min(d.min, 0));
        expect(d.usual).toBeLessThanOrEqual(d.max);
      }
    for (const d of familyDials) expect(typeof standsAt({}, d)).toBe("number");
  });

  it("set one number, one end of a pair, or both", () => {
    const [first, last] = kinds[0].dials;
    expect(turned({ size: [9, 3] }, first, 12)).toEqual({ size: [12, 3] });
    expect(turned({ size: [9, 3] }, last, 2)).toEqual({ size: [9, 2] });
    expect(turned({}, { ...first, at: "depth", of: "both" }, 0.4)).toEqual({ depth: [0.4, 0.4] });
    expect(turned({}, { ...first, at: "soften", of: undefined }, 0.2)).toEqual({ soften: 0.2 });
    // The smallest cannot be larger than the largest: the other end gives way.
    expect(turned({ diameter: [1, 2] }, { ...first, at: "diameter", of: 0 }, 3)).toEqual({ diameter: [3, 3] });
  });

  it("take a number that is typed, a comma too, and nothing else", () => {
    const set = vi.fn();
    show(<Turn label="Depth" unit="mm" value={0.5} min={0} max={2} step={0.1} set={set} />);
    const field = screen.getByLabelText("Depth, mm");
    fireEvent.change(field, { target: { value: "0,7" } });
    expect(set).toHaveBeenLastCalledWith(0.7);
    for (const wrong of ["", "deep", "9", "-1"]) {
      set.mockClear();
      fireEvent.change(field, { target: { value: wrong } });
      expect(set).not.toHaveBeenCalled();
      expect(field.getAttribute("aria-invalid")).toBe("true");
    }
    fireEvent.blur(field);
    expect(field).toHaveProperty("value", "0.5");
    fireEvent.keyDown(field, { key: "ArrowUp" });
    expect(set).toHaveBeenLastCalledWith(0.6);
  });

  it("leave a hand that is on its way from 2. to 2.5 alone, however fast the value follows", () => {
    show(<OwnTurn />);
    const field = screen.getByLabelText("Last row, mm") as HTMLInputElement;
    for (const key of ["2", ".", "5"]) fireEvent.change(field, { target: { value: key === "2" ? key : field.value + key } });
    expect(field.value).toBe("2.5");
    fireEvent.change(field, { target: { value: "2.50" } });
    expect(field.value).toBe("2.50");
    fireEvent.blur(field);
    expect(field.value).toBe("2.5");
  });

  it("slide and type the same thing", () => {
    const set = vi.fn();
    show(<Dials of={{ buff: 0.2 }} dials={[{ at: "buff", label: "Buffed by", unit: "mm", min: 0, max: 1, step: 0.05, usual: 0 }]} set={set} />);
    fireEvent.change(screen.getByLabelText("Buffed by, slide"), { target: { value: "0.4" } });
    expect(set).toHaveBeenLastCalledWith({ buff: 0.4 });
    fireEvent.change(screen.getByLabelText("Buffed by, mm"), { target: { value: "0.3" } });
    expect(set).toHaveBeenLastCalledWith({ buff: 0.3 });
  });
});

describe("a ladder of stamps", () => {
  it("falls in even ratios from the first width to the last", () => {
    const l = ladder(9, 3, 5);
    expect(l.map((s) => s.id)).toEqual(["S1", "S2", "S3", "S4", "S5"]);
    for (let i = 1; i < l.length; i++) expect(l[i].od).toBeLessThan(l[i - 1].od);
    // A round tube of the handbook's case: 8 mm squashed to 0.8 is 8.86 wide.
    const h = (0.2 / 1.8) ** 2;
    expect((2 * 8) / (1.8 * (1 + (3 * h) / (10 + Math.sqrt(4 - 3 * h))))).toBeCloseTo(8.8615, 4);
    expect(ladder(6, 3, 1)).toHaveLength(1);
  });
});

const step = (key: string, row: number, stamp: string, size: string): Step => ({
  key,
  row,
  stamp,
  action: "press",
  layer: 0,
  text: row ? `Row ${row}, ${size} mm through film` : key,
  count: 10,
  unit: "presses",
  hands_s: 60,
  plain_s: 50,
});

describe("the steps on the screen", () => {
  const steps = [
    step("form", 0, "", ""),
    ...[1, 2, 3, 4].map((r) => step(`r${r}`, r, r < 3 ? "S1" : "S2", r < 3 ? "9" : "7")),
    ...[5, 6, 7].map((r) => step(`r${r}`, r, "S3", "5")),
    step("leave", 0, "", ""),
  ];
  it("put rows that are done on one line, and those to come on one a stamp", () => {
    const done = new Map(["form", "r1", "r2", "r3"].map((k) => [k, true]));
    const g = groups(steps, done, "r4");
    expect(g.map((x) => x.map((s) => s.key).join())).toEqual(["form", "r1,r2,r3", "r4", "r5,r6,r7", "leave"]);
    expect(g.map(wordsOf)).toEqual([
      "form",
      "Rows 1–3, 9 mm to 7 mm through film",
      "Row 4, 7 mm through film",
      "Rows 5–7, 5 mm through film",
      "leave",
    ]);
  });
  it("lose none", () => {
    for (const here of steps) {
      const all = groups(steps, new Map(), here.key).flat();
      expect(all).toEqual(steps);
    }
  });
});

describe("what is drawn on the clay", () => {
  const doc: Doc = {
    seed: 1,
    region: { preset: "tile" },
    layers: [],
    guides: [
      [
        [0, 0],
        [5, 5],
      ],
    ],
    guide_names: ["flow"],
  };
  it("is added, or moved where it is", () => {
    expect(
      withShape(doc, {
        kind: "guide",
        points: [
          [1, 1],
          [2, 2],
        ],
      }),
    ).toMatchObject({
      guides: [
        [
          [0, 0],
          [5, 5],
        ],
        [
          [1, 1],
          [2, 2],
        ],
      ],
      guide_names: ["flow", "flow"],
    });
    expect(
      withShape(doc, {
        kind: "guide",
        index: 0,
        points: [
          [9, 9],
          [2, 2],
        ],
      }),
    ).toEqual({
      guides: [
        [
          [9, 9],
          [2, 2],
        ],
      ],
    });
    expect(withShape(doc, { kind: "landmark", points: [[3, 4]] }).landmarks?.[0]).toMatchObject({ at: [3, 4], name: "place 1" });
    const square: [number, number][] = [
      [0, 0],
      [1, 0],
      [1, 1],
    ];
    expect(withShape(doc, { kind: "clear", points: square }).clear?.[0].polygon).toEqual(square);
    const area = withShape(doc, { kind: "area", points: square }).areas?.[0];
    expect(area).toMatchObject({ polygon: square, by: "relief" });
    expect(area?.id).toBeTruthy();
  });
});

describe("the lamp", () => {
  it("is turned by the arrow keys and says where it stands", () => {
    const turn = vi.fn();
    show(<LightDial light={{ azimuth: 350, altitude: 8 }} turn={turn} />);
    const lamp = screen.getByRole("slider", { name: "Light" });
    expect(lamp.getAttribute("aria-valuetext")).toContain("350 degrees");
    fireEvent.keyDown(lamp, { key: "ArrowRight" });
    expect(turn).toHaveBeenLastCalledWith({ azimuth: 0, altitude: 8 });
    fireEvent.keyDown(lamp, { key: "ArrowDown" });
    expect(turn).toHaveBeenLastCalledWith({ azimuth: 350, altitude: 6 });
  });
});
