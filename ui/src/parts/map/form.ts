import type { Schemas } from "../../app/api";

// The wearer's form as the server sends it: a net of points over map
// coordinates u, v. What craft/form does in Go for paper, this does for the
// screen while a point is dragged; areas and findings come from the server.

export type Net = Schemas["BriefSheet"];
export type Point = Schemas["CraftFormPoint"];
export type Dot = [number, number];

/** Points on the smooth line between two drawn ones; the same as in Go. */
const STEPS = 12;

/** Of the coarse picture of depths, mm; and how far behind its surface a place may lie and still be seen. */
const PIXEL = 3;
const BEHIND = 7;

const cubic = (a: number, b: number, c: number, d: number, t: number) =>
  b + (t / 2) * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));

/** The smooth line through drawn points; a closed one goes round. */
export function curve(points: Point[], closed: boolean): Point[] {
  const n = points.length;
  if (n < 2 || (closed && n < 3)) return points;
  const at = (i: number) => (closed ? points[((i % n) + n) % n] : points[Math.max(0, Math.min(n - 1, i))]);
  const out: Point[] = [];
  for (let i = 0; i < (closed ? n : n - 1); i++) {
    const [a, b, c, d] = [at(i - 1), at(i), at(i + 1), at(i + 2)];
    for (let k = 0; k < STEPS; k++) out.push({ u: cubic(a.u, b.u, c.u, d.u, k / STEPS), v: cubic(a.v, b.v, c.v, d.v, k / STEPS) });
  }
  if (!closed) out.push(points[n - 1]);
  return out;
}

/** A sheet seen from one side: finds where places stand, and places under the finger. */
export class Sight {
  /** Of every point of the net: right, down, and toward the eye, in mm. */
  private readonly seen: Float64Array;
  /** Of every point of the net: the column nearest to it in its row that faces the eye; its own when it does. */
  private readonly front: Int16Array;

  constructor(
    readonly net: Net,
    readonly yaw: number,
    readonly pitch: number,
  ) {
    const y = (yaw * Math.PI) / 180;
    const p = (pitch * Math.PI) / 180;
    const s = Math.sin(y);
    const c = Math.cos(y);
    const sp = Math.sin(p);
    const cp = Math.cos(p);
    const n = net.columns * net.rows;
    this.seen = new Float64Array(3 * n);
    for (let k = 0; k < 3 * n; k += 3) {
      const x = net.net[k] / 10;
      const up = net.net[k + 1] / 10;
      const z = net.net[k + 2] / 10;
      this.seen[k] = c * x - s * z;
      this.seen[k + 1] = s * sp * x - cp * up + c * sp * z;
      this.seen[k + 2] = s * cp * x + sp * up + c * cp * z;
    }
    this.front = new Int16Array(n);
    const faces = this.facing();
    for (let j = 0; j < net.rows; j++) this.fill(j, faces);
  }

  /** A coarse picture of how near the skin is, to tell what stands behind something else. */
  private depths(): (x: number, y: number) => number {
    const { columns, rows } = this.net;
    const s = this.seen;
    let left = 1e9;
    let right = -1e9;
    let top = 1e9;
    let bottom = -1e9;
    for (let k = 0; k < s.length; k += 3) {
      if (s[k] < left) left = s[k];
      if (s[k] > right) right = s[k];
      if (s[k + 1] < top) top = s[k + 1];
      if (s[k + 1] > bottom) bottom = s[k + 1];
    }
    const w = Math.ceil((right - left) / PIXEL) + 2;
    const h = Math.ceil((bottom - top) / PIXEL) + 2;
    const near = new Float32Array(w * h).fill(-1e9);
    const triangle = (a: number, b: number, c: number) => {
      const ax = s[a];
      const ay = s[a + 1];
      const bx = s[b] - ax;
      const by = s[b + 1] - ay;
      const cx = s[c] - ax;
      const cy = s[c + 1] - ay;
      const det = bx * cy - by * cx;
      if (det <= 0) return; // turned away: it hides nothing that the front does not
      const x0 = Math.floor((ax + Math.min(0, bx, cx) - left) / PIXEL);
      const x1 = Math.ceil((ax + Math.max(0, bx, cx) - left) / PIXEL);
      const y0 = Math.floor((ay + Math.min(0, by, cy) - top) / PIXEL);
      const y1 = Math.ceil((ay + Math.max(0, by, cy) - top) / PIXEL);
      for (let y = y0; y <= y1; y++) {
        const py = top + y * PIXEL - ay;
        for (let x = x0; x <= x1; x++) {
          const px = left + x * PIXEL - ax;
          const f = px * cy - py * cx;
          const g = py * bx - px * by;
          if (f < 0 || g < 0 || f + g > det) continue;
          const z = s[a + 2] + (f * (s[b + 2] - s[a + 2]) + g * (s[c + 2] - s[a + 2])) / det;
          if (z > near[y * w + x]) near[y * w + x] = z;
        }
      }
    };
    const down = 3 * columns;
    for (let j = 0; j < rows - 1; j++) {
      for (let i = 0; i < columns - 1; i++) {
        const k = 3 * (j * columns + i);
        triangle(k, k + 3, k + down);
        triangle(k + down + 3, k + down, k + 3);
      }
    }
    return (x, y) => near[Math.round((y - top) / PIXEL) * w + Math.round((x - left) / PIXEL)];
  }

