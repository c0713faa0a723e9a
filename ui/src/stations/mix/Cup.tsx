import type { Schemas } from "../../app/api";
import { colour as v } from "../../parts/colour";
import { grams } from "../../parts/format";
import { hatch } from "../../parts/hatches";

const TOP = 20;
const FLOOR = 376;

/** The cup: what is in, what is being poured, what is still to come. */
export function Cup({ mix, pouringG }: { mix: Schemas["MixView"]; pouringG: number }) {
  const total = Math.max(mix.total_g, mix.lines.reduce((s, l) => s + l.in_cup_g, 0) + pouringG);
  const px = (g: number) => (g / total) * (FLOOR - TOP - 20);
  let y = FLOOR;
  const solid = mix.lines.map((l) => {
    const g = l.in_cup_g + (l.seq === mix.current ? pouringG : 0);
    const height = px(g);
    y -= height;
    return { l, g, y, height };
  });
  const ghost = mix.lines
    .map((l) => {
      const g = Math.max(0, l.target_g - l.in_cup_g - (l.seq === mix.current ? pouringG : 0));
      const height = px(g);
      y -= height;
      return { l, g, y, height };
    })
    .filter((s) => s.g > 0.05);
  const inset = (at: number) => ((at - TOP) / (FLOOR - TOP)) * 22;
  const band = (at: number, height: number) =>
    `M${20 + inset(at)} ${at}H${250 - inset(at)}L${250 - inset(at + height)} ${at + height}H${20 + inset(at + height)}Z`;
  return (
    <svg viewBox="0 0 270 400" width="100%" style={{ maxHeight: "100%" }} role="img">
      <title>{mix.lines.map((l) => `${l.name}: ${grams(l.in_cup_g)} of ${grams(l.target_g)}`).join(", ")}</title>
      {solid.map(
        (s) =>
          s.g > 0.01 && (
            <g key={`s${s.l.seq}`}>
              <path d={band(s.y, s.height)} fill={hatch(s.l.material)} stroke={v("ink")} strokeWidth="1.2" />
              {s.height > 18 && (
                <text
                  style={{ fontSize: "14.5px", fontWeight: 600, paintOrder: "stroke", stroke: v("sheet"), strokeWidth: 4, strokeLinejoin: "round" }}
                  x="135"
                  y={s.y + s.height / 2 + 5}
                  textAnchor="middle"
                  fill={v("ink")}
                >
                  {short(s.l)} {grams(s.g)}
                </text>
              )}
            </g>
          ),
      )}
      {ghost.map((s) => (
        <g key={`g${s.l.seq}`}>
          <path d={band(s.y, s.height)} fill="none" stroke={v("muted")} strokeDasharray="5 4" />
          {s.height > 16 && (
            <text style={{ fontSize: "13.5px" }} x="135" y={s.y + s.height / 2 + 5} textAnchor="middle" fill={v("muted")}>
              {short(s.l)} {grams(s.g)}
            </text>
          )}
        </g>
      ))}
      <path
        d={`M18 ${TOP - 6}L42 ${FLOOR + 6}q2 12 14 12h158q12 0 14-12L252 ${TOP - 6}`}
        fill="none"
        stroke={v("ink")}
        strokeWidth="3"
        strokeLinejoin="round"
      />
    </svg>
  );
}

const short = (l: Schemas["MixLine"]) => {
  const name = l.ingredient.length === 1 ? l.ingredient : l.name.replace("Silicone pigment, ", "").split(",")[0].toLowerCase();
  return name.length > 16 ? `${name.slice(0, 15)}…` : name;
};
