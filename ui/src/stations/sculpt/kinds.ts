import type { Layer } from "./useTexture";

/** A dial of a layer: what it sets, and between what. */
export interface Dial {
  /** Where it stands in the layer: depth, spacing, families.0.angle. */
  at: string;
  label: string;
  unit?: string;
  min: number;
  max: number;
  step: number;
  /** What the server takes when nothing is set. */
  usual: number;
  /** Which number of a pair; both are set where it is "both". */
  of?: 0 | 1 | "both";
  why?: string;
}

export interface Kind {
  name: string;
  text: string;
  teach: string;
  start: Partial<Layer>;
  dials: Dial[];
}

const d = (at: string, label: string, usual: number, min: number, max: number, step: number, unit = "", of?: 0 | 1 | "both", why?: string): Dial => ({
  at,
  label,
  usual,
  min,
  max,
  step,
  unit,
  of,
  why,
});

const depth = (usual: number, max: number) => d("depth", "Depth", usual, 0.05, max, 0.05, "mm", "both");
const soften = d(
  "soften",
  "Through film",
  0,
  0,
  1,
  0.05,
  "mm",
  undefined,
  "pressed or scored through cling film, edges come out rounded by this much",
);

/** Dials of one family of lines. */
export const familyDials: Dial[] = [
  d("angle", "Angle", 0, -90, 90, 1, "°"),
  d("spacing", "Spacing at first", 2.5, 0.5, 15, 0.1, "mm", 0),
  d("spacing", "Spacing at last", 2.5, 0.5, 15, 0.1, "mm", 1),
  d("jitter", "Unevenness", 0.3, 0, 1, 0.05),
  d("wiggle", "Wiggle", 0, 0, 4, 0.1, "mm", 0),
  d("wiggle", "… over", 20, 5, 60, 1, "mm", 1),
  d("bow", "Bow", 0, -20, 20, 0.5, "mm"),
  d("depth", "Depth", 0.3, 0.05, 2, 0.05, "mm"),
  d("width", "Width", 0.8, 0.2, 4, 0.1, "mm"),
];

export const family = (angle: number) => ({ angle, spacing: [2.5, 3.2], jitter: 0.3, wiggle: [0.6, 22], bow: 3, depth: 0.3, width: 0.7 });

