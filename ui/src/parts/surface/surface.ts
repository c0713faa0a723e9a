/** Pictures of surfaces as the server sends them, and how their values are coloured. */

export interface Surface {
  /** x, y, z of each place, mm. */
  places: Float32Array;
  /** Three places of each face. */
  faces: Uint32Array;
  /** One number a place; NaN where nothing is known. */
  layers: Float32Array[];
}

export type Vec = [number, number, number];

/** Reads the server's picture of a surface; throws on anything else. */
export function decode(raw: ArrayBuffer): Surface {
  const view = new DataView(raw);
  const wrong = () => new Error("This is no picture of a surface.");
  if (raw.byteLength < 16 || view.getUint32(0, false) !== 0x59574d31) throw wrong();
  const [v, f, layers] = [4, 8, 12].map((at) => view.getUint32(at, true));
  if (raw.byteLength !== 16 + 4 * (3 * v + 3 * f + layers * v)) throw wrong();
  let at = 16;
  const take = (n: number) => {
    const from = at;
    at += 4 * n;
    return raw.slice(from, at);
  };
  // Typed arrays read little-endian words as they are on every machine we know.
  return {
    places: new Float32Array(take(3 * v)),
    faces: new Uint32Array(take(3 * f)),
    layers: Array.from({ length: layers }, () => new Float32Array(take(v))),
  };
}

/** What a layer's values mean. */
export type Scheme = "thickness" | "draft" | "sides" | "change" | "plain";

export interface Band {
  /** Values up to this are in the band. */
  to: number;
  colour: Vec;
  words: string;
}

const rgb = (hex: number): Vec => [((hex >> 16) & 255) / 255, ((hex >> 8) & 255) / 255, (hex & 255) / 255];
export const bare = rgb(0xd6cec0);
const heather = rgb(0x7a4680);
const gorse = rgb(0xdeac22);
const rust = rgb(0xa23521);
const mixed = (a: Vec, b: Vec, t: number): Vec => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];
const mm = (x: number) => (x >= 10 ? x.toFixed(0) : x >= 1 ? x.toFixed(1).replace(".0", "") : x.toFixed(2));

/**
 * Bands of a thickness, like the steps of a land map: bare core, thin, then
 * eight from light to dark.
 */
export function thicknessBands(eps: number, thin: number, most: number): Band[] {
  const out: Band[] = [
    { to: eps, colour: heather, words: "core" },
    { to: thin, colour: gorse, words: `thin <${mm(thin)}` },
  ];
  const light = rgb(0xe2e4ce);
  const dark = rgb(0x164a3a);
  const span = Math.max(0.1, most - thin);
  // A band narrower than a tenth of a millimetre says more than a scan can.
  const n = Math.min(8, Math.max(1, Math.floor(span / 0.1 + 1e-9)));
  for (let i = 0; i < n; i++) {
    const to = thin + (span * (i + 1)) / n;
    out.push({ to: i === n - 1 ? Number.POSITIVE_INFINITY : to, colour: mixed(light, dark, n > 1 ? i / (n - 1) : 1), words: `to ${mm(to)}` });
  }
  return out;
}

/** Bands of the draft angle, degrees: what locks, what is steep, what lets go. */
export const draftBands: Band[] = [
  { to: -45, colour: rust, words: "locks" },
  { to: 3, colour: gorse, words: "steep, under 3°" },
  { to: 15, colour: rgb(0xdfe3cf), words: "to 15°" },
  { to: 45, colour: rgb(0x9fb9a2), words: "to 45°" },
  { to: Number.POSITIVE_INFINITY, colour: rgb(0x3f7361), words: "lets go" },
];

