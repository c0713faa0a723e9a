import { colour as v } from "../../parts/colour";
import type { Place } from "../../parts/relief/ReliefView";
import type { Point } from "../../parts/relief/relief";
import type { Doc, Found, Step } from "./useTexture";

/** What is being drawn on the relief, or taken in hand to be moved. */
export interface Shape {
  kind: "guide" | "clear" | "area" | "landmark" | "outline";
  /** Which one is in hand; undefined while a new one is drawn. */
  index?: number;
  points: Point[];
}

interface Props {
  place: Place;
  doc: Doc;
  outline: number[][][];
  guides: number[][][];
  found: Found[];
  step?: Step;
  pressed?: number[][];
  even?: number[][];
  /** Rims that hang: x, y, radius; the way down is the plan's. */
  rims?: number[][];
  shape?: Shape;
  move: (points: Point[], done: boolean) => void;
  cut?: [Point, Point];
  setCut: (line: [Point, Point]) => void;
}

const line = (place: Place, points: number[][], closed = false) =>
  points
    .map((p, i) => {
      const [x, y] = place.toScreen(p as Point);
      return `${i === 0 ? "M" : "L"}${x.toFixed(1)} ${y.toFixed(1)}`;
    })
    .join("") + (closed ? "Z" : "");

/** A handle that is dragged, or moved by the arrow keys. */
function Handle({ at, place, label, move, fill }: { at: Point; place: Place; label: string; move: (p: Point, done: boolean) => void; fill: string }) {
  const [x, y] = place.toScreen(at);
  const plane = (e: React.PointerEvent<SVGCircleElement>): Point => {
    const box = e.currentTarget.ownerSVGElement?.getBoundingClientRect();
    return box ? place.toPlane(e.clientX - box.left, e.clientY - box.top) : at;
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: a handle on a drawing has no element of its own.
    <circle
      cx={x}
      cy={y}
      r="7"
      fill={fill}
      stroke="#fff"
      strokeWidth="1.5"
      role="button"
      tabIndex={0}
      aria-label={`${label}, ${at[0].toFixed(0)} and ${at[1].toFixed(0)} mm`}
      style={{ cursor: "move", touchAction: "none", pointerEvents: "all" }}
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => e.buttons > 0 && move(plane(e), false)}
      onPointerUp={(e) => move(plane(e), true)}
      onKeyDown={(e) => {
        const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        move([at[0] + by[0], at[1] + by[1]], true);
      }}
    />
  );
}

