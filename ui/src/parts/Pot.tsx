import type { Schemas } from "../app/api";
import { colour as v } from "./colour";
import { hatch } from "./hatches";

/** Height of the glass in the drawing, from rim to floor. */
const TOP = 8;
const FLOOR = 52;

/** Where a level of 0 to 1 stands in the glass. */
export const levelY = (level: number) => FLOOR - (FLOOR - TOP - 2) * Math.max(0, Math.min(1, level));

/**
 * A small glass pot. The fill is the computed degree of cure or drying, the
 * marks on the glass are the stages, and one that needs a hand rings.
 */
export function PotGlass({
  pot,
  size = 1,
}: {
  pot: Pick<Schemas["BuildPot"], "fill" | "marks" | "family" | "state" | "label" | "left"> & { past?: boolean; rings?: boolean };
  size?: number;
}) {
  const y = levelY(pot.fill);
  const clip = `pot-${pot.label.replaceAll(/[^a-zA-Z0-9]/g, "-")}`;
  return (
    <svg width={56 * size} height={60 * size} viewBox="0 0 56 60" role="img">
      <title>{`${pot.label}: ${pot.left}, ${Math.round(100 * pot.fill)} % full`}</title>
      <clipPath id={clip}>
        <path d={`M8 ${TOP}h40v36q0 8-8 8H16q-8 0-8-8z`} />
      </clipPath>
      <path d={`M8 ${TOP}h40v36q0 8-8 8H16q-8 0-8-8z`} fill={v("glass")} />
      <g clipPath={`url(#${clip})`}>
        <rect x="8" y={y} width="40" height={60 - y} fill={hatch(pot.family)} />
        <path d={`M8 ${y}h40`} stroke={v("ink")} strokeWidth="1" vectorEffect="non-scaling-stroke" />
      </g>
      <path d={`M8 ${TOP}v36q0 8 8 8h24q8 0 8-8V${TOP}`} fill="none" stroke={v("ink")} strokeWidth="2" vectorEffect="non-scaling-stroke" />
      <path d={`M4 ${TOP}h48`} stroke={v("ink")} strokeWidth="3" strokeLinecap="round" vectorEffect="non-scaling-stroke" />
      {pot.marks.map((m) => (
        <path
          key={m.stage}
          d={`M${m.reached ? 40 : 37} ${levelY(m.level)}H48`}
          stroke={v("ink")}
          strokeWidth={m.reached ? 1 : 2}
          vectorEffect="non-scaling-stroke"
        >
          <title>{m.text}</title>
        </path>
      ))}
      {pot.past ? (
        <path d="M22 10 28 0 34 10z" fill={v("rust")} stroke={v("ink")} strokeWidth="1" />
      ) : (
        pot.state === "ready" && (
          <circle cx="28" cy="5" r="5" fill={pot.rings === false ? v("sheet") : v("gorseDot")} stroke={v("ink")} strokeWidth="1" />
        )
      )}
    </svg>
  );
}
