import { Box } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { colour as v } from "../../parts/colour";
import { clockTime } from "../../parts/format";
import { hatch } from "../../parts/hatches";

const LEFT = 176;
const WIDTH = 760;
/** Rows stand closer where the shelf is full, so that the days below keep their place; more stand on the shelf itself. */
const MOST = 9;
const rowOf = (pots: number) => (pots > 6 ? 28 : 38);

/** Every pot against the clock: how far it is, when it wants a hand, and how sure that is. */
export function Ripening({ pots: all, now }: { pots: Schemas["BuildPot"][]; now: Date }) {
  const pots = all.slice(0, MOST);
  const ROW = rowOf(pots.length);
  if (pots.length === 0) return <Box color="muted">Nothing is on the shelf.</Box>;
  const from = now.getTime() - 1.5 * 3_600_000;
  const span = 9 * 3_600_000;
  const x = (t: number) => LEFT + Math.max(0, Math.min(1, (t - from) / span)) * (WIDTH - LEFT - 8);
  const height = 26 + pots.length * ROW;
  const firstHour = Math.ceil(from / 3_600_000) * 3_600_000;
  const hours = Array.from({ length: 9 }, (_, i) => firstHour + i * 3_600_000).filter((t) => t < from + span);
  return (
    <>
      <svg viewBox={`0 0 ${WIDTH} ${height}`} width="100%" role="img">
        <title>{pots.map((p) => `${p.label}: ${p.left}`).join("; ")}</title>
        {hours.map((t) => (
          <g key={t}>
            <path d={`M${x(t)} 18V${height}`} stroke={v("line")} strokeDasharray="2 4" />
            <text style={{ fontSize: "12.5px" }} x={x(t)} y="12" textAnchor="middle" fill={v("muted")}>
              {clockTime(new Date(t).toISOString())}
            </text>
          </g>
        ))}
        {pots.map((p, i) => {
          const y = 26 + i * ROW;
          const start = new Date(p.started_at).getTime();
          // In the middle of a build it wants a hand for the next coat, not when it is dry through.
          const coat = p.goes_on && p.kind === "dry";
          const ready = now.getTime() + (coat ? (p.recoat_s ?? 0) : p.left_s) * 1000;
          return (
            <g key={p.id}>
              <text style={{ fontSize: "13.5px", fontWeight: 600 }} x={LEFT - 12} y={y + 18} textAnchor="end" fill={v("ink")}>
                {p.label}
              </text>
              <rect x={x(start)} y={y + 4} width={Math.max(2, x(ready) - x(start))} height="19" fill={hatch(p.family)} stroke={v("ink")} />
              {p.state === "running" && !coat && (
                <path
                  d={`M${x(now.getTime() + p.low_s * 1000)} ${y + 13.5}H${x(now.getTime() + p.high_s * 1000)}`}
                  stroke={v("ink")}
                  strokeWidth="1.4"
                  strokeDasharray="3 3"
                />
              )}
              <rect x={x(ready) - 1} y={y} width="14" height="27" rx="3" fill={p.state === "ready" ? v("gorseDot") : v("yew")} stroke={v("ink")}>
                <title>{p.left}</title>
              </rect>
            </g>
          );
        })}
        <path d={`M${x(now.getTime())} 14V${height}`} stroke={v("heather")} strokeWidth="2" />
        <circle cx={x(now.getTime())} cy="16" r="4.5" fill={v("heather")} />
      </svg>
      {all.length > MOST && <Box layerStyle="small">and {all.length - MOST} more on the shelf</Box>}
    </>
  );
}
