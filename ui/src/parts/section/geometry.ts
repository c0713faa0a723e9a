import type { Schemas } from "../../app/api";

export type Section = Schemas["CraftSectionSection"];
export type Layer = Schemas["CraftSectionLayer"];
/** One cross-section of a piece: its layers from skin to air. */
export type Cut = Schemas["CraftSectionCut"];

/** All cross-sections of a piece, the first one first. */
export const cutsOf = (doc: Section): Cut[] => [doc, ...(doc.more ?? [])];

/** The section with one of its cuts replaced. */
export function withCut(doc: Section, at: number, change: Partial<Cut>): Section {
  if (at === 0) return { ...doc, ...change };
  return { ...doc, more: (doc.more ?? []).map((c, i) => (i === at - 1 ? { ...c, ...change } : c)) };
}

/** Where the drawing stands in its viewBox. */
export const VIEW = { width: 900, height: 560, centreX: 278, edgeX: 758, endX: 896, skinTop: 492, skinDeep: 52 };

/** Films are thinner than a pencil line: exaggerated, they get at least this. */
const FILM_PX = 5;

export interface Band {
  id: string;
  kind: string;
  path: string;
  /** Where it begins. */
  startX: number;
  /** Middle of the band where it begins. */
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

/** What a layer is measured by: a body tapers, a film lies in coats, things stand up, hair stands on top. */
export type Nature = "skin" | "body" | "film" | "things" | "hair";

export function natureOf(l: Layer): Nature {
  if (l.kind === "skin") return "skin";
  if (l.count !== undefined) return "things";
  if (l.hairs_cm2 !== undefined) return "hair";
  return l.coats === undefined ? "body" : "film";
}

/** Heights of a layer in mm: at the centre, at the edge, and of one coat. */
export interface Heights {
  centre: number;
  edge: number;
  coat: number;
}
export type Thickness = (id: string) => Heights;

const tall = (l: Layer) => natureOf(l) === "body" || l.kind === "latex";

/** Coats at a distance from the centre. */
function coatsAt(l: Layer, x: number, cut: Cut): number {
  const zones = cut.zones ?? [];
  if (!l.zone_coats?.length || zones.length !== l.zone_coats.length) return l.coats ?? 1;
  const i = zones.findIndex((z) => x <= z.to_mm + 1e-9);
  return l.zone_coats[i < 0 ? zones.length - 1 : i];
}

/** Where a layer ends, from the centre, in mm. */
export function endOf(l: Layer, cut: Cut): number {
  if (l.extent === "centre_only") return l.stop_mm ?? 0;
  return l.extent === "past_edge" ? cut.half_width_mm + (l.stop_mm ?? 0) : cut.half_width_mm;
}

export function scaleOf(cut: Cut, thickness: Thickness, trueScale: boolean): Scale {
  const across = (VIEW.edgeX - VIEW.centreX) / cut.half_width_mm;
  if (trueScale) return { pxPerMM: across, times: 1 };
  // The body gets its room; things that stand on it must still be on the sheet.
  let body = 0;
  let things = 0;
  for (const l of cut.layers) {
    if (tall(l)) body += Math.max(thickness(l.id).centre, l.centre_mm ?? 0, ...(l.measured ?? l.shape ?? { profile_mm: [] }).profile_mm);
    else if (natureOf(l) === "things") things += l.centre_mm ?? 0;
  }
  const pxPerMM = Math.min(300 / Math.max(body, 0.5), 440 / Math.max(body + things, 0.5), 160);
  return { pxPerMM, times: pxPerMM / across };
}

/** 1 at the centre, 0 at the edge, without a step at either end. */
const profile = (u: number) => 1 - u * u * (3 - 2 * u);

/** How thick a body is at u, 0 the centre and 1 the edge, as bodies usually fall. */
export const bodyFall = (centre: number, edge: number, u: number) => edge + (centre - edge) * profile(u);

/** The thickness at u, 0 the centre and 1 the edge, of a course that was measured. */
function courseAt(mm: number[], u: number): number {
  const x = Math.min(1, Math.max(0, u)) * (mm.length - 1);
  const k = Math.min(Math.floor(x), mm.length - 2);
  return mm[k] + (mm[k + 1] - mm[k]) * (x - k);
}

/** The thickness at u of a drawn shape: cubic pieces through its places that swing over none of them, as the server has it. */
export function drawnAt(mm: number[], u: number): number {
  const last = mm.length - 1;
  const x = Math.min(1, Math.max(0, u)) * last;
  const k = Math.min(Math.floor(x), last - 1);
  const rise = (i: number) => mm[i + 1] - mm[i];
  const slope = (i: number) => {
    if (i === 0) return rise(0);
    if (i === last) return rise(last - 1);
    return rise(i - 1) * rise(i) <= 0 ? 0 : (2 * rise(i - 1) * rise(i)) / (rise(i - 1) + rise(i));
  };
  const t = x - k;
  const [a, b, sa, sb] = [mm[k], mm[k + 1], slope(k), slope(k + 1)];
  return a + t * (sa + t * (3 * (b - a) - 2 * sa - sb + t * (2 * (a - b) + sa + sb)));
}

/** Height of a layer in px at a distance from the centre in mm. */
export function heightAt(l: Layer, t: Heights, x: number, cut: Cut, scale: Scale, trueScale: boolean): number {
  const nature = natureOf(l);
  if (nature === "skin") return 0;
  const end = endOf(l, cut);
  if (x > end + 1e-9 || x < (l.from_mm ?? 0) - 1e-9) return 0;
  if (nature === "body") {
    const span = l.extent === "centre_only" ? Math.max(l.stop_mm ?? 0, 1e-9) : cut.half_width_mm;
    if (l.measured) return courseAt(l.measured.profile_mm, x / span) * scale.pxPerMM;
    if (l.shape) return drawnAt(l.shape.profile_mm, x / span) * scale.pxPerMM;
    return bodyFall(t.centre, t.edge, Math.min(1, x / span)) * scale.pxPerMM;
  }
  if (nature === "things") {
    // Each stands for itself: bumps as wide as they are high, side by side.
    const pitch = Math.max(3, (end - (l.from_mm ?? 0)) / Math.min(8, l.count ?? 1));
    const bump = Math.sin(Math.PI * (((x - (l.from_mm ?? 0)) / pitch) % 1) || 0);
    return Math.max((l.centre_mm ?? 0) * scale.pxPerMM * bump, trueScale ? 0 : 2);
  }
  // The last stretch of a film thins out to nothing, as a brush leaves it.
  const fade = l.extent === "to_edge" || !l.extent ? 1 : Math.min(1, (end - x) / Math.max(1, cut.half_width_mm * 0.06));
  if (nature === "hair") return trueScale ? 0.5 : 9 * Math.max(0.3, fade);
  const coats = coatsAt(l, x, cut);
  if (coats === 0) return 0;
  const px = t.coat * coats * scale.pxPerMM;
  return trueScale ? px : Math.max(px, FILM_PX) * Math.max(0.15, fade);
}

/** In how many steps a cut is drawn across: fewer where many bands lie on each other. */
const stepsFor = (bands: number) => (bands > 20 ? 60 : 120);

/** The skin is never flat. */
const wave = (px: number) => 5 * Math.sin((px - VIEW.centreX) / 78);

/** Lays the bands of a cut on each other, skin first; kept is a scale to hold on to while a hand drags. */
export function layBands(cut: Cut, thickness: Thickness, trueScale: boolean, kept?: Scale): { bands: Band[]; scale: Scale } {
  const scale = kept ?? scaleOf(cut, thickness, trueScale);
  const toMM = (px: number) => ((px - VIEW.centreX) / (VIEW.edgeX - VIEW.centreX)) * cut.half_width_mm;
  const steps = stepsFor(cut.layers.length);
  const xs = Array.from({ length: steps + 1 }, (_, i) => VIEW.centreX + ((VIEW.endX - VIEW.centreX) * i) / steps);
  let floor = xs.map((x) => VIEW.skinTop + wave(x));
  const bands: Band[] = [];
  for (const l of cut.layers) {
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
    const top = floor.map((y, i) => y - heightAt(l, t, Math.max(0, toMM(xs[i])), cut, scale, trueScale));
    bands.push(band(l, xs, top, floor));
    floor = top;
  }
  return { bands, scale };
}

const tenth = (x: number) => Math.round(x * 10) / 10;

function band(l: Layer, xs: number[], top: number[], bottom: number[]): Band {
  const empty = (i: number) => bottom[i] - top[i] < 0.05;
  let last = xs.length - 1;
  while (last > 1 && empty(last) && empty(last - 1)) last--;
  let first = 0;
  while (first < last - 1 && empty(first) && empty(first + 1)) first++;
  const upper: string[] = [];
  const lower: string[] = [];
  for (let i = first; i <= last; i++) {
    const k = first + last - i;
    upper.push(`${tenth(xs[i])} ${tenth(top[i])}`);
    lower.push(`${tenth(xs[k])} ${tenth(bottom[k])}`);
  }
  const at = (x: number, ys: number[]) =>
    ys[Math.max(0, Math.min(ys.length - 1, Math.round(((x - VIEW.centreX) / (VIEW.endX - VIEW.centreX)) * (ys.length - 1))))];
  return {
    id: l.id,
    kind: l.kind,
    path: `M${upper.join("L")}L${lower.join("L")}Z`,
    startX: xs[first],
    midY: (top[first] + bottom[first]) / 2,
    topY: top[first],
    bottomY: bottom[first],
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
