import type { Schemas } from "../../app/api";
import { colour as v } from "../colour";
import { millimetres } from "../format";
import { clip } from "./bands";
import { type Band, type Cut, VIEW } from "./geometry";

export type Finding = Schemas["CraftRulesFinding"];

/** Knots that would cover each other are moved aside. */
export function apart(knots: { x: number; y: number }[]): { x: number; y: number }[] {
  const placed: { x: number; y: number }[] = [];
  for (const k of knots) {
    const at = { ...k };
    while (placed.some((p) => Math.abs(p.x - at.x) < 25 && Math.abs(p.y - at.y) < 25)) at.x -= 27;
    placed.push(at);
  }
  return placed;
}

/** A finding between two bands sits on their line, one on a layer inside it. */
export function knotAt(f: Finding, bands: Band[], index: Map<string, number>): { x: number; y: number } {
  const above = bands[index.get(f.above ?? "") ?? -1];
  const below = bands[index.get(f.below ?? "") ?? -1];
  const seed = (f.id.charCodeAt(0) * 7 + f.id.charCodeAt(f.id.length - 1) * 13) % 9;
  const x = VIEW.centreX + 130 + seed * 30;
  if (f.at_edge) return { x: VIEW.edgeX - 26, y: Math.min(...bands.map((b) => b.top(VIEW.edgeX - 26))) };
  if (below && above) return { x, y: below.top(x) };
  if (above) return { x, y: above.top(x) + 4 };
  return { x, y: bands.at(-1)?.top(x) ?? 0 };
}

/** Where one zone of a cut ends and the next begins. */
export function Zones({ cut }: { cut: Cut }) {
  const across = (VIEW.edgeX - VIEW.centreX) / cut.half_width_mm;
  const zones = cut.zones ?? [];
  return (
    <g style={{ fontSize: "12px" }} fill={v("muted")}>
      {zones.map((z, i) => {
        const from = VIEW.centreX + across * (i ? zones[i - 1].to_mm : 0);
        const to = VIEW.centreX + across * z.to_mm;
        return (
          <g key={z.name + String(z.to_mm)}>
            {i < zones.length - 1 && (
              <path d={`M${to} 64V${VIEW.skinTop + VIEW.skinDeep}`} stroke={v("muted")} strokeWidth="0.8" strokeDasharray="3 4" fill="none" />
            )}
            <text x={(from + to) / 2} y="58" textAnchor="middle">
              {clip(z.name, Math.max(4, Math.floor((to - from) / 6.5)))}
            </text>
          </g>
        );
      })}
    </g>
  );
}

/** How high and how wide: the exaggeration in words, a ruler for heights, the way from the centre. */
export function Ruler({ scale, cut, trueScale }: { scale: { pxPerMM: number; times: number }; cut: Cut; trueScale: boolean }) {
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20].find((s) => s * scale.pxPerMM >= 36) ?? 20;
  const top = 150;
  const across = (VIEW.edgeX - VIEW.centreX) / cut.half_width_mm;
  const stepX = [1, 2, 4, 5, 8, 10, 20, 40, 50, 100].find((s) => s * across >= 62) ?? 200;
  const marks = Array.from({ length: Math.floor((cut.half_width_mm - stepX * 0.55) / stepX) }, (_, i) => (i + 1) * stepX);
  const free = marks.filter((m) => m * across < VIEW.edgeX - VIEW.centreX - 78);
  const axis = VIEW.skinTop + VIEW.skinDeep + 1;
  return (
    <g style={{ fontSize: "12px" }} fill={v("muted")}>
      <text x={VIEW.endX} y={top - 26} textAnchor="end">
        {trueScale ? "true scale" : `height × ${scale.times.toFixed(scale.times < 10 ? 1 : 0)}`}
      </text>
      <path
        d={`M${VIEW.endX - 8} ${top}h10M${VIEW.endX - 3} ${top}v${2 * step * scale.pxPerMM}M${VIEW.endX - 8} ${top + step * scale.pxPerMM}h10M${VIEW.endX - 8} ${top + 2 * step * scale.pxPerMM}h10`}
        stroke={v("ink")}
        strokeWidth="1.2"
        fill="none"
      />
      <text x={VIEW.endX - 14} y={top + 4} textAnchor="end">
        {2 * step} mm
      </text>
      <text x={VIEW.endX - 14} y={top + 2 * step * scale.pxPerMM + 4} textAnchor="end">
        0
      </text>
      <text x={VIEW.centreX} y={axis + 13} textAnchor="middle">
        centre
      </text>
      {free.map((m) => (
        <text key={m} x={VIEW.centreX + m * across} y={axis + 13} textAnchor="middle">
          {m}
        </text>
      ))}
      <text x={VIEW.edgeX} y={axis + 13} textAnchor="middle">
        edge {cut.half_width_mm} mm
      </text>
      <text x={VIEW.endX} y={axis + 13} textAnchor="end">
        skin
      </text>
    </g>
  );
}

interface HandleProps {
  x: number;
  y: number;
  label: string;
  /** The thickness while it is dragged. */
  mm?: number;
  onPointerDown: (e: React.PointerEvent) => void;
}

/** A round handle to drag a thickness by. */
export function Handle({ x, y, label, mm, onPointerDown }: HandleProps) {
  return (
    <g onPointerDown={onPointerDown} cursor="ns-resize" style={{ touchAction: "none" }}>
      <title>{`Drag: ${label}`}</title>
      <circle cx={x} cy={y} r="22" fill="transparent" />
      <circle cx={x} cy={y} r="8" fill={v("heather")} stroke={v("ground")} strokeWidth="2" />
      <path d={`M${x} ${y - 5}v10M${x - 3} ${y - 2}l3-3 3 3M${x - 3} ${y + 2}l3 3 3-3`} stroke={v("ground")} fill="none" strokeWidth="1.4" />
      {mm !== undefined && (
        <text
          style={{ fontSize: "15px", fontWeight: 700 }}
          x={x}
          y={y - 18}
          textAnchor="middle"
          fill={v("heather")}
          stroke={v("ground")}
          strokeWidth="4"
          paintOrder="stroke"
        >
          {millimetres(mm)}
        </text>
      )}
    </g>
  );
}

const knotFill: Record<string, string> = { never: "rustSoft", stop: "rustSoft", warn: "gorseSoft", tip: "yewSoft" };
const knotLine: Record<string, string> = { never: "rust", stop: "rust", warn: "gorse", tip: "yew" };

/** A finding's knot: a diamond with its number, its severity in words beside. */
export function Knot({
  x,
  y,
  number,
  severity,
  title,
  onClick,
}: {
  x: number;
  y: number;
  number: number;
  severity: string;
  title: string;
  onClick?: () => void;
}) {
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the findings' list beside the drawing is the keyboard's way
    <g onClick={onClick} cursor="pointer" data-knot={title.split(":")[0]}>
      <title>{title}</title>
      <rect
        x={x - 10}
        y={y - 10}
        width="20"
        height="20"
        transform={`rotate(45 ${x} ${y})`}
        fill={v(knotFill[severity])}
        stroke={v(knotLine[severity])}
        strokeWidth="1.8"
      />
      <text style={{ fontSize: "12.5px", fontWeight: 700 }} x={x} y={y + 4.5} textAnchor="middle" fill={v("ink")}>
        {number}
      </text>
    </g>
  );
}
