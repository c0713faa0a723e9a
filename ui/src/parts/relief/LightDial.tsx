import { colour as v } from "../colour";
import type { Light } from "./relief";

/** A lamp that is turned about the relief: round for where it stands, outward for how low. */
export function LightDial({ light, turn }: { light: Light; turn: (l: Light) => void }) {
  const size = 84;
  const r = 32;
  const out = (r * (90 - light.altitude)) / 90;
  const az = (light.azimuth * Math.PI) / 180;
  const at = { x: size / 2 + out * Math.sin(az), y: size / 2 - out * Math.cos(az) };
  const point = (e: React.PointerEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    const x = ((e.clientX - box.left) / box.width) * size - size / 2;
    const y = ((e.clientY - box.top) / box.height) * size - size / 2;
    const d = Math.min(r, Math.hypot(x, y));
    turn({ azimuth: Math.round((((Math.atan2(x, -y) * 180) / Math.PI + 360) % 360) / 1), altitude: Math.max(6, Math.round(90 - (90 * d) / r)) });
  };
  const step = (dAz: number, dAlt: number) =>
    turn({ azimuth: (light.azimuth + dAz + 360) % 360, altitude: Math.max(6, Math.min(90, light.altitude + dAlt)) });
  return (
    <svg
      viewBox={`0 0 ${size} ${size}`}
      width={size}
      height={size}
      // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a lamp on a round dial has two measures, a range input one.
      role="slider"
      tabIndex={0}
      aria-label="Light"
      aria-valuemin={0}
      aria-valuemax={360}
      aria-valuenow={Math.round(light.azimuth)}
      aria-valuetext={`from ${Math.round(light.azimuth)} degrees clockwise from above, ${Math.round(light.altitude)} degrees high`}
      style={{ touchAction: "none", cursor: "grab" }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        point(e);
      }}
      onPointerMove={(e) => e.buttons > 0 && point(e)}
      onKeyDown={(e) => {
        const by = { ArrowLeft: [-10, 0], ArrowRight: [10, 0], ArrowUp: [0, 5], ArrowDown: [0, -5] }[e.key];
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        step(by[0], by[1]);
      }}
    >
      <circle cx={size / 2} cy={size / 2} r={r + 5} fill={v("sheet")} fillOpacity="0.88" stroke={v("ink")} strokeWidth="1.2" />
      <line x1={size / 2} y1={size / 2} x2={at.x} y2={at.y} stroke={v("gorseDot")} strokeWidth="4" />
      <circle cx={at.x} cy={at.y} r="7" fill={v("gorseDot")} stroke={v("ink")} strokeWidth="1.4" />
      <text x={size / 2} y={size / 2 + 24} textAnchor="middle" fill={v("ink")} style={{ fontSize: 12 }}>
        {`${Math.round(light.altitude)}° ${light.altitude < 25 ? "low" : light.altitude > 60 ? "high" : ""}`}
      </text>
    </svg>
  );
}
