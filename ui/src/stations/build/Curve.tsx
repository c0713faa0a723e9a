import { Box } from "@chakra-ui/react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useClock } from "../../app/reads";
import { colour as v } from "../../parts/colour";
import { clockTime } from "../../parts/format";

const WIDE = 560;
const HIGH = 170;
const LEFT = 34;
const FOOT = 22;

/** A mould in the oven: the air, the hottest wall and the coldest foam, up to now and on from there. */
export function Curve({ pot }: { pot: Schemas["BuildPot"] }) {
  const curve = useRead({
    queryKey: ["curve", pot.id],
    queryFn: () => ask(api.GET("/api/pots/{id}/curve", { params: { path: { id: pot.id } } })),
    refetchInterval: 60_000,
  });
  const now = useClock().data?.now;
  const c = curve.data;
  if (!c || c.points.length < 3) return null;
  const from = new Date(pot.started_at).getTime();
  const to = new Date(c.points[c.points.length - 1].at).getTime();
  const top = Math.ceil(Math.max(100, ...c.points.map((p) => p.air_c)) / 20) * 20;
  const x = (iso: string) => LEFT + ((WIDE - LEFT - 8) * (new Date(iso).getTime() - from)) / (to - from);
  const y = (t: number) => HIGH - FOOT - ((HIGH - FOOT - 8) * t) / top;
  const line = (of: (p: Schemas["BuildCurvePoint"]) => number) =>
    c.points.map((p, i) => `${i ? "L" : "M"}${x(p.at).toFixed(1)} ${y(of(p)).toFixed(1)}`).join("");
  const hours = [];
  for (let t = Math.ceil(from / 3_600_000) * 3_600_000; t <= to; t += 3_600_000) hours.push(new Date(t).toISOString());
  const every = Math.ceil(hours.length / 7);
  return (
    <Box mt="10px" maxW="600px" overflowX="auto" data-testid="curve">
      <svg width="100%" viewBox={`0 0 ${WIDE} ${HIGH}`} role="img" style={{ fontSize: "12.5px", minWidth: "480px" }}>
        <title>{`The oven's air, the mould and the coldest foam${c.cure_at ? `; cured at ${clockTime(c.cure_at)}` : ""}${c.open_at ? `, open at ${clockTime(c.open_at)}` : ""}`}</title>
        {[0, top / 2, top].map((t) => (
          <g key={t}>
            <path d={`M${LEFT} ${y(t)}H${WIDE - 8}`} stroke={v("line")} />
            <text x={LEFT - 6} y={y(t) + 4} textAnchor="end" fill={v("muted")}>
              {t}°
            </text>
          </g>
        ))}
        {hours
          .filter((_, i) => i % every === 0)
          .map((h) => (
            <text key={h} x={x(h)} y={HIGH - 5} textAnchor="middle" fill={v("muted")}>
              {clockTime(h)}
            </text>
          ))}
        <path d={`M${LEFT} ${y(c.open_c)}H${WIDE - 8}`} stroke={v("yew")} strokeDasharray="5 4" />
        <text x={LEFT + 6} y={y(c.open_c) - 4} fill={v("yew")}>
          open below {c.open_c.toFixed(0)} °C
        </text>
        <path d={line((p) => p.air_c)} fill="none" stroke={v("muted")} strokeDasharray="2 3" strokeWidth="1.4" />
        <path d={line((p) => p.wall_c)} fill="none" stroke={v("contour")} strokeWidth="1.6" />
        <path d={line((p) => p.coldest_c)} fill="none" stroke={v("ink")} strokeWidth="2.4" />
        {c.cure_at && (
          <g>
            <circle cx={x(c.cure_at)} cy={y(near(c, c.cure_at))} r="4.5" fill={v("yew")} stroke={v("ink")} />
            <text x={x(c.cure_at)} y={y(near(c, c.cure_at)) + 18} textAnchor="middle" fill={v("ink")}>
              cured {clockTime(c.cure_at)}
            </text>
          </g>
        )}
        {now && new Date(now).getTime() < to && (
          <path d={`M${x(now)} 4V${HIGH - FOOT}`} stroke={v("heather")} strokeWidth="2">
            <title>now</title>
          </path>
        )}
      </svg>
      <Box layerStyle="small">
        thick: the coldest foam; thin: the mould at its hottest; dotted: the oven's air; on from now as the oven is, off once it is cured
      </Box>
    </Box>
  );
}

/** The coldest foam at a moment. */
function near(c: Schemas["BuildCurve"], at: string): number {
  const t = new Date(at).getTime();
  return c.points.reduce((best, p) => (Math.abs(new Date(p.at).getTime() - t) < Math.abs(new Date(best.at).getTime() - t) ? p : best)).coldest_c;
}
