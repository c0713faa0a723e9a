// @vitest-environment node
import { describe, expect, it } from "vitest";
import { decode, differenceBands, draftBands, greatest, looks, nearer, sharesOf, thicknessBands, turned, valueIn } from "./surface";

/** A triangle with one layer, written as the server writes it. */
function picture(layer: number[]): ArrayBuffer {
  const raw = new ArrayBuffer(16 + 4 * (9 + 3 + 3));
  const view = new DataView(raw);
  "YWM1".split("").forEach((c, i) => {
    view.setUint8(i, c.charCodeAt(0));
  });
  [3, 1, 1].forEach((n, i) => {
    view.setUint32(4 + 4 * i, n, true);
  });
  [0, 0, 0, 10, 0, 0, 0, 10, 0].forEach((x, i) => {
    view.setFloat32(16 + 4 * i, x, true);
  });
  [0, 1, 2].forEach((x, i) => {
    view.setUint32(52 + 4 * i, x, true);
  });
  layer.forEach((x, i) => {
    view.setFloat32(64 + 4 * i, x, true);
  });
  return raw;
}

describe("a picture of a surface", () => {
  it("is read as it was written", () => {
    const s = decode(picture([1, 2, Number.NaN]));
    expect([...s.faces]).toEqual([0, 1, 2]);
    expect(s.places[3]).toBe(10);
    expect(s.layers[0][1]).toBe(2);
    expect(Number.isNaN(s.layers[0][2])).toBe(true);
    expect(greatest(s.layers[0])).toBe(2);
  });
  it("refuses what is cut off or something else", () => {
    expect(() => decode(picture([1, 2, 3]).slice(0, 70))).toThrow("no picture");
    expect(() => decode(new ArrayBuffer(64))).toThrow("no picture");
    expect(() => decode(new ArrayBuffer(4))).toThrow("no picture");
  });
  it("gives the figure inside a face", () => {
    const s = decode(picture([0, 10, 20]));
    const shares = sharesOf([2.5, 2.5, 0], [0, 0, 0], [10, 0, 0], [0, 10, 0]);
    expect(shares[0]).toBeCloseTo(0.5);
    expect(valueIn(s.layers[0], [0, 1, 2], shares)).toBeCloseTo(7.5);
    expect(valueIn(decode(picture([0, 10, Number.NaN])).layers[0], [0, 1, 2], shares)).toBeUndefined();
    expect(sharesOf([1, 1, 1], [0, 0, 0], [0, 0, 0], [0, 0, 0])).toEqual([1, 0, 0]);
  });
});

describe("bands", () => {
  it("rise and end open", () => {
    for (const bands of [
      thicknessBands(0.15, 0.5, 9),
      thicknessBands(0.15, 0.8, 0.81),
      thicknessBands(0.15, 0.8, 1.1),
      draftBands,
      differenceBands(2),
    ]) {
      for (let i = 1; i < bands.length; i++) expect(bands[i].to).toBeGreaterThan(bands[i - 1].to);
      expect(bands.at(-1)?.to).toBe(Number.POSITIVE_INFINITY);
      expect(bands.length).toBeLessThanOrEqual(12);
      expect(new Set(bands.map((b) => b.words)).size).toBe(bands.length);
    }
  });
  it("keep a difference of nothing apart from one", () => {
    const b = differenceBands(0);
    expect(b[3].words).toBe("alike");
    expect(b[3].to).toBeGreaterThan(0);
  });
});

describe("turning", () => {
  it("goes round and stops at the poles", () => {
    expect(turned(looks.Front, 190, 0).round).toBe(-170);
    expect(turned(looks.Front, -190, 0).round).toBe(170);
    expect(turned(looks.Top, 0, 40).up).toBe(88);
    expect(nearer(looks.Front, 100).near).toBe(12);
    expect(nearer(looks.Front, 0.001).near).toBe(0.4);
  });
});
