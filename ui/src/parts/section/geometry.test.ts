import { describe, expect, it } from "vitest";
import { heightAt, layBands, type Section, spreadLabels, VIEW } from "./geometry";

const doc: Section = {
  half_width_mm: 48,
  area_cm2: 34,
  layers: [
    { id: "skin", kind: "skin" },
    { id: "glue", kind: "adhesive", material: "adhesive-acrylic", coats: 2, coat_mm: 0.04 },
    { id: "body", kind: "silicone", material: "silicone-gel", centre_mm: 6, edge_mm: 0 },
    { id: "colour", kind: "paint", material: "paint-alcohol", coats: 5, coat_mm: 0.006, extent: "past_edge", stop_mm: 12 },
  ],
};
const mm: Record<string, { centre: number; edge: number }> = {
  skin: { centre: 0, edge: 0 },
  glue: { centre: 0.08, edge: 0.08 },
  body: { centre: 6, edge: 0 },
  colour: { centre: 0.03, edge: 0.03 },
};
const thickness = (id: string) => mm[id];

describe("the drawn section", () => {
  it("draws a body to the ruler and tapers it to its edge", () => {
    const { bands, scale } = layBands(doc, thickness, false);
    const body = bands[2];
    expect(body.bottomY - body.topY).toBeCloseTo(6 * scale.pxPerMM, 6);
    expect(heightAt(doc.layers[2], mm.body, 48, doc, scale, false)).toBeCloseTo(0, 9);
    expect(heightAt(doc.layers[2], mm.body, 24, doc, scale, false)).toBeCloseTo(3 * scale.pxPerMM, 6);
  });

  it("lays every band on the one below, without gaps", () => {
    const { bands } = layBands(doc, thickness, false);
    for (let i = 2; i < bands.length; i++) expect(bands[i].bottomY).toBeCloseTo(bands[i - 1].topY, 9);
  });

  it("draws films thick enough to see, but true to scale when asked", () => {
    const seen = layBands(doc, thickness, false);
    expect(seen.bands[1].bottomY - seen.bands[1].topY).toBeGreaterThanOrEqual(5);
    const exact = layBands(doc, thickness, true);
    expect(exact.scale.times).toBe(1);
    expect(exact.bands[1].bottomY - exact.bands[1].topY).toBeCloseTo(0.08 * exact.scale.pxPerMM, 6);
  });

  it("ends a layer at the edge or carries it on to the skin", () => {
    const scale = layBands(doc, thickness, false).scale;
    expect(heightAt(doc.layers[1], mm.glue, 49, doc, scale, false)).toBe(0);
    expect(heightAt(doc.layers[3], mm.colour, 55, doc, scale, false)).toBeGreaterThan(0);
    expect(heightAt(doc.layers[3], mm.colour, 61, doc, scale, false)).toBe(0);
  });

  it("keeps everything inside the sheet", () => {
    for (const b of layBands(doc, thickness, false).bands) expect(b.topY).toBeGreaterThan(20);
    expect(VIEW.skinTop + VIEW.skinDeep).toBeLessThan(VIEW.height);
  });
});

describe("labels", () => {
  it("never cover each other", () => {
    const ys = spreadLabels([300, 302, 304, 480, 481], 38, 20, 540);
    const sorted = [...ys].sort((a, b) => a - b);
    for (let i = 1; i < sorted.length; i++) expect(sorted[i] - sorted[i - 1]).toBeGreaterThanOrEqual(38 - 1e-9);
  });
  it("keep the order of their bands", () => {
    const ys = spreadLabels([500, 300, 400], 38, 20, 540);
    expect(ys[1]).toBeLessThan(ys[2]);
    expect(ys[2]).toBeLessThan(ys[0]);
  });
  it("share the room when there is too little", () => {
    const ys = spreadLabels(Array(20).fill(300), 38, 20, 540);
    expect(Math.min(...ys)).toBe(20);
    expect(Math.max(...ys)).toBe(540);
  });
});