/** What lies over the relief: outline, guides, kept-clear places, landmarks, what was found, the row in hand, the cut. */
export function Overlay({ place, doc, outline, guides, found, step, pressed, even, rims, shape, move, cut, setCut }: Props) {
  const name = (p: number[], text: string, fill = "#1d1a17") => {
    const [x, y] = place.toScreen(p as Point);
    return (
      <text x={x + 6} y={y - 5} fill={fill} stroke="#f4efe6" strokeWidth="2.6" paintOrder="stroke" style={{ fontSize: 12.5, fontWeight: 600 }}>
        {text}
      </text>
    );
  };
  const rows = step?.row ? (pressed ?? []).filter((p) => p[0] === step.layer && p[1] === step.row) : [];
  return (
    <g style={{ pointerEvents: "none" }}>
      {outline.map((o, i) => (
        <path key={`o${i === 0 ? "" : i}`} d={line(place, o, true)} fill="none" stroke="#1d1a17" strokeWidth="1.3" strokeOpacity="0.75" />
      ))}
      {(doc.areas ?? []).map((a) => (
        <g key={`a${a.id}`}>
          <path d={line(place, a.polygon, true)} fill={v("yew")} fillOpacity="0.1" stroke={v("yew")} strokeWidth="1.4" strokeDasharray="7 3" />
          {a.polygon[0] && name(a.polygon[0], a.by ? `${a.name}: ${a.by}` : a.name)}
        </g>
      ))}
      {(doc.clear ?? []).map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: places and guides are told by their number.
        <path key={`c${c.name}${i}`} d={line(place, c.polygon, true)} fill="none" stroke={v("rust")} strokeWidth="1.6" strokeDasharray="4 3" />
      ))}
      {guides.map((g, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: places and guides are told by their number.
        <g key={`g${doc.guide_names?.[i]}${i}`}>
          <path d={line(place, g)} fill="none" stroke={v("heather")} strokeWidth="2" />
          {g[0] && name(g[0], `${i + 1} ${doc.guide_names?.[i] ?? ""}`)}
        </g>
      ))}
      {(doc.landmarks ?? []).map((l) => {
        const [x, y] = place.toScreen(l.at as Point);
        return (
          <g key={`l${l.name}`}>
            <path d={`M${x - 6} ${y}h12M${x} ${y - 6}v12`} stroke="#1d1a17" strokeWidth="1.6" />
            {(l.radius_mm ?? 0) > 0 && (
              <circle cx={x} cy={y} r={(l.radius_mm ?? 0) * place.scale} fill="none" stroke="#1d1a17" strokeWidth="1.2" strokeDasharray="3 3" />
            )}
            {name(l.at, l.name)}
          </g>
        );
      })}
      {rows.map((p) => {
        const [x, y] = place.toScreen([p[2], p[3]]);
        return (
          <ellipse
            key={`${p[2]} ${p[3]}`}
            cx={x}
            cy={y}
            rx={p[4] * place.scale}
            ry={p[5] * place.scale}
            transform={`rotate(${-p[6]} ${x} ${y})`}
            fill={v("heather")}
            fillOpacity="0.28"
            stroke={v("heather")}
            strokeWidth="1.8"
          />
        );
      })}
      {(rims ?? []).map(([x, y, r]) => {
        const down = ((doc.gravity?.down ?? 270) * Math.PI) / 180;
        const arm = (a: number): Point => [x + 1.1 * r * Math.cos(a), y + 1.1 * r * Math.sin(a)];
        const arc = Array.from({ length: 9 }, (_, i) => arm(down - 1.1 + (2.2 * i) / 8));
        return <path key={`r${x} ${y}`} d={line(place, arc)} fill="none" stroke={v("gorseDot")} strokeWidth="3.2" strokeLinecap="round" />;
      })}
      {(even ?? []).map((p) => {
        const [x, y] = place.toScreen(p as Point);
        return <circle key={`e${p[0]} ${p[1]}`} cx={x} cy={y} r="9" fill="none" stroke={v("gorseDot")} strokeWidth="2" />;
      })}
      {found.map((f, i) => {
        if (!f.at) return null;
        const [x, y] = place.toScreen(f.at as Point);
        return (
          <g key={`${f.id}${f.words}`}>
            <circle cx={x} cy={y} r="10" fill={f.severity === "stop" ? v("rust") : v("gorseDot")} stroke="#fff" strokeWidth="1.5" />
            <text x={x} y={y + 4.5} textAnchor="middle" fill="#fff" style={{ fontSize: 12, fontWeight: 700 }}>
              {i + 1}
            </text>
          </g>
        );
      })}
      {cut && (
        <g>
          <path d={line(place, cut)} stroke={v("heather")} strokeWidth="2" strokeDasharray="7 4" fill="none" />
          {([0, 1] as const).map((end) => (
            <Handle
              key={end}
              at={cut[end]}
              place={place}
              fill={v("heather")}
              label={end === 0 ? "Start of the cut" : "End of the cut"}
              move={(p) => setCut(end === 0 ? [p, cut[1]] : [cut[0], p])}
            />
          ))}
        </g>
      )}
      {shape && shape.points.length > 0 && (
        <g>
          <path
            d={line(place, shape.points, shape.index !== undefined && shape.kind !== "guide" && shape.kind !== "landmark")}
            fill="none"
            stroke={v("heather")}
            strokeWidth="2.4"
          />
          {shape.points.map((p, i) => (
            <Handle
              // biome-ignore lint/suspicious/noArrayIndexKey: a point is told by its place in the line.
              key={i}
              at={p}
              place={place}
              fill={v("heather")}
              label={`Point ${i + 1} of the ${shape.kind}`}
              move={(to, done) =>
                move(
                  shape.points.map((q, k) => (k === i ? to : q)),
                  done,
                )
              }
            />
          ))}
        </g>
      )}
    </g>
  );
}
