import { Box, chakra } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { clockOf } from "./clock";

type View = Schemas["HandoverChairView"];
type Step = Schemas["CraftOutingStep"];

const TOP = 34;
const LEFT = 66;
const BEAD = 22;
const WIDE = 590;
/** How far right of its column a strand hangs: room for the words of a bracket. */
const OFF = 34;

/** What fills a bead, by what is done: the shop's hatches and states, never a colour alone. */
const fills: Record<string, string> = {
  skin: "var(--chakra-colors-deep)",
  guard: "var(--chakra-colors-gorse-soft)",
  cover: "var(--chakra-colors-gorse-soft)",
  barrier: "var(--chakra-colors-yew-soft)",
  glue: "var(--chakra-colors-heather-soft)",
  place: "var(--chakra-colors-rust-soft)",
  edge: "var(--chakra-colors-yew-soft)",
  colour: "var(--chakra-colors-line)",
};

/** One strand a pair of hands, running down to the call; the window of a glue is a bracket beside the bead that must fall into it. */
export function Strands({ v, chosen, choose }: { v: View; chosen?: string; choose: (id: string) => void }) {
  const steps = v.run.steps;
  if (steps.length === 0) return null;
  const live = new Map(v.live.steps.map((s) => [s.id, s]));
  const at = (s: Step) => live.get(s.id)?.start_min ?? s.start_min;
  const until = (s: Step) => live.get(s.id)?.end_min ?? s.start_min + s.minutes;
  const first = Math.min(v.run.begin_min, ...steps.map(at));
  const last = Math.max(v.run.ready_min, ...steps.map(until)) + 4;
  // A short step is still wide enough for its words; the scale follows the closest two on one strand.
  const pace = Math.max(4.6, Math.min(9, 370 / (last - first)));
  const y = (min: number) => TOP + (min - first) * pace;
  const hands = v.doc.artists;
  const wide = Math.max(250, (WIDE - LEFT) / hands.length);
  const room = Math.floor((wide - 104) / 5.9);
  const strand = (s: Step) => Math.max(0, hands.indexOf(s.who[0] ?? hands[0] ?? ""));
  const marks: number[] = [];
  for (let m = Math.ceil(first / 15) * 15; m < last; m += 15) marks.push(m);
  const width = LEFT + wide * hands.length;
  const height = y(last) + 14;
  // Words never lie on each other: each begins below the one before it on its strand.
  const low = new Map<number, number>();
  const placed = [...steps]
    .sort((a, b) => at(a) - at(b))
    .map((s) => {
      const n = strand(s);
      const top = y(at(s));
      const words = Math.max(top + 12, (low.get(n) ?? 0) + 16);
      low.set(n, words);
      return { s, n, top, words };
    });
  const now = v.now_min;
  return (
    <Box overflowX="auto">
      <chakra.svg viewBox={`0 0 ${width} ${height}`} width={width} maxW="100%" role="group" aria-label="The run of the morning" fontSize="12.5px">
        {marks.map((m) => (
          <g key={m}>
            <line x1={LEFT - 6} x2={width} y1={y(m)} y2={y(m)} stroke="var(--chakra-colors-line)" strokeDasharray="3 5" />
            {m % 30 === 0 && (
              <text x={LEFT - 14} y={y(m) + 4} textAnchor="end" fill="var(--chakra-colors-muted)">
                {clockOf(m)}
              </text>
            )}
          </g>
        ))}
        {hands.map((h, n) => (
          <g key={h}>
            <text x={LEFT + n * wide + OFF} y={16} fontWeight="700" fill="currentColor">
              {h}
            </text>
            <line x1={LEFT + n * wide + OFF} x2={LEFT + n * wide + OFF} y1={24} y2={y(last)} stroke="currentColor" strokeWidth="1.2" />
          </g>
        ))}
        {placed.map(({ s, n, top, words }) => {
          const x = LEFT + n * wide + OFF;
          const l = live.get(s.id);
          const h = Math.max(8, (until(s) - at(s)) * pace - 2);
          const from = l?.from_min ?? (s.window && s.kind === "place" ? glueEnd(v, s) + s.window.from_min : undefined);
          const to = l?.until_min ?? (s.window && s.kind === "place" ? glueEnd(v, s) + s.window.until_min : undefined);
          const missed = l?.state === "missed";
          return (
            <g key={s.id}>
              {/* biome-ignore lint/a11y/useSemanticElements: a bead of a drawing cannot be a button element */}
              <g
                role="button"
                tabIndex={0}
                aria-label={`${clockOf(at(s))}, ${s.who.join(" and ")}: ${s.text}, ${s.minutes} minutes${l && l.state !== "waits" ? `, ${l.state}` : ""}`}
                aria-pressed={chosen === s.id}
                cursor="pointer"
                onClick={() => choose(s.id)}
                onKeyDown={(e) => {
                  if (e.key === "Enter" || e.key === " ") {
                    e.preventDefault();
                    choose(s.id);
                  }
                }}
              >
                <rect
                  x={x - BEAD / 2}
                  y={top}
                  width={BEAD}
                  height={h}
                  rx="5"
                  fill={fills[s.kind] ?? "var(--chakra-colors-sheet)"}
                  stroke={chosen === s.id ? "var(--chakra-colors-heather)" : missed ? "var(--chakra-colors-rust)" : "currentColor"}
                  strokeWidth={chosen === s.id ? 3.5 : 1.4}
                />
                {l?.state === "done" && (
                  <path d={`M${x - 5} ${top + h / 2}l4 4 7-8`} fill="none" stroke="var(--chakra-colors-yew)" strokeWidth="2.6" />
                )}
              </g>
              <text
                aria-hidden
                x={x + 20}
                y={words}
                pointerEvents="none"
                fill={missed ? "var(--chakra-colors-rust)" : "currentColor"}
                fontWeight={chosen === s.id ? 700 : 400}
              >
                {short(s.text, room)} <tspan fill="var(--chakra-colors-muted)">{s.minutes} min</tspan>
              </text>
              {from !== undefined && to !== undefined && (
                <g>
                  <path
                    d={`M${x - 17} ${y(from)}h-7v${Math.max(4, (Math.min(to, last) - from) * pace)}h7`}
                    fill="none"
                    stroke={missed ? "var(--chakra-colors-rust)" : "var(--chakra-colors-heather)"}
                    strokeWidth="2.4"
                  />
                  <text x={x - 28} y={y(from) + 4} textAnchor="end" fontSize="12px" fill="var(--chakra-colors-heather)">
                    {s.window?.state} {clockOf(from)}
                  </text>
                </g>
              )}
            </g>
          );
        })}
        {now > first && now < last && (
          <g>
            <circle cx={LEFT} cy={y(now)} r="5" fill="var(--chakra-colors-heather)" />
            <line x1={LEFT} x2={width} y1={y(now)} y2={y(now)} stroke="var(--chakra-colors-heather)" strokeWidth="2" />
          </g>
        )}
        <line
          x1={LEFT}
          x2={width}
          y1={y(v.live.ready_min || v.run.ready_min)}
          y2={y(v.live.ready_min || v.run.ready_min)}
          stroke="var(--chakra-colors-yew)"
          strokeWidth="1.6"
        />
        <line x1={LEFT} x2={width} y1={y(v.run.ready_min)} y2={y(v.run.ready_min)} stroke="currentColor" strokeWidth="2.6" />
        <text x={width - 4} y={y(v.run.ready_min) - 6} textAnchor="end" fontWeight="700" fill="currentColor">
          on set {clockOf(v.run.ready_min)}
        </text>
      </chakra.svg>
    </Box>
  );
}

const short = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text);

/** When the glue that a step presses on is all laid. */
function glueEnd(v: View, s: Step): number {
  const g = v.run.steps.find((x) => x.id === s.glue);
  return g ? g.start_min + g.minutes : s.start_min;
}
