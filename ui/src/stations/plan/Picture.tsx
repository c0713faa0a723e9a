import { useRef, useState } from "react";
import type { Schemas } from "../../app/api";
import { colour as v } from "../../parts/colour";
import { clockTime, day } from "../../parts/format";
import { hatch } from "../../parts/hatches";
import { long } from "../../parts/long";
import { type Block, blocks } from "./blocks";

const LEFT = 118;
const WIDTH = 1224;
const TOP = 30;
const ROW = 34;
/** So many things are drawn besides people; the rest stands in the list. */
const THINGS = 6;

const DAY = 86_400_000;
const SLOT = 15 * 60_000;

/** Who does what until the shooting days: people and what is short as lanes, nights grey, what makes a day late drawn in rust. */
export function Picture({
  r,
  until,
  hold,
}: {
  r: Schemas["PlanRunUp"];
  until: number;
  /** A block of somebody's is taken up, to be moved to a person and a time. */
  hold?: (b: Block, person: string, start: number) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<{ b: Block; x: number; y: number; dx: number; dy: number }>();
  const from = Date.parse(r.origin);
  const span = until - from;
  const x = (t: number) => LEFT + (Math.max(0, Math.min(span, t - from)) / span) * (WIDTH - LEFT - 6);
  const people = r.lanes.filter((l) => l.kind === "person");
  const lanes = [...people, ...r.lanes.filter((l) => l.kind !== "person").slice(0, THINGS)];
  const y = new Map(lanes.map((l, i) => [l.id, TOP + i * ROW + (l.kind === "person" ? 0 : 8)]));
  const height = TOP + lanes.length * ROW + 26;
  const all = blocks(r.bars.filter((b) => y.has(b.lane) && Date.parse(b.from) < until));
  const days = Array.from({ length: Math.round(span / DAY) }, (_, i) => from + i * DAY);
  const due = r.days.filter((d) => Date.parse(d.out) <= until);
  const told = named(due, x);
  const chain = all.filter((b) => b.binds).sort((a, b) => a.from - b.from);
  const middle = (b: Block) => (y.get(b.lane) ?? 0) + 14;
  /** A point of the window in the drawing. */
  const inside = (e: React.PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    const k = box ? WIDTH / box.width : 1;
    return { x: (e.clientX - (box?.left ?? 0)) * k, y: (e.clientY - (box?.top ?? 0)) * k };
  };
  const drop = (e: React.PointerEvent) => {
    if (!drag) return;
    const to = inside(e);
    const dx = Math.abs(to.x - drag.x) < 4 ? 0 : to.x - drag.x;
    const lane = Math.min(people.length - 1, Math.max(0, Math.floor((to.y - TOP) / ROW)));
    const moved = (dx / (WIDTH - LEFT - 6)) * span;
    const start = Math.max(Date.parse(r.now), Math.round((drag.b.from + moved) / SLOT) * SLOT);
    hold?.(drag.b, people[lane]?.id ?? drag.b.lane, dx === 0 ? drag.b.from : start);
    setDrag(undefined);
  };
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${WIDTH} ${height}`}
      width="100%"
      style={{ minWidth: "880px", touchAction: drag ? "none" : undefined }}
      aria-labelledby="run-up-title"
      data-testid="run-up"
      onPointerMove={(e) => {
        if (!drag) return;
        const to = inside(e);
        setDrag({ ...drag, dx: to.x - drag.x, dy: to.y - drag.y });
      }}
      onPointerUp={drop}
      onPointerLeave={() => setDrag(undefined)}
    >
      <title id="run-up-title">{said(r)}</title>
      {r.nights.map((n) => (
        <rect
          key={n.from}
          x={x(Date.parse(n.from))}
          y={TOP - 6}
          width={Math.max(0, x(Date.parse(n.to)) - x(Date.parse(n.from)))}
          height={height - TOP - 14}
          fill={v("line")}
          opacity="0.42"
        />
      ))}
      {days.map((t) => (
        <text
          key={t}
          x={x(t) + 3}
          y="14"
          style={{ fontSize: days.length > 20 ? "9.5px" : "12.5px", fontWeight: t === from ? 700 : 400 }}
          fill={v("ink")}
        >
          {days.length > 20 ? new Date(t).getUTCDate() : day(new Date(t).toISOString())}
        </text>
      ))}
      {lanes.map((l) => (
        <g key={l.id}>
          <path d={`M${LEFT} ${(y.get(l.id) ?? 0) + ROW - 3}H${WIDTH}`} stroke={v("line")} strokeWidth="1" />
          <text
            x={LEFT - 10}
            y={(y.get(l.id) ?? 0) + 19}
            textAnchor="end"
            style={{ fontSize: "13px", fontWeight: l.kind === "person" ? 700 : 400 }}
            fill={v("ink")}
          >
            {l.kind === "person" ? l.id.split(" ")[0] : l.id}
          </text>
        </g>
      ))}
      {chain.slice(1).map((b, i) => {
        const a = chain[i] as Block;
        return a.lane === b.lane ? null : (
          <path
            key={`${a.lane}${a.from}${b.lane}${b.from}`}
            d={`M${x(a.to)} ${middle(a)}C${x(a.to) + 14} ${middle(a)} ${x(b.from) - 14} ${middle(b)} ${x(b.from)} ${middle(b)}`}
            fill="none"
            stroke={v("rust")}
            strokeWidth="1.6"
            strokeDasharray="5 4"
          />
        );
      })}
      {all.map((b) => (
        <Bar
          key={`${b.lane}${b.from}${b.piece}`}
          b={b}
          x={x}
          y={y.get(b.lane) ?? 0}
          room={room(all, b, x)}
          pinned={b.steps.some((s) => r.pins.some((p) => p.step === s.step))}
          shift={drag?.b === b || (drag && drag.b.lane === b.lane && drag.b.from === b.from) ? drag : undefined}
          take={hold && !b.wait && people.some((p) => p.id === b.lane) ? () => hold(b, b.lane, b.from) : undefined}
          grip={(e) => {
            const at = inside(e);
            setDrag({ b, x: at.x, y: at.y, dx: 0, dy: 0 });
          }}
        />
      ))}
      {due.map((d) => (
        <g key={d.id}>
          {d.slack_min !== 0 && (
            <path
              d={`M${x(Date.parse(d.out) - Math.max(0, d.slack_min) * 60_000)} ${height - 21}H${x(Date.parse(d.out) + d.late_min * 60_000)}`}
              stroke={d.late_min > 0 ? v("rust") : v("yew")}
              strokeWidth="5"
              strokeLinecap="butt"
            >
              <title>{d.late_min > 0 ? `${d.place}: ${long(d.late_min)} late` : `${d.place}: ${long(d.slack_min)} in hand`}</title>
            </path>
          )}
          <path
            d={`M${x(Date.parse(d.out))} ${TOP - 8}V${height - 20}`}
            stroke={d.late_min > 0 ? v("rust") : v("ink")}
            strokeWidth={d.late_min > 0 ? 3 : 1.6}
            strokeDasharray={d.late_min > 0 ? undefined : "2 3"}
          />
          <text
            x={Math.min(x(Date.parse(d.out)), WIDTH - 90)}
            y={height - 6}
            textAnchor="middle"
            style={{ fontSize: "11.5px", fontWeight: 600 }}
            fill={d.late_min > 0 ? v("rust") : v("ink")}
          >
            {told.has(d.id) ? `${d.place} ${clockTime(d.out)}` : ""}
          </text>
        </g>
      ))}
      <path d={`M${x(Date.parse(r.now))} ${TOP - 10}V${height - 18}`} stroke={v("heather")} strokeWidth="2" />
      <circle cx={x(Date.parse(r.now))} cy={TOP - 12} r="5" fill={v("heather")} />
    </svg>
  );
}

/** The days whose names have room: late ones first, then the earlier ones. */
function named(due: Schemas["PlanDueDay"][], x: (t: number) => number): Set<number> {
  const out = new Map<number, number>();
  for (const d of [...due].sort((a, b) => Number(b.late_min > 0) - Number(a.late_min > 0))) {
    const at = x(Date.parse(d.out));
    if ([...out.values()].every((o) => Math.abs(o - at) > 110)) out.set(d.id, at);
  }
  return new Set(out.keys());
}

/** How far a label may run before the next block of its lane. */
function room(all: Block[], b: Block, x: (t: number) => number): number {
  const next = all.filter((o) => o.lane === b.lane && o.from > b.from).reduce((least, o) => Math.min(least, o.from), Number.POSITIVE_INFINITY);
  return (Number.isFinite(next) ? x(next) : WIDTH) - x(b.from);
}

interface BarProps {
  b: Block;
  x: (t: number) => number;
  y: number;
  room: number;
  pinned: boolean;
  shift?: { dx: number; dy: number };
  take?: () => void;
  grip: (e: React.PointerEvent) => void;
}

function Bar({ b, x, y, room, pinned, shift, take, grip }: BarProps) {
  const width = Math.max(3, x(b.to) - x(b.from));
  const text = b.text.length * 6.6 < room - 8 ? b.text : b.piece.length * 6.6 < room - 8 ? b.piece : "";
  const button = take && {
    role: "button",
    tabIndex: 0,
    "aria-label": `${text && text !== b.text ? `${text}: ` : ""}${b.text}, ${b.lane}, ${day(new Date(b.from).toISOString())} ${clockTime(new Date(b.from).toISOString())}`,
    onPointerDown: grip,
    onKeyDown: (e: React.KeyboardEvent) => {
      if (e.key === "Enter") take();
    },
    style: { cursor: "grab" },
  };
  return (
    <g {...button} transform={shift ? `translate(${shift.dx} ${shift.dy})` : undefined} data-bar={b.steps[0].step}>
      <rect
        x={x(b.from)}
        y={y + 3}
        width={width}
        height="23"
        rx={b.wait ? 8 : 3}
        fill={b.family ? hatch(b.family) : b.wait ? hatch("gypsum") : v("sheet")}
        stroke={b.binds ? v("rust") : v("ink")}
        strokeWidth={b.binds ? 2.4 : 1.1}
      >
        <title>{`${b.steps.map((s) => `${s.text} ${clockTime(s.from)}–${clockTime(s.to)}`).join("\n")}${b.overtime ? "\novertime" : ""}`}</title>
      </rect>
      {pinned && <circle cx={x(b.from) + 5} cy={y + 3} r="3.5" fill={v("heather")} stroke={v("ink")} />}
      {text && (
        <text
          x={x(b.from) + 5}
          y={y + 19}
          style={{ fontSize: "11px", fontWeight: 600, paintOrder: "stroke" }}
          stroke={v("sheet")}
          strokeWidth="3"
          fill={v("ink")}
        >
          {text}
        </text>
      )}
    </g>
  );
}

/** The picture in a sentence, for whoever does not see it. */
function said(r: Schemas["PlanRunUp"]): string {
  const late = r.late.map((l) => `${l.piece} for the ${l.place} is late`).join("; ");
  return `${r.steps} steps of ${r.lanes.filter((l) => l.kind === "person").length} people until ${day(r.ends)}. ${late || "Every day is met."}`;
}