/** Bands of a signed difference, mm: hollow, alike, proud. */
export function differenceBands(most: number): Band[] {
  const step = Math.max(0.2, most / 3);
  const low = rgb(0x4f6b86);
  const high = rgb(0x8b4a2c);
  const even = rgb(0xeee8da);
  return [
    { to: -2 * step, colour: low, words: `under −${mm(2 * step)}` },
    { to: -step, colour: mixed(low, even, 0.45), words: `to −${mm(step)}` },
    { to: -step / 4, colour: mixed(low, even, 0.75), words: `to −${mm(step / 4)}` },
    { to: step / 4, colour: even, words: "alike" },
    { to: step, colour: mixed(high, even, 0.75), words: `to ${mm(step)}` },
    { to: 2 * step, colour: mixed(high, even, 0.45), words: `to ${mm(2 * step)}` },
    { to: Number.POSITIVE_INFINITY, colour: high, words: `over ${mm(2 * step)}` },
  ];
}

/** The greatest known value of a layer, or of its size. */
export function greatest(layer: Float32Array | undefined, signed = false): number {
  let most = 0;
  for (const x of layer ?? []) if (!Number.isNaN(x)) most = Math.max(most, signed ? Math.abs(x) : x);
  return most;
}

/** The value inside a face by the shares of its corners; undefined when a corner is not known. */
export function valueIn(layer: Float32Array, corners: Vec, shares: Vec): number | undefined {
  const v = corners.reduce((sum, c, i) => sum + layer[c] * shares[i], 0);
  return Number.isNaN(v) ? undefined : v;
}

/** The shares of a triangle's corners at a place in it. */
export function sharesOf(p: Vec, a: Vec, b: Vec, c: Vec): Vec {
  const sub = (u: Vec, v: Vec): Vec => [u[0] - v[0], u[1] - v[1], u[2] - v[2]];
  const dot = (u: Vec, v: Vec) => u[0] * v[0] + u[1] * v[1] + u[2] * v[2];
  const v0 = sub(b, a);
  const v1 = sub(c, a);
  const v2 = sub(p, a);
  const [d00, d01, d11, d20, d21] = [dot(v0, v0), dot(v0, v1), dot(v1, v1), dot(v2, v0), dot(v2, v1)];
  const det = d00 * d11 - d01 * d01;
  if (det === 0) return [1, 0, 0];
  const s = (d11 * d20 - d01 * d21) / det;
  const t = (d00 * d21 - d01 * d20) / det;
  return [1 - s - t, s, t];
}

/** Where a camera stands: round and up in degrees, and how near. */
export interface Look {
  round: number;
  up: number;
  near: number;
}

export const looks: Record<string, Look> = {
  Front: { round: 0, up: 0, near: 1 },
  Left: { round: 90, up: 0, near: 1 },
  Right: { round: -90, up: 0, near: 1 },
  Top: { round: 0, up: 88, near: 1 },
  Under: { round: 0, up: -88, near: 1 },
};

/** Where to stand first: before what is known on it, or in front. */
export function firstLook(s: Surface, layer: number | undefined): Look {
  const known = layer === undefined ? undefined : s.layers[layer];
  const all: Vec = [0, 0, 0];
  const on: Vec = [0, 0, 0];
  let n = 0;
  for (let i = 0; i < s.places.length / 3; i++) {
    const is = known && !Number.isNaN(known[i]);
    if (is) n++;
    for (let k = 0; k < 3; k++) {
      all[k] += (s.places[3 * i + k] * 3) / s.places.length;
      if (is) on[k] += s.places[3 * i + k];
    }
  }
  // A surface that is known all over is looked at from the front.
  if (n === 0 || n > 0.6 * (s.places.length / 3)) return looks.Front;
  const d = on.map((x, k) => x / n - all[k]) as Vec;
  const flat = Math.hypot(d[0], d[2]);
  const deg = 180 / Math.PI;
  return {
    round: Math.max(-75, Math.min(75, Math.atan2(d[0], Math.max(0, d[2]) + 20) * deg)),
    up: Math.max(-25, Math.min(25, 0.5 * Math.atan2(d[1], flat + 40) * deg)),
    near: 1.1,
  };
}

export const turned = (l: Look, round: number, up: number): Look => ({
  ...l,
  round: ((((l.round + round + 180) % 360) + 360) % 360) - 180,
  up: Math.max(-88, Math.min(88, l.up + up)),
});
export const nearer = (l: Look, by: number): Look => ({ ...l, near: Math.max(0.4, Math.min(12, l.near * by)) });
