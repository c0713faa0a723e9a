import { Problem } from "../app/api";

/** A colour reading as it is typed. */
export interface TypedLab {
  l: string;
  a: string;
  b: string;
}

/**
 * A typed reading as numbers. An empty box is no zero: an unread value would go
 * into the record as black.
 */
export function readLab(typed: TypedLab): { l: number; a: number; b: number } {
  const one = (field: keyof TypedLab) => {
    const v = Number(typed[field].trim().replace(",", "."));
    if (typed[field].trim() === "" || !Number.isFinite(v)) {
      throw new Problem(422, "missing", field, `Type ${field === "l" ? "L" : field}.`);
    }
    return v;
  };
  return { l: one("l"), a: one("a"), b: one("b") };
}

const linear = (l: number, a: number, b: number): number[] => {
  const fy = (l + 16) / 116;
  const inverse = (f: number) => (f ** 3 > 216 / 24389 ? f ** 3 : ((116 * f - 16) * 27) / 24389);
  const [x, y, z] = [0.95045593 * inverse(fy + a / 500), inverse(fy), 1.08905775 * inverse(fy - b / 200)];
  return [
    3.24096994 * x - 1.53738318 * y - 0.49861076 * z,
    -0.96924364 * x + 1.8759675 * y + 0.04155506 * z,
    0.05563008 * x - 0.20397696 * y + 1.05697151 * z,
  ];
};

/** Whether a screen can show a colour at all. */
export const onScreen = (l: number, a: number, b: number) => shown(linear(l, a, b));

const shown = (rgb: number[]) => rgb.every((v) => v > -1e-9 && v < 1 + 1e-9);

/**
 * CIELAB under D65 as a colour a screen can show (IEC 61966-2-1). Beyond that, lightness and hue stay and the chroma
 * is lowered. The same as craft/colour in Go.
 */
export function labToHex(l: number, a: number, b: number): string {
  let [lo, hi] = shown(linear(l, a, b)) ? [1, 1] : [0, 1];
  for (let i = 0; i < 40 && lo < hi; i++) {
    const mid = (lo + hi) / 2;
    if (shown(linear(l, a * mid, b * mid))) lo = mid;
    else hi = mid;
  }
  const encode = (v: number) => {
    const c = Math.max(0, Math.min(1, v));
    return Math.floor(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055) + 0.5);
  };
  return `#${linear(l, a * lo, b * lo)
    .map((v) => encode(v).toString(16).padStart(2, "0"))
    .join("")}`;
}
