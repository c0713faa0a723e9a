/**
 * A relief as it is looked at: heights on a grid of the region's plane, in mm,
 * y up, the lowest row first. The server makes it; here it is only lit, cut
 * along a line, and put on the screen.
 */
export interface Relief {
  nx: number;
  ny: number;
  pitch: number;
  x0: number;
  y0: number;
  step: number;
  heights: Int16Array;
  /** Slopes of the ground, for the light. */
  gx: Float32Array;
  gy: Float32Array;
  /** Three bytes a pixel of what is painted on it. */
  colours?: Uint8Array;
}

/** A pixel beside the region. */
export const OUTSIDE = -32768;

/** Light from the side: where from, clockwise from up, and how high, in degrees. */
export interface Light {
  azimuth: number;
  altitude: number;
}

export type Point = [number, number];

interface Sent {
  nx: number;
  ny: number;
  pitch_mm: number;
  x0: number;
  y0: number;
  step_mm: number;
  heights: string;
  colours?: string;
}

function bytes(base64: string): Uint8Array {
  const raw = atob(base64);
  const out = new Uint8Array(raw.length);
  for (let i = 0; i < raw.length; i++) out[i] = raw.charCodeAt(i);
  return out;
}

/** Reads what the server sent. */
export function readRelief(s: Sent): Relief {
  const heights = new Int16Array(bytes(s.heights).buffer);
  const { nx, ny } = s;
  const gx = new Float32Array(nx * ny);
  const gy = new Float32Array(nx * ny);
  const per = s.step_mm / s.pitch_mm;
  const at = (k: number) => (heights[k] === OUTSIDE ? 0 : heights[k]);
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const k = j * nx + i;
      if (heights[k] === OUTSIDE) continue;
      const l = i > 0 ? k - 1 : k;
      const r = i < nx - 1 ? k + 1 : k;
      const d = j > 0 ? k - nx : k;
      const u = j < ny - 1 ? k + nx : k;
      gx[k] = ((at(r) - at(l)) * per) / Math.max(1, r - l);
      gy[k] = ((at(u) - at(d)) * per) / Math.max(1, (u - d) / nx);
    }
  return { nx, ny, pitch: s.pitch_mm, x0: s.x0, y0: s.y0, step: s.step_mm, heights, gx, gy, colours: s.colours ? bytes(s.colours) : undefined };
}

/** The colour of oil clay under the lamp. */
const CLAY = [150, 140, 126] as const;

/** Lights a relief into the pixels of a picture, its top row first. */
export function shade(r: Relief, light: Light, out: Uint8ClampedArray) {
  const az = (light.azimuth * Math.PI) / 180;
  const alt = (light.altitude * Math.PI) / 180;
  const lx = Math.sin(az) * Math.cos(alt);
  const ly = Math.cos(az) * Math.cos(alt);
  const lz = Math.sin(alt);
  // Flat ground is as light under any lamp: a low one shows relief, not dusk.
  const ambient = 0.22;
  for (let j = 0; j < r.ny; j++) {
    let to = (r.ny - 1 - j) * r.nx * 4;
    for (let i = 0, k = j * r.nx; i < r.nx; i++, k++, to += 4) {
      if (r.heights[k] === OUTSIDE) {
        out[to + 3] = 0;
        continue;
      }
      const gx = r.gx[k];
      const gy = r.gy[k];
      const dot = Math.max(0, (lz - gx * lx - gy * ly) / Math.sqrt(1 + gx * gx + gy * gy));
      const bright = ambient + ((1 - ambient) * dot) / Math.max(lz, 0.25);
      if (r.colours) {
        out[to] = r.colours[3 * k] * bright;
        out[to + 1] = r.colours[3 * k + 1] * bright;
        out[to + 2] = r.colours[3 * k + 2] * bright;
      } else {
        out[to] = CLAY[0] * bright;
        out[to + 1] = CLAY[1] * bright;
        out[to + 2] = CLAY[2] * bright;
      }
      out[to + 3] = 255;
    }
  }
}

/** The height at a place, between the four pixels round it; undefined beside the region. */
export function heightAt(r: Relief, [x, y]: Point): number | undefined {
  const fx = (x - r.x0) / r.pitch - 0.5;
  const fy = (y - r.y0) / r.pitch - 0.5;
  const i = Math.floor(fx);
  const j = Math.floor(fy);
  if (i < 0 || j < 0 || i + 1 >= r.nx || j + 1 >= r.ny) return undefined;
  const k = j * r.nx + i;
  const [a, b, c, d] = [r.heights[k], r.heights[k + 1], r.heights[k + r.nx], r.heights[k + r.nx + 1]];
  if (a === OUTSIDE || b === OUTSIDE || c === OUTSIDE || d === OUTSIDE) return undefined;
  const tx = fx - i;
  const ty = fy - j;
  return r.step * ((1 - ty) * ((1 - tx) * a + tx * b) + ty * ((1 - tx) * c + tx * d));
}

/** Heights along a line, at equal steps; gaps where it runs beside the region. */
export function section(r: Relief, from: Point, to: Point, n = 420): (number | undefined)[] {
  return Array.from({ length: n }, (_, i) => {
    const t = i / (n - 1);
    return heightAt(r, [from[0] + t * (to[0] - from[0]), from[1] + t * (to[1] - from[1])]);
  });
}
