import { useRef } from "react";
import { colour } from "../../parts/colour";
import type { Zone } from "./bench";

type Dot = number[];

interface Props {
  outline: Dot[];
  zones: Zone[];
  /** Where each hair of the zone in hand goes, and which way it leans. */
  points: Dot[];
  degrees: number[];
  /** How many of them are set. */
  done: number;
  rows?: number[];
  chosen?: string;
  choose: (id: string) => void;
  /** A place was pointed at: of a zone that is drawn, or for an arrow. */
  place?: (p: Dot) => void;
  drawing?: Dot[];
  title: string;
}

/** Hair on the piece's outline, seen from above in mm: the zones, their arrows, and every single hair. */
export function HairDrawing(p: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const all = [...p.outline, ...p.zones.flatMap((z) => z.outline)];
  const xs = all.map((q) => q[0]);
  const ys = all.map((q) => q[1]);
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const pad = Math.max(4, 0.05 * Math.max(x1 - x0, y1 - y0));
  const unit = Math.max(x1 - x0, y1 - y0) / 100;
  const path = (list: Dot[], closed = true) => `M${list.map((q) => `${q[0].toFixed(2)} ${(-q[1]).toFixed(2)}`).join("L")}${closed ? "Z" : ""}`;
  const zone = p.zones.find((z) => z.id === p.chosen);
  const hairs = p.points.map((q, i) => {
    const a = (p.degrees[i] * Math.PI) / 180;
    const l = 1.6 * unit;
    return `M${q[0].toFixed(2)} ${(-q[1]).toFixed(2)}l${(l * Math.cos(a)).toFixed(2)} ${(-l * Math.sin(a)).toFixed(2)}`;
  });
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: corners and arrows can be typed beside the drawing too.
    <svg
      ref={svg}
      viewBox={`${x0 - pad} ${-y1 - pad} ${x1 - x0 + 2 * pad} ${y1 - y0 + 2 * pad}`}
      role="img"
      aria-label={p.title}
      style={{
        width: "100%",
        maxHeight: 320,
        display: "block",
        background: "var(--chakra-colors-sheet)",
        cursor: p.place ? "crosshair" : "default",
        touchAction: "manipulation",
      }}
      onClick={(e) => {
        const m = svg.current?.getScreenCTM();
        if (!p.place || !m) return;
        p.place([(e.clientX - m.e) / m.a, -(e.clientY - m.f) / m.d]);
      }}
    >
      <path d={path(p.outline)} fill="none" stroke={colour("ink")} strokeWidth={0.5 * unit} strokeDasharray={`${2 * unit} ${unit}`} />
      {p.zones.map((z) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: zones are chosen in the list beside the drawing too.
        <path
          key={z.id}
          d={path(z.outline)}
          fill={z.id === p.chosen ? colour("heatherSoft") : colour("deep")}
          fillOpacity="0.55"
          stroke={colour(z.id === p.chosen ? "heather" : "muted")}
          strokeWidth={0.5 * unit}
          onClick={(e) => {
            if (p.place) return;
            e.stopPropagation();
            p.choose(z.id);
          }}
        />
      ))}
      {zone?.fade_edges.map((i) => {
        const [a, b] = [zone.outline[i], zone.outline[(i + 1) % zone.outline.length]];
        return a && b && <path key={i} d={path([a, b], false)} stroke={colour("gorseDot")} strokeWidth={1.1 * unit} strokeLinecap="round" />;
      })}
      {(p.rows ?? []).map((y) => {
        const front = Math.min(...(zone?.outline.map((q) => q[1]) ?? [0]));
        const box = zone?.outline.map((q) => q[0]) ?? [0];
        return (
          <path
            key={y}
            d={`M${Math.min(...box)} ${-(front + y)}H${Math.max(...box)}`}
            stroke={colour("ink")}
            strokeWidth={0.35 * unit}
            opacity="0.7"
          />
        );
      })}
      <path d={hairs.slice(p.done).join("")} stroke={colour("ink")} strokeWidth={0.22 * unit} strokeLinecap="round" opacity="0.75" fill="none" />
      <path d={hairs.slice(0, p.done).join("")} stroke={colour("yew")} strokeWidth={0.34 * unit} strokeLinecap="round" fill="none" />
      {zone?.guides.map((g) => {
        const a = (g.deg * Math.PI) / 180;
        const [x, y, l] = [g.at[0], -g.at[1], 7 * unit];
        const [tx, ty] = [x + l * Math.cos(a), y - l * Math.sin(a)];
        return (
          <g key={`${g.at}`} stroke={colour("heather")} strokeWidth={0.9 * unit} fill="none" strokeLinecap="round">
            <path d={`M${x} ${y}L${tx} ${ty}`} />
            <path
              d={`M${tx} ${ty}l${-2.4 * unit * Math.cos(a - 0.5)} ${2.4 * unit * Math.sin(a - 0.5)}M${tx} ${ty}l${-2.4 * unit * Math.cos(a + 0.5)} ${2.4 * unit * Math.sin(a + 0.5)}`}
            />
            <circle cx={x} cy={y} r={0.8 * unit} fill={colour("heather")} />
          </g>
        );
      })}
      {p.drawing && p.drawing.length > 0 && (
        <g>
          <path d={path(p.drawing, p.drawing.length > 2)} fill="none" stroke={colour("heather")} strokeWidth={0.7 * unit} />
          {p.drawing.map((q) => (
            <circle key={`${q}`} cx={q[0]} cy={-q[1]} r={1.2 * unit} fill={colour("heather")} />
          ))}
        </g>
      )}
      {zone?.outline.map((q, i) => (
        <text key={`${q}`} x={q[0]} y={-q[1] - 1.4 * unit} fill={colour("muted")} style={{ fontSize: 2.6 * unit }} textAnchor="middle">
          {zone.outline.length <= 12 ? i + 1 : ""}
        </text>
      ))}
    </svg>
  );
}
