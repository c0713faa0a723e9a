// @vitest-environment node
import { describe, expect, it } from "vitest";
import { curve, mirrored, type Net, otherSheet, type Point, Sight } from "./form";

// A cylinder of 100 mm radius and 200 mm height as a net: what is seen of it
// is known.
function cylinder(columns = 81, rows = 41): Net {
  const net: number[] = [];
  for (let j = 0; j < rows; j++) {
    for (let i = 0; i < columns; i++) {
      const az = Math.PI * (-1 + (2 * i) / (columns - 1));
      net.push(Math.round(1000 * Math.sin(az)), Math.round(1000 - (2000 * j) / (rows - 1)), Math.round(1000 * Math.cos(az)));
    }
  }
  return {
    name: "belly",
    stamp: "x",
    columns,
    rows,
    u0: -100,
    u1: 100,
    v0: 0,
    v1: 100,
    wraps: true,
    net,
    keep_out: [],
    openings: [],
    landmarks: {},
    regions: [],
    yaws: [0],
    pitches: [0],
  };
}

const numbers = (d: string) => [...d.matchAll(/[ML](-?[\d.]+) (-?[\d.]+)/g)].map((m) => [Number(m[1]), Number(m[2])]);

describe("a sheet seen from one side", () => {
  const front = new Sight(cylinder(), 0, 0);

  it("stands the wearer's left on the right of the picture", () => {
    const [x, y, near] = front.see({ u: 25, v: 50 });
    expect(x).toBeCloseTo(70.7, 0);
    expect(y).toBeCloseTo(0, 1);
    expect(near).toBeCloseTo(70.7, 0);
  });

  it("turns: from the wearer's left, the front is on the left", () => {
    const left = new Sight(cylinder(), 90, 0);
    expect(left.see({ u: 0, v: 50 })[0]).toBeCloseTo(-100, 1);
    expect(left.isSeen({ u: 50, v: 50 })).toBe(true);
    expect(left.isSeen({ u: -50, v: 50 })).toBe(false);
  });

  it("sees half of it, also across the seam at the back", () => {
    expect(front.isSeen({ u: 45, v: 50 })).toBe(true);
    expect(front.isSeen({ u: 60, v: 50 })).toBe(false);
    const back = new Sight(cylinder(), 180, 0);
    expect(back.isSeen({ u: 95, v: 50 })).toBe(true);
    expect(back.isSeen({ u: 105, v: 50 })).toBe(true);
    expect(back.isSeen({ u: 0, v: 50 })).toBe(false);
  });

  it("finds the place under the finger, wherever it is", () => {
    for (const u of [-40, -13, 0, 22, 41]) {
      for (const v of [5, 37, 80]) {
        const [x, y] = front.see({ u, v });
        const found = front.pick(x, y);
        expect(found?.u).toBeCloseTo(u, 0);
        expect(found?.v).toBeCloseTo(v, 0);
      }
    }
    expect(front.pick(140, 0)).toBeUndefined();
  });

  it("moves a place by mm of the picture, and not off the form", () => {
    const moved = front.moved({ u: 0, v: 50 }, 10, -20);
    const [x, y] = front.see(moved);
    expect(x).toBeCloseTo(10, 0);
    expect(y).toBeCloseTo(-20, 0);
    const start = { u: 0, v: 50 };
    expect(front.moved(start, 500, 0)).toBe(start);
  });

  it("holds what turns away at the rim, and draws nothing of what it cannot see", () => {
    const round: Point[] = [
      { u: 10, v: 30 },
      { u: 80, v: 30 },
      { u: 80, v: 70 },
      { u: 10, v: 70 },
    ];
    const line = numbers(front.path(round, true));
    expect(Math.max(...line.map((p) => p[0]))).toBeGreaterThan(97);
    expect(Math.max(...line.map((p) => p[0]))).toBeLessThan(101);
    expect(
      front.path(
        round.map((p) => ({ u: p.u + 100, v: p.v })),
        true,
      ),
    ).not.toBe("");
    expect(
      front.path(
        [
          { u: 80, v: 40 },
          { u: 110, v: 40 },
          { u: 95, v: 60 },
        ],
        true,
      ),
    ).toBe("");
  });
});

describe("lines through drawn points", () => {
  const square: Point[] = [
    { u: 0, v: 0 },
    { u: 10, v: 0 },
    { u: 10, v: 10 },
    { u: 0, v: 10 },
  ];

  it("pass through every point, and go round when they are closed", () => {
    const c = curve(square, true);
    expect(c).toHaveLength(48);
    for (const p of square) expect(c).toContainEqual(p);
    const open = curve(square, false);
    expect(open.at(-1)).toEqual(square[3]);
  });

  it("leave too few points as they are", () => {
    expect(curve(square.slice(0, 2), true)).toEqual(square.slice(0, 2));
    expect(curve([], false)).toEqual([]);
  });

  it("mirror with a chosen difference", () => {
    expect(mirrored(square, 0)).toEqual(square.map((p) => ({ u: 0 - p.u, v: p.v })));
    const unlike = mirrored(square, 0.1);
    expect(unlike).not.toEqual(mirrored(square, 0));
    expect(unlike[0]).toEqual({ u: -5 + 5 * 1.1, v: 5 - 5 * 1.1 });
    expect(otherSheet("palm_L")).toBe("palm_R");
    expect(otherSheet("hand_back_R")).toBe("hand_back_L");
    expect(otherSheet("head")).toBe("head");
  });
});