  /** Column of a step beyond the ends of a sheet that goes round. */
  private column(i: number): number {
    const turn = this.net.columns - 1;
    return this.net.wraps ? ((i % turn) + turn) % turn : Math.max(0, Math.min(turn, i));
  }

  /** Which points of the net face the eye, with nothing before them. */
  private facing(): Uint8Array {
    const { columns, rows } = this.net;
    const s = this.seen;
    const before = this.depths();
    const faces = new Uint8Array(columns * rows);
    for (let j = 0; j < rows; j++) {
      const up = 3 * columns * Math.max(0, j - 1);
      const down = 3 * columns * Math.min(rows - 1, j + 1);
      for (let i = 0; i < columns; i++) {
        const k = 3 * (j * columns + i);
        const l = 3 * (j * columns + this.column(i - 1));
        const r = 3 * (j * columns + this.column(i + 1));
        // The turn of the net in the picture is the skin's normal toward the eye.
        const turn = (s[r] - s[l]) * (s[down + 3 * i + 1] - s[up + 3 * i + 1]) - (s[r + 1] - s[l + 1]) * (s[down + 3 * i] - s[up + 3 * i]);
        if (turn > 0 && s[k + 2] > before(s[k], s[k + 1]) - BEHIND) faces[j * columns + i] = 1;
      }
    }
    return faces;
  }

  private fill(j: number, faces: Uint8Array) {
    const { columns, wraps } = this.net;
    const row = j * columns;
    // Toward the eye's side of the row, and no farther than to where the skin is nearest to the eye: beyond it, an ear
    // may face the eye as well.
    let middle = 0;
    for (let i = 1; i < columns; i++) if (this.seen[3 * (row + i) + 2] > this.seen[3 * (row + middle) + 2]) middle = i;
    const turn = columns - 1;
    for (let i = 0; i < columns; i++) {
      let way = middle - i;
      if (wraps) way -= turn * Math.round(way / turn);
      const step = way < 0 ? -1 : 1;
      let found = -1;
      for (let d = 0; found < 0 && d <= way * step; d++) {
        const k = this.column(i + d * step);
        if (faces[row + k]) found = k;
      }
      this.front[row + i] = found;
    }
  }

  private u(i: number): number {
    return this.net.u0 + ((this.net.u1 - this.net.u0) * i) / (this.net.columns - 1);
  }

  /** Where a place stands in the picture, in mm, and how near it is to the eye. */
  see(p: Point): [number, number, number] {
    const { u0, u1, v0, v1, columns, rows } = this.net;
    const turn = columns - 1;
    let x = ((p.u - u0) / (u1 - u0)) * turn;
    if (this.net.wraps) x = ((x % turn) + turn) % turn;
    x = Math.max(0, Math.min(turn, x));
    const y = Math.max(0, Math.min(rows - 1, ((p.v - v0) / (v1 - v0)) * (rows - 1)));
    const [i, j] = [Math.min(Math.floor(x), columns - 2), Math.min(Math.floor(y), rows - 2)];
    const [fx, fy] = [x - i, y - j];
    const k = 3 * (j * columns + i);
    const below = k + 3 * columns;
    const s = this.seen;
    const mix = (o: number) => (s[k + o] * (1 - fx) + s[k + 3 + o] * fx) * (1 - fy) + (s[below + o] * (1 - fx) + s[below + 3 + o] * fx) * fy;
    return [mix(0), mix(1), mix(2)];
  }

  /** The place at which another is drawn: its own, or where its row last faces the eye. Undefined when none of the row does. */
  private held(p: Point): { at: Point; seen: boolean } | undefined {
    const { u0, u1, v0, v1, columns, rows } = this.net;
    const j = Math.max(0, Math.min(rows - 1, Math.round(((p.v - v0) / (v1 - v0)) * (rows - 1))));
    const i = this.column(Math.round(((p.u - u0) / (u1 - u0)) * (columns - 1)));
    const front = this.front[j * columns + i];
    if (front < 0) return undefined;
    return front === i ? { at: p, seen: true } : { at: { u: this.u(front), v: p.v }, seen: false };
  }

