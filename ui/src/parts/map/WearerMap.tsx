import { memo, type PointerEvent as Pointer, useCallback, useEffect, useId, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../app/api";
import { colour } from "../colour";
import type { Dot, Net, Point, Sight } from "./form";
import { MapHatches } from "./MapHatches";
import { markStyle } from "./style";

type View = Schemas["CraftFormView"];
type Opening = Schemas["CraftWearmapOpening"];

/** A mark as the map draws it. */
export interface MapMark {
  id: string;
  kind: string;
  points: Point[];
  closed: boolean;
  /** Two lines beside the form; none for no label. */
  label?: [string, string];
  name: string;
  faint?: boolean;
}

interface Props {
  view: View;
  net: Net;
  sight: Sight;
  marks: MapMark[];
  hidden?: Set<string>;
  openings?: Opening[];
  selected?: string;
  select?: (id: string | undefined) => void;
  /** A point of the selected mark was moved, added or taken away. */
  edit?: (points: Point[]) => void;
  /** A place was pointed at while a new mark is drawn. */
  place?: (p: Point) => void;
  turn?: (yaw: number, pitch: number) => void;
  label: string;
}

const pxPerTurn = 26;
const keyStep = 1.5; // mm
const REST_MS = 160;

/** The wearer as a map: the form as contour lines, and what is drawn on it. */
export function WearerMap(props: Props) {
  const { view, sight, marks, hidden, selected, select, edit, place, turn, label } = props;
  const svg = useRef<SVGSVGElement>(null);
  const id = useId();
  // While a point is dragged, only the one line changes; the rest waits until it is let go.
  const [dragged, setDragged] = useState<{ at: number; points: Point[] }>();
  const swipe = useRef<{ x: number; y: number }>(undefined);
  // While it turns, names and points wait until the hand rests: they would only flutter.
  const [rested, setRested] = useState(sight);
  useEffect(() => {
    const timer = window.setTimeout(() => setRested(sight), REST_MS);
    return () => window.clearTimeout(timer);
  }, [sight]);
  const still = rested === sight;
  const box = frame(view);
  // Lines and words keep their size on the screen, whatever the part of the body.
  const unit = box[3] / 330;
  const active = marks.find((m) => m.id === selected);

  const picturePlace = useCallback((e: { clientX: number; clientY: number }): Dot => {
    const m = svg.current?.getScreenCTM();
    if (!m) return [0, 0];
    return [(e.clientX - m.e) / m.a, (e.clientY - m.f) / m.d];
  }, []);

  const move = (e: Pointer) => {
    if (dragged) {
      const at = sight.pick(...picturePlace(e));
      if (at) setDragged({ ...dragged, points: dragged.points.map((p, i) => (i === dragged.at ? at : p)) });
      return;
    }
    const from = swipe.current;
    if (!from || !turn) return;
    const [dx, dy] = [e.clientX - from.x, e.clientY - from.y];
    if (Math.abs(dx) > pxPerTurn) {
      turn(-Math.sign(dx), 0);
      swipe.current = { x: e.clientX, y: from.y };
    } else if (Math.abs(dy) > 3 * pxPerTurn) {
      turn(0, Math.sign(dy));
      swipe.current = { x: from.x, y: e.clientY };
    }
  };
  const release = () => {
    swipe.current = undefined;
    if (dragged) {
      setDragged(undefined);
      edit?.(dragged.points);
    }
  };
  const press = (e: Pointer) => {
    if (place) {
      const at = sight.pick(...picturePlace(e));
      if (at) place(at);
      return;
    }
    select?.(undefined);
    swipe.current = { x: e.clientX, y: e.clientY };
    svg.current?.setPointerCapture(e.pointerId);
  };

  return (
    <svg
      ref={svg}
      viewBox={box.join(" ")}
      width="100%"
      height="100%"
      role="application"
      aria-label={label}
      aria-describedby={`${id}-how`}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it takes the keys that turn it
      tabIndex={0}
      style={{ touchAction: "none", overflow: "visible", cursor: place ? "crosshair" : turn ? "grab" : "default", display: "block" }}
      onPointerDown={press}
      onPointerMove={move}
      onPointerUp={release}
      onPointerCancel={release}
      onKeyDown={(e) => {
        if (e.target !== svg.current || !turn) return;
        const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
        if (!step) return;
        e.preventDefault();
        e.stopPropagation(); // the room's own keys turn it too
        turn(step[0], step[1]);
      }}
    >
      <desc id={`${id}-how`}>
        Arrow keys turn the form. Tab walks the points of the chosen mark: arrow keys move one, Enter adds one beside it, Delete takes it away.
      </desc>
      <MapHatches />
      <Ground view={view} unit={unit} />
      <Zones net={props.net} sight={sight} openings={props.openings} hidden={hidden} unit={unit} />
      {marks.map((m) =>
        hidden?.has(m.kind) ? null : (
          <Line
            key={m.id}
            mark={m.id === selected && dragged ? { ...m, points: dragged.points } : m}
            sight={sight}
            unit={unit}
            chosen={m.id === selected}
            select={place ? undefined : select}
          />
        ),
      )}
      {still && <Labels view={view} sight={sight} marks={marks} hidden={hidden} unit={unit} />}
      {active && edit && still && (
        <Handles
          mark={dragged ? { ...active, points: dragged.points } : active}
          sight={sight}
          unit={unit}
          edit={edit}
          grab={(at, e) => {
            e.stopPropagation();
            svg.current?.setPointerCapture(e.pointerId);
            setDragged({ at, points: active.points });
          }}
        />
      )}
      {view.yaw === 0 && props.net.wraps && (
        <g fill={colour("muted")} style={{ fontSize: 11, fontWeight: 600 }}>
          <text x={view.left + 8} y={view.top + 14}>
            R
          </text>
          <text x={view.left + view.width - 16} y={view.top + 14}>
            L
          </text>
        </g>
      )}
    </svg>
  );
}

/** The part of the picture plane that is shown: the form, with room for labels at both sides. */
function frame(view: View): [number, number, number, number] {
  const height = view.height + 8;
  const width = Math.max(view.width + 0.4 * height, height * 1.08);
  const middle = view.left + view.width / 2;
  return [middle - width / 2, view.top - 4, width, height];
}

/** The form's own lines: rim, ridges, contours. They change only when it is turned. */
const Ground = memo(function Ground({ view, unit }: { view: View; unit: number }) {
  return (
    <g fill="none" strokeLinejoin="round">
      <path d={view.outline} fill={colour("sheet")} stroke={colour("ink")} strokeWidth={1.1 * unit} />
      <path d={view.contours} stroke={colour("contour")} strokeWidth={0.3 * unit} opacity="0.5" />
      <path d={view.heavy} stroke={colour("contour")} strokeWidth={0.5 * unit} opacity="0.85" />
      <path d={view.ridges} stroke={colour("ink")} strokeWidth={0.7 * unit} />
    </g>
  );
});

/** Keep-out and openings: where nothing liquid goes, and what stays free. */
const Zones = memo(function Zones({
  net,
  sight,
  openings,
  hidden,
  unit,
}: {
  net: Net;
  sight: Sight;
  openings?: Opening[];
  hidden?: Set<string>;
  unit: number;
}) {
  return (
    <g fill="none">
      {!hidden?.has("keep_out") &&
        net.keep_out.map((z) => {
          const d = sight.path(z.outline, true);
          const s = markStyle.keep_out;
          return d && <path key={z.name} d={d} stroke={s.stroke} strokeDasharray={s.dash} strokeWidth={s.width * unit} />;
        })}
      {!hidden?.has("openings") &&
        net.openings.map((z) => {
          const at = sight.middle(z.outline);
          const o = openings?.find((x) => x.name === z.name);
          // Sight stands with the keep-out, and the gap for a straw with the mouth.
          if (!at || !o || z.name.endsWith("eye") || z.name === "straw") return null;
          return (
            <g key={z.name} transform={`translate(${at[0].toFixed(1)} ${at[1].toFixed(1)}) scale(${unit})`}>
              <title>{`${z.text}: ${o.pass ? "free" : `${Math.round(100 * o.open)} % free`}`}</title>
              <circle r="3.6" fill={colour(o.pass ? "yewSoft" : "rustSoft")} stroke={colour(o.pass ? "yew" : "rust")} strokeWidth="0.8" />
              <path
                d={o.pass ? "M-1.6 0 -.4 1.3 1.8-1.4" : "M-1.4-1.4 1.4 1.4M1.4-1.4-1.4 1.4"}
                stroke={colour(o.pass ? "yew" : "rust")}
                strokeWidth="0.9"
                strokeLinecap="round"
              />
            </g>
          );
        })}
    </g>
  );
});

const Line = memo(function Line({
  mark,
  sight,
  unit,
  chosen,
  select,
}: {
  mark: MapMark;
  sight: Sight;
  unit: number;
  chosen: boolean;
  select?: (id: string | undefined) => void;
}) {
  const d = useMemo(() => sight.path(mark.points, mark.closed), [sight, mark.points, mark.closed]);
  if (!d) return null;
  const s = markStyle[mark.faint ? "other" : mark.kind] ?? markStyle.region;
  return (
    <path
      d={d}
      fill={s.fill}
      fillOpacity="0.75"
      stroke={chosen ? colour("heather") : s.stroke}
      strokeWidth={(chosen ? s.width + 0.6 : s.width) * unit}
      strokeDasharray={s.dash
        ?.split(" ")
        .map((d) => Number(d) * unit)
        .join(" ")}
      strokeLinejoin="round"
      markerEnd={mark.kind === "pull" ? "url(#map-arrow)" : undefined}
      style={select && !mark.faint ? { cursor: "pointer" } : undefined}
      onPointerDown={(e) => {
        if (!select || mark.faint) return;
        e.stopPropagation();
        select(mark.id);
      }}
    >
      <title>{mark.name}</title>
    </path>
  );
});

/** The points of the chosen mark, to be moved by finger or keys. */
function Handles({
  mark,
  sight,
  unit,
  edit,
  grab,
}: {
  mark: MapMark;
  sight: Sight;
  unit: number;
  edit: (points: Point[]) => void;
  grab: (at: number, e: Pointer) => void;
}) {
  const least = mark.closed ? 3 : 2;
  return (
    <g>
      {mark.points.map((p, i) => {
        if (!sight.isSeen(p)) return null;
        const [x, y] = sight.see(p);
        const put = (next: Point) => edit(mark.points.map((q, k) => (k === i ? next : q)));
        return (
          // biome-ignore lint/a11y/useSemanticElements: a point of a drawing cannot be a button of HTML
          <circle
            // biome-ignore lint/suspicious/noArrayIndexKey: a point is its place in the line
            key={i}
            cx={x}
            cy={y}
            r={3.4 * unit}
            fill={colour("heather")}
            stroke={colour("sheet")}
            strokeWidth={unit}
            role="button"
            tabIndex={0}
            aria-label={`point ${i + 1} of ${mark.points.length}, ${mark.name}`}
            style={{ cursor: "move" }}
            onPointerDown={(e) => grab(i, e)}
            onKeyDown={(e) => {
              const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
              const step = e.shiftKey ? 5 * keyStep : keyStep;
              if (by) put(sight.moved(p, by[0] * step, by[1] * step));
              else if (e.key === "Delete" && mark.points.length > least) edit(mark.points.filter((_, k) => k !== i));
              else if (e.key === "Enter") {
                const next = mark.points[(i + 1) % mark.points.length];
                edit(mark.points.toSpliced(i + 1, 0, { u: (p.u + next.u) / 2, v: (p.v + next.v) / 2 }));
              } else return;
              e.preventDefault();
              e.stopPropagation();
            }}
          />
        );
      })}
    </g>
  );
}

const labelGap = 19;

/** Names and figures beside the form, each with a line to what it names. */
const Labels = memo(function Labels({
  view,
  sight,
  marks,
  hidden,
  unit,
}: {
  view: View;
  sight: Sight;
  marks: MapMark[];
  hidden?: Set<string>;
  unit: number;
}) {
  const middle = view.left + view.width / 2;
  const all = marks.flatMap((m) => {
    const at = m.label && !hidden?.has(m.kind) ? sight.middle(m.points) : undefined;
    return at && m.label ? [{ id: m.id, at, text: m.label, right: at[0] >= middle }] : [];
  });
  return (
    <g fill={colour("ink")} style={{ pointerEvents: "none" }}>
      {[true, false].map((right) => {
        let last = Number.NEGATIVE_INFINITY;
        const x = right ? view.left + view.width + 10 * unit : view.left - 10 * unit;
        return all
          .filter((l) => l.right === right)
          .sort((a, b) => a.at[1] - b.at[1])
          .map((l) => {
            const y = Math.max(l.at[1] - 12 * unit, last + labelGap * unit);
            last = y;
            return (
              <g key={l.id} textAnchor={right ? "start" : "end"}>
                <path
                  d={`M${l.at[0]} ${l.at[1]}L${x + (right ? -3 : 3) * unit} ${y - unit}`}
                  stroke={colour("ink")}
                  strokeWidth={0.45 * unit}
                  fill="none"
                />
                <circle cx={l.at[0]} cy={l.at[1]} r={1.3 * unit} />
                {/* Moved as one: words that stand at 0 are not laid out anew. */}
                <g transform={`translate(${x.toFixed(1)} ${y.toFixed(1)})`}>
                  <text style={{ fontSize: 8.4 * unit, fontWeight: 700 }}>{l.text[0]}</text>
                  <text y={8.6 * unit} fill={colour("muted")} style={{ fontSize: 7.6 * unit }}>
                    {l.text[1]}
                  </text>
                </g>
              </g>
            );
          });
      })}
    </g>
  );
});