/** The textures, in the order in which they are offered. */
export const kinds: Kind[] = [
  {
    name: "scales",
    text: "pressed scales",
    teach: "Rows of squashed tubes, large to small, pressed so that they lock into each other.",
    start: { size: [9, 3], stamps: [], depth: [0.5, 0.5], groove: 0.8, dome: 0.2, soften: 0.2, rot_jitter: 8, pos_jitter: 0.1, ends: "random" },
    dials: [
      d("size", "First row", 9, 1.5, 24, 0.1, "mm", 0),
      d("size", "Last row", 3, 1.5, 24, 0.1, "mm", 1),
      d("angle", "Angle of the rows", 0, -90, 90, 1, "°"),
      d("row_pitch", "Row on row", 0.85, 0.4, 1.5, 0.01, "", undefined, "share of two half heights between rows; below 1 they overlap"),
      d("gap", "Gap in the row", 0.05, -0.3, 0.6, 0.01),
      d("offset", "Every other row", 0.5, 0, 1, 0.01, "", undefined, "how far it is shifted; 0.37 looks less laid than 0.5"),
      d("rot_jitter", "Turned by up to", 0, 0, 45, 1, "°"),
      d("pos_jitter", "Out of line", 0, 0, 0.5, 0.01),
      depth(0.5, 2),
      d("groove", "Groove", 0.8, 0.2, 3, 0.1, "mm"),
      d("dome", "Dome", 0, 0, 1.5, 0.05, "mm"),
      soften,
    ],
  },
  {
    name: "hatch",
    text: "cross-hatched lines",
    teach: "Lines in one or more directions, scored, buffed and scored again.",
    start: { families: [family(28), family(-34)], buff: 0.2, rescore: { every: 3, depth: 0.4, width: 0.5 } },
    dials: [d("buff", "Buffed by", 0, 0, 1, 0.05, "mm"), soften],
  },
  {
    name: "pores",
    text: "pores",
    teach: "Pits by needle that keep their distance, as on skin.",
    start: { spacing: [1.4, 2], diameter: [0.3, 0.6], depth: [0.1, 0.25] },
    dials: [
      d("spacing", "Distance at first", 1.2, 0.4, 8, 0.1, "mm", 0),
      d("spacing", "… at last", 2.5, 0.4, 8, 0.1, "mm", 1),
      d("grade_dir", "Grows towards", 90, 0, 360, 5, "°"),
      d("diameter", "Smallest", 0.3, 0.1, 4, 0.05, "mm", 0),
      d("diameter", "Largest", 0.6, 0.1, 4, 0.05, "mm", 1),
      d("depth", "Shallowest", 0.1, 0.02, 1, 0.01, "mm", 0),
      d("depth", "Deepest", 0.3, 0.02, 1, 0.01, "mm", 1),
      d("stretch", "Stretched", 1, 1, 4, 0.1, "×"),
      d("stretch_dir", "… along", 0, -90, 90, 5, "°"),
      soften,
    ],
  },
  {
    name: "wrinkles",
    text: "wrinkles",
    teach: "Folds between two guides, as along lines of tension.",
    start: { between: [0, 1], count: 6, jitter: 0.3, depth: [0.8, 0.8], width: 1.5, shoulder: 0.25 },
    dials: [
      d("count", "How many", 6, 1, 60, 1),
      d("jitter", "Unevenness", 0, 0, 1, 0.05),
      depth(0.8, 3),
      d("width", "Width", 1.5, 0.3, 8, 0.1, "mm"),
      d("shoulder", "Shoulder", 0.25, 0, 1, 0.05),
      d("taper", "Runs out over", 0.15, 0.02, 0.5, 0.01),
      soften,
    ],
  },
  {
    name: "cracks",
    text: "cracks",
    teach: "Edges between plates, as in dried mud or salt.",
    start: { pitch: 6, jitter: 0.8, depth: [0.7, 0.7], width: 0.8, skip: 0.1 },
    dials: [
      d("pitch", "Plate", 6, 1.5, 30, 0.5, "mm"),
      d("jitter", "Unevenness", 0.8, 0, 1, 0.05),
      d("stretch", "Stretched", 1, 0.2, 6, 0.1, "×"),
      d("stretch_dir", "… along", 0, -90, 90, 5, "°"),
      d("skip", "Left out", 0, 0, 0.9, 0.05),
      depth(0.7, 3),
      d("width", "Width", 0.8, 0.2, 5, 0.1, "mm"),
      soften,
    ],
  },
  {
    name: "droplets",
    text: "droplets",
    teach: "Drops from a needle that thin out and blend the edge into skin.",
    start: { spacing: [1.6, 1.6], diameter: [0.7, 1.4], falloff: 8, from: -1 },
    dials: [
      d("spacing", "Distance", 1.6, 0.5, 8, 0.1, "mm", "both"),
      d("falloff", "Thin out over", 8, 1, 60, 1, "mm"),
      d("diameter", "Smallest", 0.6, 0.2, 5, 0.1, "mm", 0),
      d("diameter", "Largest", 1.4, 0.2, 5, 0.1, "mm", 1),
      d("height_ratio", "Height to width", 0.3, 0.05, 0.6, 0.05),
    ],
  },
  {
    name: "bark",
    text: "bark",
    teach: "Long plates with fibre along the grain.",
    start: { grain: 90, plate: 7, groove: 1.6, depth: [1.8, 1.8] },
    dials: [
      d("grain", "Grain", 90, 0, 180, 1, "°"),
      d("plate", "Plate", 7, 2, 40, 0.5, "mm"),
      d("stretch", "As long as", 4, 1, 8, 0.1, "×"),
      d("groove", "Groove", 1.6, 0.3, 6, 0.1, "mm"),
      depth(1.8, 5),
      d("jitter", "Unevenness", 0.8, 0, 1, 0.05),
      d("skip", "Left out", 0.15, 0, 0.9, 0.05),
      d("fibre", "Fibre", 1.5, 0.5, 6, 0.1, "mm"),
    ],
  },
  {
    name: "barnacles",
    text: "barnacles",
    teach: "Ridged cones with craters.",
    start: { spacing: [9, 9], diameter: [4, 8], thin_out_mm: 0 },
    dials: [
      d("spacing", "Distance", 9, 1, 40, 0.5, "mm", "both"),
      d("diameter", "Smallest", 4, 1, 30, 0.5, "mm", 0),
      d("diameter", "Largest", 8, 1, 30, 0.5, "mm", 1),
      d("height_ratio", "Height to width", 0.5, 0.1, 1, 0.05),
      d("rim", "Rim at", 0.45, 0.1, 0.9, 0.05),
      d("crater", "Crater", 0.6, 0, 1, 0.05),
      d("ridge", "Ridges", 0.25, 0, 1, 0.05),
    ],
  },
  {
    name: "rot",
    text: "rot and holes",
    teach: "Frayed holes, with a lip where you want one.",
    start: { spacing: [8, 8], diameter: [3, 6], depth: [1, 1], fray: 0.25, lip: 0.2 },
    dials: [
      d("spacing", "Distance", 8, 1, 40, 0.5, "mm", "both"),
      d("diameter", "Smallest", 3, 1, 30, 0.5, "mm", 0),
      d("diameter", "Largest", 6, 1, 30, 0.5, "mm", 1),
      depth(1, 5),
      d("fray", "Frayed", 0.25, 0, 0.8, 0.05),
      d("lip", "Lip", 0, 0, 2, 0.05, "mm"),
    ],
  },
  {
    name: "lines",
    text: "lines along guides",
    teach: "Veins that stand up, or single lines that are scored where a guide runs.",
    start: { along: [0], depth: [0.3, 0.3], width: 1.2, raise: true },
    dials: [depth(0.4, 2), d("width", "Width", 1.2, 0.2, 6, 0.1, "mm"), d("taper", "Runs out over", 0.15, 0.02, 0.5, 0.01)],
  },
];

