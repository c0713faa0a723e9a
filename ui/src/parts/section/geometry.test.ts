// @vitest-environment node
import { describe, expect, it } from "vitest";
import { cutsOf, type Heights, heightAt, layBands, natureOf, type Section, spreadLabels, VIEW, withCut } from "./geometry";

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
const mm: Record<string, Heights> = {
  skin: { centre: 0, edge: 0, coat: 0 },
  glue: { centre: 0.08, edge: 0.08, coat: 0.04 },
  body: { centre: 6, edge: 0, coat: 0 },
  colour: { centre: 0.03, edge: 0.03, coat: 0.006 },
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

  it("draws a measured body as it was measured, and keeps what stands on it on the sheet", () => {
    const body = { ...doc.layers[2], centre_mm: 4, edge_mm: 0.5, measured: { scan: 1, name: "cheek.stl", profile_mm: [4, 6, 3, 2, 0.5] } };
    const moss = { id: "moss", kind: "insert" as const, material: "moss", count: 3, each_g: 0.1, centre_mm: 9 };
    const cut = { ...doc, layers: [doc.layers[0], body, moss] };
    const { scale, bands } = layBands(cut, (id) => (id === "body" ? { centre: 4, edge: 0.5, coat: 0 } : mm.skin), false);
    const at = (x: number) => heightAt(body, mm.body, x, cut, scale, false) / scale.pxPerMM;
    expect([0, 12, 18, 48].map(at)).toEqual([4, 6, 4.5, 0.5].map((v) => expect.closeTo(v, 9)));
    for (const b of bands) expect(b.topY).toBeGreaterThan(20);
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

describe("what lies unevenly", () => {
  const zones = [
    { name: "bridge", to_mm: 16 },
    { name: "rim", to_mm: 48 },
  ];
  const t: Heights = { centre: 0.6, edge: 0.2, coat: 0.2 };
  const scale = { pxPerMM: 100, times: 10 };

  it("steps down where a zone has fewer coats", () => {
    const l = { id: "l", kind: "latex", material: "latex-slush", coats: 3, coat_mm: 0.3, zone_coats: [3, 1] };
    const cut = { ...doc, zones };
    expect(heightAt(l, t, 10, cut, scale, false)).toBeCloseTo(60, 6);
    expect(heightAt(l, t, 30, cut, scale, false)).toBeCloseTo(20, 6);
  });

  it("leaves out what is not there", () => {
    const l = { id: "l", kind: "latex", material: "latex-slush", coats: 3, coat_mm: 0.3, from_mm: 20 };
    expect(heightAt(l, t, 10, doc, scale, false)).toBe(0);
    expect(heightAt(l, t, 30, doc, scale, false)).toBeGreaterThan(0);
    const { bands } = layBands({ ...doc, layers: [...doc.layers, l] }, (id) => mm[id] ?? t, false);
    expect(bands.at(-1)?.startX).toBeGreaterThan(VIEW.centreX);
  });

  it("tells things, hair, bodies and films apart", () => {
    expect(natureOf({ id: "a", kind: "insert", count: 2, each_g: 6 })).toBe("things");
    expect(natureOf({ id: "a", kind: "hair", hairs_cm2: 30, length_mm: 20 })).toBe("hair");
    expect(natureOf(doc.layers[2])).toBe("body");
    expect(natureOf(doc.layers[1])).toBe("film");
  });
});

describe("several cuts", () => {
  const second = { id: "brow", name: "brow", half_width_mm: 20, area_cm2: 12, layers: [{ id: "s2", kind: "skin" }] };
  it("are changed one at a time", () => {
    const both: Section = { ...doc, more: [second] };
    expect(cutsOf(both).map((c) => c.half_width_mm)).toEqual([48, 20]);
    expect(withCut(both, 1, { area_cm2: 9 }).more?.[0].area_cm2).toBe(9);
    expect(withCut(both, 1, { area_cm2: 9 }).area_cm2).toBe(34);
    expect(withCut(both, 0, { area_cm2: 9 }).more?.[0].area_cm2).toBe(12);
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
