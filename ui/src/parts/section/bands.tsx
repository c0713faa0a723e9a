import { memo } from "react";
import type { Schemas } from "../../app/api";
import { colour as v } from "../colour";
import { millimetres } from "../format";
import { type Layer, natureOf } from "./geometry";

/** A band as it lies. */
export const BandPath = memo(function BandPath({
  id,
  d,
  fill,
  chosen,
  fine,
  onSelect,
}: {
  id: string;
  d: string;
  fill: string;
  chosen: boolean;
  fine: boolean;
  onSelect: (id: string) => void;
}) {
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: its label beside it is the keyboard's way
    <path
      data-layer={id}
      d={d}
      fill={fill}
      stroke={chosen ? v("heather") : v("ink")}
      strokeWidth={chosen ? 2.6 : fine ? 0.4 : 1.2}
      strokeLinejoin="round"
      onClick={() => onSelect(id)}
      cursor="pointer"
    />
  );
});

/** What a label says under a layer's name. */
function reachWords(l: Layer): string {
  const parts: string[] = [];
  if (l.from_mm) parts.push(`from ${millimetres(l.from_mm)}`);
  if (l.extent === "past_edge") parts.push(`${l.stop_mm} mm on to skin`);
  if (l.measured) parts.push("measured");
  if (l.extent === "centre_only") parts.push(`centre only, ${l.stop_mm} mm`);
  if (l.side) parts.push(`${l.side} only`);
  if (l.stretched) parts.push("stretched");
  if (l.shows_through) parts.push("shows through");
  if (l.from_run && l.from_run > 1) parts.push(`run ${l.from_run} on`);
  return parts.map((p) => ` · ${p}`).join("");
}

function amountWords(l: Layer, thickness: number): string {
  if (natureOf(l) === "things") return `${l.count} of ${l.each_g} g`;
  if (natureOf(l) === "hair") return `${l.hairs_cm2} a cm², ${l.length_mm} mm`;
  if (l.zone_coats?.length) return `${l.zone_coats.join("–")} coats, ${millimetres(thickness)}`;
  return `${l.coats && l.coats > 1 ? `${l.coats} coats, ` : ""}${millimetres(thickness)}`;
}

/** A band's name and amount, with a line to where it begins. */
export const BandLabel = memo(function BandLabel({
  y,
  close,
  startX,
  midY,
  layer,
  thickness,
  product,
  chosen,
  wearer,
  onSelect,
}: {
  y: number;
  close: boolean;
  startX: number;
  midY: number;
  layer: Layer;
  thickness: number;
  product?: Schemas["CraftMaterialProduct"];
  chosen: boolean;
  wearer: string;
  onSelect: (id: string) => void;
}) {
  const ink = chosen ? v("heather") : v("ink");
  const isSkin = layer.kind === "skin";
  const name = isSkin ? "Skin" : (product?.name ?? "choose a material");
  const amount = amountWords(layer, thickness);
  return (
    // biome-ignore lint/a11y/useSemanticElements: an SVG group cannot be a button element
    <g
      role="button"
      tabIndex={0}
      aria-pressed={chosen}
      data-label={layer.id}
      onClick={() => onSelect(layer.id)}
      onKeyDown={(e) => {
        if (e.key === "Enter" || e.key === " ") {
          e.preventDefault();
          onSelect(layer.id);
        }
      }}
      cursor="pointer"
    >
      <rect x="0" y={y - (close ? 9 : 17)} width="236" height={close ? 13 : 38} fill="transparent" />
      {close ? (
        <text style={{ fontSize: "11px", fontWeight: chosen ? 700 : 400 }} x="228" y={y} textAnchor="end" fill={ink}>
          {isSkin ? "Skin" : clip(`${name} · ${amount}`, 44)}
        </text>
      ) : (
        <>
          <text style={{ fontSize: "13.5px", fontWeight: 600 }} x="228" y={y - 1} textAnchor="end" fill={ink}>
            {clip(name, 34)}
          </text>{" "}
          <text style={{ fontSize: "12px" }} x="228" y={y + 15} textAnchor="end" fill={v("muted")}>
            {clip(isSkin ? wearer : amount + reachWords(layer), 42)}
          </text>
        </>
      )}
      <path d={`M234 ${y - (close ? 4 : 5)}h14L${startX} ${midY}`} fill="none" stroke={ink} strokeWidth={chosen ? 1.8 : close ? 0.5 : 1} />
      <circle cx={startX} cy={midY} r={chosen ? 4 : 2.2} fill={ink} />
    </g>
  );
});

/** Cuts words that would run out of their place. */
export const clip = (s: string, n: number) => (s.length > n ? `${s.slice(0, n - 1)}…` : s);