/** Dials that every texture has. */
export const commonDials: Dial[] = [
  d("density", "Density", 1, 0.05, 1, 0.05, "", undefined, "0.8 leaves out two in ten"),
  d("thin_out_mm", "Rarer towards the edge over", 0, 0, 40, 1, "mm"),
];

export const kindOf = (name: string): Kind =>
  kinds.find((k) => k.name === name) ?? { name, text: "relief brought in", teach: "", start: {}, dials: [] };

/** What a dial stands at. */
export function standsAt(layer: object, dial: Dial): number {
  const raw = dial.at.split(".").reduce<unknown>((o, key) => (o as Record<string, unknown> | undefined)?.[key], layer);
  if (Array.isArray(raw)) return Number(raw[dial.of === 1 ? 1 : 0]);
  return typeof raw === "number" ? raw : dial.usual;
}

/** The layer with a dial turned. */
export function turned<T extends object>(layer: T, dial: Dial, value: number): T {
  if (dial.of === undefined) return { ...layer, [dial.at]: value };
  if (dial.of === "both") return { ...layer, [dial.at]: [value, value] };
  const old = (layer as Record<string, unknown>)[dial.at];
  const pair = Array.isArray(old) ? [...old] : [dial.usual, dial.usual];
  pair[dial.of] = value;
  // What goes from the lesser to the greater stays so: the other end gives way.
  if (["diameter", "depth"].includes(dial.at) && pair[0] > pair[1]) pair[dial.of === 0 ? 1 : 0] = value;
  return { ...layer, [dial.at]: pair };
}

/** Stamps that fall from one width to another in even ratios. */
export function ladder(from: number, to: number, n: number): { id: string; od: number; squash: number; squash_b?: number }[] {
  return Array.from({ length: n }, (_, i) => {
    const width = from * (to / from) ** (n === 1 ? 0 : i / (n - 1));
    const squash = [0.84, 0.78, 0.82, 0.76][i % 4];
    // A tube keeps its perimeter: the width of an end over its tube, by Ramanujan.
    const h = ((1 - squash) / (1 + squash)) ** 2;
    const share = 2 / ((1 + squash) * (1 + (3 * h) / (10 + Math.sqrt(4 - 3 * h))));
    return {
      id: `S${i + 1}`,
      od: Math.round((10 * width) / share) / 10,
      squash,
      squash_b: i % 2 === 0 ? Math.round(100 * (squash - 0.15)) / 100 : undefined,
    };
  });
}
