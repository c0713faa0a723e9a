// @vitest-environment node
import { describe, expect, it } from "vitest";
import { heightAt, OUTSIDE, readRelief, section, shade } from "./relief";

/** What the server would send of a plane that rises to the right, one pixel beside the region. */
function sent(nx: number, ny: number, at: (i: number, j: number) => number) {
  const heights = new Int16Array(nx * ny);
  for (let j = 0; j < ny; j++) for (let i = 0; i < nx; i++) heights[j * nx + i] = at(i, j);
  const raw = new Uint8Array(heights.buffer);
  return { nx, ny, pitch_mm: 0.5, x0: 10, y0: 20, step_mm: 0.01, heights: btoa(String.fromCharCode(...raw)) };
}

describe("a relief on the screen", () => {
  const plane = readRelief(sent(8, 6, (i) => 10 * i));

  it("knows heights between pixels, and nothing beside the region", () => {
    // Pixel 3 stands at x = 10 + 3.5 × 0.5, with 0.3 mm; half a pixel on, 0.35.
    expect(heightAt(plane, [11.75, 21.25])).toBeCloseTo(0.3, 9);
    expect(heightAt(plane, [12, 21.25])).toBeCloseTo(0.35, 9);
    expect(heightAt(plane, [9, 21])).toBeUndefined();
    const holed = readRelief(sent(4, 4, (i, j) => (i === 1 && j === 1 ? OUTSIDE : 0)));
    expect(heightAt(holed, [10.75, 20.75])).toBeUndefined();
  });

  it("knows its slopes", () => {
    // 0.1 mm in half a mm.
    expect(plane.gx[3 * 8 + 4]).toBeCloseTo(0.2, 6);
    expect(plane.gy[3 * 8 + 4]).toBeCloseTo(0, 6);
    expect(plane.gx[0]).toBeCloseTo(0.2, 6);
  });

  it("is lighter where it faces the lamp, and clear beside the region", () => {
    const lit = (azimuth: number) => {
      const out = new Uint8ClampedArray(8 * 6 * 4);
      shade(plane, { azimuth, altitude: 30 }, out);
      return out[(2 * 8 + 4) * 4];
    };
    expect(lit(270)).toBeGreaterThan(lit(90));
    const holed = readRelief(sent(2, 2, (i, j) => (i === 0 && j === 1 ? OUTSIDE : 0)));
    const out = new Uint8ClampedArray(16);
    shade(holed, { azimuth: 315, altitude: 45 }, out);
    // The top row of the picture is the highest of the relief.
    expect([out[3], out[7], out[11], out[15]]).toEqual([0, 255, 255, 255]);
  });

  it("shows paint in its own colours", () => {
    const painted = readRelief({ ...sent(1, 1, () => 0), colours: btoa(String.fromCharCode(200, 100, 50)) });
    const out = new Uint8ClampedArray(4);
    shade(painted, { azimuth: 0, altitude: 90 }, out);
    expect([...out]).toEqual([200, 100, 50, 255]);
  });

  it("is cut along a line", () => {
    const cut = section(plane, [10.5, 21], [13, 21], 6);
    expect(cut.filter((h) => h === undefined)).toHaveLength(0);
    expect((cut[5] ?? 0) - (cut[0] ?? 0)).toBeCloseTo(0.5, 6);
    expect(section(plane, [0, 0], [1, 1], 4)).toEqual([undefined, undefined, undefined, undefined]);
  });
});
