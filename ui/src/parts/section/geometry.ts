import type { Schemas } from "../../app/api";

export type Section = Schemas["CraftSectionSection"];
export type Layer = Schemas["CraftSectionLayer"];

/** Where the drawing stands in its viewBox. */
export const VIEW = { width: 900, height: 560, centreX: 278, edgeX: 758, endX: 896, skinTop: 492, skinDeep: 52 };

/** Films are thinner than a pencil line: exaggerated, they get at least this. */
const FILM_PX = 5;

export interface Band {
  id: string;
  kind: string;
  path: string;
  /** Middle of the band at the centre of the piece. */
  midY: number;
  topY: number;
  bottomY: number;
  /** Top of the band at the edge, for its handle. */
  edgeY: number;
  /** Upper outline, to set knots on. */
  top: (x: number) => number;
}

export interface Scale {
  /** Pixels for a millimetre of height. */
  pxPerMM: number;
  /** Exaggeration against the width. */
  times: number;
}

export function scaleOf(doc: Section, thickness: (id: string) => { centre: number; edge: number }, trueScale: boolean): Scale {
  const across = (VIEW.edgeX - VIEW.centreX) / doc.half_width_mm;
  if (trueScale) return { pxPerMM: across, times: 1 };
  const tallest = doc.layers.reduce((sum, l) => sum + (l.kind === "silicone" || l.kind === "latex" ? thickness(l.id).centre : 0), 0);
  const pxPerMM = Math.min(320 / Math.max(tallest, 0.5), 160);
  return { pxPerMM, times: pxPerMM / across };
}

/** 1 at the centre, 0 at the edge, without a step at either end. */
const profile = (u: number) => 1 - u * u * (3 - 2 * u);

/** Height of a layer in px at a distance from the centre in mm. */
export function heightAt(l: Layer, t: { centre: number; edge: number }, x: number, doc: Section, scale: Scale, trueScale: boolean): number {
  if (l.kind === "skin") return 0;
  const stop = l.stop_mm ?? 0;
  const end = l.extent === "centre_only" ? stop : l.extent === "past_edge" ? doc.half_width_mm + stop : doc.half_width_mm;
  if (x > end + 1e-9) return 0;
  let mm: number;
  if (l.kind === "silicone") {
    const span = l.extent === "centre_only" ? Math.max(stop, 1e-9) : doc.half_width_mm;
    mm = t.edge + (t.centre - t.edge) * profile(Math.min(1, x / span));
  } else {
    mm = t.centre;
  }
  const px = mm * scale.pxPerMM;
  if (trueScale || l.kind === "silicone") return px;
  // The last stretch of a film thins out to nothing, as a brush leaves it.
  const fade = l.extent === "to_edge" || !l.extent ? 1 : Math.min(1, (end - x) / Math.max(1, doc.half_width_mm * 0.06));
  return Math.max(px, FILM_PX) * Math.max(0.15, fade);
}

const STEPS = 120;

/** The skin is never flat. */
const wave = (px: number) => 5 * Math.sin((px - VIEW.centreX) / 78);

/** Lays the bands on each other, skin first. */
export function layBands(
  doc: Section,
  thickness: (id: string) => { centre: number; edge: number },
  trueScale: boolean,
): { bands: Band[]; scale: Scale } {
  const scale = scaleOf(doc, thickness, trueScale);
  const toMM = (px: number) => ((px - VIEW.centreX) / (VIEW.edgeX - VIEW.centreX)) * doc.half_width_mm;
  const xs = Array.from({ length: STEPS + 1 }, (_, i) => VIEW.centreX + ((VIEW.endX - VIEW.centreX) * i) / STEPS);
  let floor = xs.map((x) => VIEW.skinTop + wave(x));
  const bands: Band[] = [];
  for (const l of doc.layers) {
    if (l.kind === "skin") {
      const bottom = VIEW.skinTop + VIEW.skinDeep;
      bands.push(
        band(
          l,
          xs,
          floor,
          floor.map(() => bottom),
        ),
      );
      continue;
    }
    const t = thickness(l.id);
    const top = floor.map((y, i) => y - heightAt(l, t, Math.max(0, toMM(xs[i])), doc, scale, trueScale));
    bands.push(band(l, xs, top, floor));
    floor = top;
  }
  return { bands, scale };
}

function band(l: Layer, xs: number[], top: number[], bottom: number[]): Band {
  let last = xs.length - 1;
  while (last > 1 && bottom[last] - top[last] < 0.05 && bottom[last - 1] - top[last - 1] < 0.05) last--;
  const upper = xs.slice(0, last + 1).map((x, i) => `${x.toFixed(1)} ${top[i].toFixed(1)}`);
  const lower = xs
    .slice(0, last + 1)
    .map((x, i) => `${x.toFixed(1)} ${bottom[i].toFixed(1)}`)
    .reverse();
  const at = (x: number, ys: number[]) =>
    ys[Math.max(0, Math.min(ys.length - 1, Math.round(((x - VIEW.centreX) / (VIEW.endX - VIEW.centreX)) * STEPS)))];
  return {
    id: l.id,
    kind: l.kind,
    path: `M${upper.join("L")}L${lower.join("L")}Z`,
    midY: (top[0] + bottom[0]) / 2,
    topY: top[0],
    bottomY: bottom[0],
    edgeY: at(VIEW.edgeX, top),
    top: (x) => at(x, top),
  };
}

/** Spreads labels so that none covers another, near their bands. */
export function spreadLabels(wanted: number[], gap: number, lo: number, hi: number): number[] {
  const order = wanted.map((y, i) => [y, i] as const).sort((a, b) => a[0] - b[0]);
  const ys = order.map(([y]) => y);
  for (let i = 1; i < ys.length; i++) ys[i] = Math.max(ys[i], ys[i - 1] + gap);
  const over = (ys.at(-1) ?? 0) - hi;
  if (over > 0) {
    ys[ys.length - 1] = hi;
    for (let i = ys.length - 2; i >= 0; i--) ys[i] = Math.min(ys[i], ys[i + 1] - gap);
  }
  if (ys.length > 0 && ys[0] < lo) {
    // More labels than room: share it evenly.
    const step = (hi - lo) / Math.max(1, ys.length - 1);
    for (let i = 0; i < ys.length; i++) ys[i] = lo + i * step;
  }
  const out = new Array<number>(wanted.length);
  order.forEach(([, i], k) => {
    out[i] = ys[k];
  });
  return out;
}
