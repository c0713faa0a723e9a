import { useEffect, useId, useState } from "react";
import { colour } from "../../parts/colour";
import type { Measured, Shot } from "./bench";

export type LaidAs = "slider" | "blink" | "difference";

/** A matrix of linear light, row by row, with its offset: how a picture is shown. */
export interface Light {
  matrix: number[][];
  offset: number[];
}

interface Props {
  copy: Shot;
  other?: Shot;
  /** Takes a place of the copy's picture to the other, in pixels as shown; none while there are no landmarks. */
  move?: Measured["move"];
  how: LaidAs;
  /** Where the slider stands, 0 to 1. */
  at: number;
  lights: { copy?: Light; other?: Light };
  worse?: number[];
  faults: { n: number; x: number; y: number; chosen: boolean }[];
  /** Features of the brief where somebody saw them. */
  seen?: { n: number; x: number; y: number; text: string }[];
  /** A place of the copy's picture was pointed at, in shares. */
  point?: (x: number, y: number) => void;
  title: string;
}

const href = (s: Shot) => `/api/files/${s.sha256}?width=1600`;

/** Two pictures laid over each other by their landmarks: wiped, blinked, or subtracted. */
export function Laid(p: Props) {
  const id = useId().replaceAll(":", "");
  const [lit, setLit] = useState(true);
  useEffect(() => {
    if (p.how !== "blink") return;
    const timer = window.setInterval(() => setLit((x) => !x), 800);
    return () => window.clearInterval(timer);
  }, [p.how]);
  const ground = p.other ?? p.copy;
  const [w, h] = [ground.width, ground.height];
  // Without landmarks it is laid on so that the widths meet: said, not guessed at.
  const m = p.move ?? [
    [w / p.copy.width, 0, 0],
    [0, w / p.copy.width, 0],
  ];
  const matrix = `matrix(${m[0][0]} ${m[1][0]} ${m[0][1]} ${m[1][1]} ${m[0][2]} ${m[1][2]})`;
  const wipe = p.other && p.how === "slider" ? p.at * w : w;
  const unit = Math.max(w, h) / 100;
  const on = (x: number, y: number): [number, number] => {
    const [px, py] = [x * p.copy.width, y * p.copy.height];
    return [m[0][0] * px + m[0][1] * py + m[0][2], m[1][0] * px + m[1][1] * py + m[1][2]];
  };
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: a fault's place can be said in words too.
    <svg
      viewBox={`0 0 ${w} ${h}`}
      role="img"
      aria-label={p.title}
      style={{
        width: "100%",
        maxHeight: 300,
        display: "block",
        background: "#8d8d8d",
        isolation: "isolate",
        cursor: p.point ? "crosshair" : "default",
      }}
      onClick={(e) => {
        const ctm = e.currentTarget.getScreenCTM();
        if (!p.point || !ctm) return;
        const [x, y] = [(e.clientX - ctm.e) / ctm.a, (e.clientY - ctm.f) / ctm.d];
        // Back through the move, to a share of the copy's own picture.
        const det = m[0][0] * m[1][1] - m[0][1] * m[1][0];
        const [u, v] = [x - m[0][2], y - m[1][2]];
        const px = (m[1][1] * u - m[0][1] * v) / det / p.copy.width;
        const py = (m[0][0] * v - m[1][0] * u) / det / p.copy.height;
        if (px >= 0 && px <= 1 && py >= 0 && py <= 1) p.point(px, py);
      }}
    >
      <defs>
        {p.lights.copy && <Filter id={`${id}c`} light={p.lights.copy} />}
        {p.lights.other && <Filter id={`${id}o`} light={p.lights.other} />}
        <clipPath id={`${id}w`}>
          <rect x="0" y="0" width={wipe} height={h} />
        </clipPath>
      </defs>
      {/* What differs is little where the work is good: three times as bright it is seen. */}
      <g style={p.how === "difference" && p.other ? { filter: "brightness(3)" } : undefined}>
        {p.other && <image href={href(p.other)} width={w} height={h} filter={p.lights.other && `url(#${id}o)`} />}
        {(p.how !== "blink" || lit || !p.other) && (
          <g
            clipPath={p.how === "slider" ? `url(#${id}w)` : undefined}
            style={{ mixBlendMode: p.how === "difference" && p.other ? "difference" : "normal" }}
          >
            <image href={href(p.copy)} width={p.copy.width} height={p.copy.height} transform={matrix} filter={p.lights.copy && `url(#${id}c)`} />
          </g>
        )}
      </g>
      {p.other && p.how === "slider" && (
        <g>
          <path d={`M${wipe} 0V${h}`} stroke="#fff" strokeWidth={0.4 * unit} />
          <circle cx={wipe} cy={h - 4 * unit} r={2.6 * unit} fill="#fff" />
          <path d={`M${wipe - 1.2 * unit} ${h - 4 * unit}h${2.4 * unit}`} stroke="#1d1a17" strokeWidth={0.4 * unit} />
        </g>
      )}
      <Name x={2 * unit} y={2 * unit} unit={unit} text={p.copy.code || "this copy"} />
      {p.other && <Name x={w - 2 * unit} y={2 * unit} unit={unit} text={said(p.other)} end />}
      {p.worse && (
        <circle
          cx={p.worse[0]}
          cy={p.worse[1]}
          r={3.4 * unit}
          fill="none"
          stroke={colour("gorseDot")}
          strokeWidth={0.6 * unit}
          strokeDasharray={`${unit} ${unit}`}
        >
          <title>where the colour differs most</title>
        </circle>
      )}
      {(p.seen ?? []).map((f) => {
        const [x, y] = on(f.x, f.y);
        return (
          <g key={f.n}>
            <title>{f.text}</title>
            <circle cx={x} cy={y} r={2.1 * unit} fill={colour("yew")} stroke="#fff" strokeWidth={0.35 * unit} />
            <text x={x} y={y} textAnchor="middle" dominantBaseline="central" fill="#fff" style={{ fontSize: 2.5 * unit, fontWeight: 700 }}>
              {f.n}
            </text>
          </g>
        );
      })}
      {p.faults.map((f) => {
        const [x, y] = on(f.x, f.y);
        return (
          <g key={f.n}>
            <circle cx={x} cy={y} r={2.4 * unit} fill={colour("rust")} stroke="#fff" strokeWidth={(f.chosen ? 0.8 : 0.35) * unit} />
            <text x={x} y={y} textAnchor="middle" dominantBaseline="central" fill="#fff" style={{ fontSize: 2.8 * unit, fontWeight: 700 }}>
              {f.n}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

const said = (s: Shot) => (s.of === "reference" ? s.caption || "reference" : s.of === "sculpt" ? `sculpt, ${s.caption}` : `${s.code} ${s.view}`);

function Name({ x, y, unit, text, end }: { x: number; y: number; unit: number; text: string; end?: boolean }) {
  const short = text.length > 34 ? `${text.slice(0, 33)}…` : text;
  const wide = (short.length * 1.35 + 2) * unit;
  return (
    <g>
      <rect x={end ? x - wide : x} y={y} width={wide} height={4.4 * unit} rx={0.6 * unit} fill="#1d1a17" opacity="0.85" />
      <text
        x={(end ? x - wide : x) + wide / 2}
        y={y + 2.3 * unit}
        textAnchor="middle"
        dominantBaseline="central"
        fill="#fff"
        style={{ fontSize: 2.5 * unit }}
      >
        {short}
      </text>
    </g>
  );
}

function Filter({ id, light }: { id: string; light: Light }) {
  const rows = light.matrix.map((r, i) => `${r[0]} ${r[1]} ${r[2]} 0 ${light.offset[i]}`);
  return (
    <filter id={id} colorInterpolationFilters="linearRGB" x="0" y="0" width="100%" height="100%">
      <feColorMatrix type="matrix" values={`${rows.join(" ")} 0 0 0 1 0`} />
    </filter>
  );
}