  /** Whether a place faces the eye. */
  isSeen(p: Point): boolean {
    return !!this.held(p)?.seen;
  }

  /** A line as an SVG path; what turns away is held at the rim. Empty when all of it does. */
  path(points: Point[], closed: boolean): string {
    let [d, seen] = ["", false];
    for (const p of curve(points, closed)) {
      const held = this.held(p);
      if (!held) continue;
      seen ||= held.seen;
      const [x, y] = this.see(held.at);
      d += `${d ? "L" : "M"}${Math.round(x * 10) / 10} ${Math.round(y * 10) / 10}`;
    }
    return seen ? d + (closed ? "Z" : "") : "";
  }

  /** The middle of what can be seen of an area, in mm. */
  middle(points: Point[]): Dot | undefined {
    const all = points.filter((p) => this.isSeen(p)).map((p) => this.see(p));
    if (all.length === 0) return undefined;
    return [all.reduce((s, p) => s + p[0], 0) / all.length, all.reduce((s, p) => s + p[1], 0) / all.length];
  }

  /** The place under a point of the picture; undefined beside the form. */
  pick(x: number, y: number): Point | undefined {
    const { columns, rows, v0, v1 } = this.net;
    const s = this.seen;
    let best: Point | undefined;
    let near = Number.NEGATIVE_INFINITY;
    for (let j = 0; j < rows - 1; j++) {
      for (let i = 0; i < columns - 1; i++) {
        const k = 3 * (j * columns + i);
        for (const [a, b, c, corner] of [
          [k, k + 3, k + 3 * columns, 0],
          [k + 3 * columns + 3, k + 3 * columns, k + 3, 1],
        ]) {
          const det = (s[b] - s[a]) * (s[c + 1] - s[a + 1]) - (s[b + 1] - s[a + 1]) * (s[c] - s[a]);
          if (det <= 0) continue; // turned away
          const f = ((x - s[a]) * (s[c + 1] - s[a + 1]) - (y - s[a + 1]) * (s[c] - s[a])) / det;
          const g = ((y - s[a + 1]) * (s[b] - s[a]) - (x - s[a]) * (s[b + 1] - s[a + 1])) / det;
          if (f < 0 || g < 0 || f + g > 1) continue;
          const z = s[a + 2] + f * (s[b + 2] - s[a + 2]) + g * (s[c + 2] - s[a + 2]);
          if (z <= near) continue;
          near = z;
          const [fx, fy] = corner ? [1 - f, 1 - g] : [f, g];
          best = { u: this.u(i + fx), v: v0 + ((v1 - v0) * (j + fy)) / (rows - 1) };
        }
      }
    }
    return best;
  }

  /** A place moved by mm of the picture; it stays where the form ends. */
  moved(p: Point, dx: number, dy: number): Point {
    const [x, y] = this.see(this.held(p)?.at ?? p);
    return this.pick(x + dx, y + dy) ?? p;
  }
}

const sights = new WeakMap<Net, Map<string, Sight>>();

/** A sheet seen from one side; worked out once and kept with its net. */
export function sightOf(net: Net, yaw: number, pitch: number): Sight {
  const sides = sights.get(net) ?? new Map<string, Sight>();
  sights.set(net, sides);
  const key = `${yaw} ${pitch}`;
  const sight = sides.get(key) ?? new Sight(net, yaw, pitch);
  sides.set(key, sight);
  return sight;
}

/** The mark on the wearer's other side, every second point pushed out by a share and the others in: alike, not the same. */
export function mirrored(points: Point[], difference: number): Point[] {
  const other = points.map((p) => ({ u: -p.u, v: p.v }));
  const n = other.length;
  const [mu, mv] = [other.reduce((s, p) => s + p.u, 0) / n, other.reduce((s, p) => s + p.v, 0) / n];
  return other.map((p, i) => {
    const k = 1 + difference * (1 - 2 * (i % 2));
    return { u: mu + (p.u - mu) * k, v: mv + (p.v - mv) * k };
  });
}

/** The sheet of the wearer's other side. */
export const otherSheet = (sheet: string) =>
  sheet.endsWith("_L") ? sheet.replace(/_L$/, "_R") : sheet.endsWith("_R") ? sheet.replace(/_R$/, "_L") : sheet;
