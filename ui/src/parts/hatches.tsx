import { colour as v } from "./colour";

/**
 * Material families have hatches, so that colour never carries the meaning
 * alone: latex diagonal, foam open dots, silicone clear with one highlight,
 * gelatin waves, wax grain, gypsum stipple, fibre short dashes. Rendered once a
 * page; every drawing refers to them by id.
 */

export function Hatches() {
  return (
    <svg width="0" height="0" style={{ position: "absolute" }} aria-hidden="true">
      <title>hatches</title>
      <defs>
        <pattern id="hatch-silicone" width="44" height="44" patternUnits="userSpaceOnUse">
          <rect width="44" height="44" fill={v("silicone")} />
          <path d="M8 34 22 20" stroke={v("siliconeGlint")} strokeWidth="3" strokeLinecap="round" />
        </pattern>
        <pattern id="hatch-latex" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="7" height="7" fill={v("latex")} />
          <path d="M0 0V7" stroke={v("latexMark")} strokeWidth="1.6" />
        </pattern>
        <pattern id="hatch-fibre" width="12" height="8" patternUnits="userSpaceOnUse">
          <rect width="12" height="8" fill={v("latex")} />
          <path d="M1 2h5M7 6h5" stroke={v("latexMark")} strokeWidth="1.6" />
        </pattern>
        <pattern id="hatch-foam" width="10" height="10" patternUnits="userSpaceOnUse">
          <rect width="10" height="10" fill={v("foam")} />
          <circle cx="3" cy="3" r="1.7" fill="none" stroke={v("ink")} strokeWidth="0.9" />
          <circle cx="8" cy="8" r="1.7" fill="none" stroke={v("ink")} strokeWidth="0.9" />
        </pattern>
        <pattern id="hatch-gelatin" width="16" height="8" patternUnits="userSpaceOnUse">
          <rect width="16" height="8" fill={v("gelatin")} />
          <path d="M0 4q4-4 8 0t8 0" fill="none" stroke={v("wood")} strokeWidth="1.2" />
        </pattern>
        <pattern id="hatch-wax" width="14" height="6" patternUnits="userSpaceOnUse">
          <rect width="14" height="6" fill={v("waxy")} />
          <path d="M0 2h9M4 5h10" stroke={v("wood")} strokeWidth="0.7" />
        </pattern>
        <pattern id="hatch-gypsum" width="8" height="8" patternUnits="userSpaceOnUse">
          <rect width="8" height="8" fill={v("gypsum")} />
          <circle cx="2" cy="2" r="0.8" fill={v("muted")} />
          <circle cx="6" cy="5" r="0.8" fill={v("muted")} />
        </pattern>
        <pattern id="hatch-skin" width="18" height="14" patternUnits="userSpaceOnUse">
          <rect width="18" height="14" fill={v("skin")} />
          <circle cx="4" cy="4" r="0.9" fill={v("skinMark")} />
          <circle cx="13" cy="10" r="0.9" fill={v("skinMark")} />
        </pattern>
        <pattern id="hatch-film" width="8" height="8" patternUnits="userSpaceOnUse">
          <rect width="8" height="8" fill={v("film")} />
        </pattern>
        <pattern id="hatch-glue" width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill={v("glue")} />
          <circle cx="3" cy="3" r="0.8" fill={v("latexMark")} />
        </pattern>
        <pattern id="hatch-barrier" width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill={v("sheet")} />
          <path d="M0 3h3" stroke={v("muted")} strokeWidth="1" />
        </pattern>
        <pattern id="hatch-paint" width="9" height="9" patternUnits="userSpaceOnUse">
          <rect width="9" height="9" fill={v("paint")} />
          <circle cx="2" cy="6" r="1.1" fill={v("yew")} />
          <circle cx="7" cy="2" r="0.8" fill={v("yew")} />
        </pattern>
        <pattern id="hatch-powder" width="7" height="7" patternUnits="userSpaceOnUse">
          <rect width="7" height="7" fill={v("powdery")} />
          <circle cx="2" cy="3" r="0.6" fill={v("muted")} />
        </pattern>
        <pattern id="hatch-hair" width="6" height="12" patternUnits="userSpaceOnUse">
          <rect width="6" height="12" fill={v("sheet")} />
          <path d="M1 12 4 0M4 12 6 4M0 4 1 0" stroke={v("wood")} strokeWidth="1" fill="none" />
        </pattern>
        <pattern id="hatch-thing" width="12" height="12" patternUnits="userSpaceOnUse">
          <rect width="12" height="12" fill={v("powdery")} />
          <path d="M2 2 10 10M10 2 2 10" stroke={v("wood")} strokeWidth="0.9" />
        </pattern>
        <pattern id="hatch-wet" width="14" height="8" patternUnits="userSpaceOnUse">
          <rect width="14" height="8" fill={v("film")} />
          <path d="M1 5c2-4 4-4 6 0" stroke={v("muted")} strokeWidth="0.9" fill="none" />
        </pattern>
        <pattern id="hatch-blood" width="14" height="12" patternUnits="userSpaceOnUse">
          <rect width="14" height="12" fill={v("rustSoft")} />
          <path d="M4 2c-1.6 2.6-1.6 4.4 0 4.4S5.6 4.600 4 2M11 7c-1.300 2-1.300 3.400 0 3.400S12.300 9 11 7" fill={v("rust")} />
        </pattern>
        <pattern id="hatch-none" width="8" height="8" patternUnits="userSpaceOnUse">
          <rect width="8" height="8" fill={v("sheet")} />
        </pattern>
      </defs>
    </svg>
  );
}

const byFamily: [RegExp, string][] = [
  [/^skin$/, "skin"],
  [/^silicone|^softener/, "silicone"],
  [/^foam/, "foam"],
  [/^latex/, "latex"],
  [/^household/, "gypsum"],
  [/^hair/, "hair"],
  [/^found|^filling|^thermoplastic/, "thing"],
  [/^wet_look/, "wet"],
  [/^sealer/, "film"],
  [/^preparation/, "barrier"],
  [/^glitter/, "powder"],
  [/^gelatin/, "gelatin"],
  [/^wax/, "wax"],
  [/^fibre|^flock/, "fibre"],
  [/^encapsulator/, "film"],
  [/^barrier/, "barrier"],
  [/^adhesive/, "glue"],
  [/^paint|^pigment/, "paint"],
  [/^blood/, "blood"],
  [/^powder/, "powder"],
  [/^gypsum|^clay|^mould|^plaster|^stone/, "gypsum"],
  [/^food|^flour|^starch|^paste/, "powder"],
  [/^resin|^foam-pu/, "wet"],
  [/^cloth/, "fibre"],
  [/^water|^solvent|^alcohol|^acetone|^syrup|^glycerin|^sorbitol/, "wet"],
  [/^additive|^tint|^dye/, "paint"],
];

/** The fill of a material family, for any SVG shape. */
export function hatch(family: string): string {
  const hit = byFamily.find(([re]) => re.test(family));
  return `url(#hatch-${hit ? hit[1] : "none"})`;
}

/** A round swatch of a family: the dot of the round. */
export function Dot({ family, size = 15, title }: { family: string; size?: number; title?: string }) {
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" role={title ? "img" : undefined} aria-hidden={title ? undefined : true}>
      {title && <title>{title}</title>}
      <circle cx="8" cy="8" r="7" fill={hatch(family)} stroke={v("ink")} strokeWidth="1.6" />
    </svg>
  );
}
