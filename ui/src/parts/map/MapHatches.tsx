import { colour as v } from "../colour";

/** What fills areas of the map: a piece, another piece, what covers, hair. */
export function MapHatches() {
  return (
    <defs>
      <pattern id="hatch-piece" width="14" height="14" patternUnits="userSpaceOnUse">
        <rect width="14" height="14" fill={v("silicone")} />
        <path d="M3 11 8 6" stroke={v("siliconeGlint")} strokeWidth="1.2" strokeLinecap="round" />
      </pattern>
      <pattern id="hatch-other" width="6" height="6" patternUnits="userSpaceOnUse">
        <rect width="6" height="6" fill={v("deep")} />
        <circle cx="2" cy="2" r="0.5" fill={v("muted")} />
      </pattern>
      <pattern id="hatch-covered" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="5" height="5" fill={v("line")} opacity="0.55" />
        <path d="M0 0V5" stroke={v("muted")} strokeWidth="0.7" />
      </pattern>
      <pattern id="hatch-hair" width="5" height="8" patternUnits="userSpaceOnUse">
        <rect width="5" height="8" fill={v("wood")} opacity="0.22" />
        <path d="M1 1q1.5 3 0 6M4 2q1.2 2.4 0 5" stroke={v("wood")} strokeWidth="0.5" fill="none" />
      </pattern>
      <marker id="map-arrow" viewBox="0 0 6 6" refX="4" refY="3" markerWidth="5" markerHeight="5" orient="auto">
        <path d="M0 0 6 3 0 6Z" fill={v("heather")} />
      </marker>
    </defs>
  );
}
