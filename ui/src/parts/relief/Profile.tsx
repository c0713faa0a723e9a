import { Box } from "@chakra-ui/react";
import { useMemo } from "react";
import { colour as v } from "../colour";
import { millimetres } from "../format";
import { type Point, type Relief, section } from "./relief";

const W = 560;
const H = 92;
const LEFT = 66;

/** The relief cut along a line, heights stretched so that they can be seen. */
export function Profile({ relief, from, to }: { relief: Relief; from: Point; to: Point }) {
  const cut = useMemo(() => section(relief, from, to), [relief, from, to]);
  const heights = cut.filter((h): h is number => h !== undefined);
  const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
  if (heights.length < 2) return <Box color="muted">The line runs beside the region.</Box>;
  const lo = Math.min(0, ...heights);
  const hi = Math.max(0, ...heights);
  const span = Math.max(0.2, hi - lo);
  const y = (h: number) => 10 + ((hi - h) / span) * (H - 34);
  const x = (i: number) => LEFT + (i / (cut.length - 1)) * (W - LEFT - 30);
  const runs: string[] = [];
  let run: string[] = [];
  cut.forEach((h, i) => {
    if (h === undefined) {
      if (run.length > 1) runs.push(run.join(" "));
      run = [];
    } else run.push(`${x(i).toFixed(1)},${y(h).toFixed(1)}`);
  });
  if (run.length > 1) runs.push(run.join(" "));
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      width="100%"
      role="img"
      aria-label={`Section of ${length.toFixed(0)} mm: from ${lo.toFixed(2)} to ${hi.toFixed(2)} mm`}
    >
      {runs.map((points) => {
        const first = points.split(" ")[0].split(",")[0];
        const last = points.slice(points.lastIndexOf(" ") + 1).split(",")[0];
        return (
          <polygon
            key={points.slice(0, 24)}
            points={`${first},${H - 20} ${points} ${last},${H - 20}`}
            fill="url(#hatch-gypsum)"
            stroke={v("ink")}
            strokeWidth="1.4"
          />
        );
      })}
      <line x1={LEFT - 6} x2={W - 24} y1={y(0)} y2={y(0)} stroke={v("heather")} strokeWidth="1" strokeDasharray="5 4" />
      <text x={W - 20} y={y(0) + 4} fill={v("muted")} style={{ fontSize: 12 }}>
        0
      </text>
      <text x={LEFT - 8} y={y(hi) + 4} textAnchor="end" fill={v("muted")} style={{ fontSize: 12 }}>
        {hi > 0.005 ? millimetres(hi) : ""}
      </text>
      <text x={LEFT - 8} y={y(lo) + 4} textAnchor="end" fill={v("muted")} style={{ fontSize: 12 }}>
        {lo < -0.005 ? `−${millimetres(-lo)}` : ""}
      </text>
      <text x={W / 2} y={H - 5} textAnchor="middle" fill={v("muted")} style={{ fontSize: 12 }}>
        {`${length.toFixed(0)} mm, heights × ${(((H - 34) / span / (W - LEFT - 30)) * length).toFixed(0)}`}
      </text>
    </svg>
  );
}
