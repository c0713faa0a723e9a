import { Box } from "@chakra-ui/react";
import { memo, useCallback, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../app/api";
import { colour as v } from "../colour";
import { millimetres } from "../format";
import { hatch } from "../hatches";
import { type Band, type Cut, type Layer, layBands, natureOf, spreadLabels, VIEW } from "./geometry";

const kindHatch: Record<string, string> = { skin: "url(#hatch-skin)", hair: "url(#hatch-hair)" };

export type Finding = Schemas["CraftRulesFinding"];

interface Props {
  cut: Cut;
  result: Schemas["CraftSectionResult"];
  findings: Finding[];
  /** Their numbers in the list beside the drawing; 1, 2, 3 when left out. */
  numbers?: number[];
  products: Map<string, Schemas["CraftMaterialProduct"]>;
  selected?: string;
  trueScale: boolean;
  wearer: string;
  onSelect?: (id: string) => void;
  onFinding?: (index: number) => void;
  /** Dragging a handle: the new thickness at the centre or the edge, in mm. */
  onResize?: (id: string, at: "centre" | "edge", mm: number, done: boolean) => void;
}

/** A handle on its way: which body, at which end, how thick. */
interface Pull {
  id: string;
  at: "centre" | "edge";
  mm: number;
}

/** How often figures and names follow a dragging hand, in ms. */
const TELL_MS = 250;

/**
 * The build-up of a piece as a cross-section: skin at the bottom, air on top,
 * centre on the left, feather edge on the right. Heights are exaggerated, with
 * a ruler; findings sit as knots where they arise.
 */
export function SectionDrawing({ cut, result, findings, numbers, products, selected, trueScale, wearer, onSelect, onFinding, onResize }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const thickness = useMemo(() => {
    const by = new Map(result.layers?.map((l) => [l.id, { centre: l.centre_mm, edge: l.edge_mm, coat: l.coat_mm ?? 0 }]));
    const layers = new Map(cut.layers.map((l) => [l.id, l]));
    return (id: string) => {
      const l = layers.get(id);
      // A body follows the finger at once; the figures follow from the server.
      if (l && natureOf(l) === "body") return { centre: l.centre_mm ?? 0, edge: l.edge_mm ?? 0, coat: 0 };
      return by.get(id) ?? { centre: (l?.coats ?? 1) * (l?.coat_mm ?? 0), edge: 0, coat: l?.coat_mm ?? 0 };
    };
  }, [cut, result]);
  const { bands: still, scale } = useMemo(() => layBands(cut, thickness, trueScale), [cut, thickness, trueScale]);
  // While a hand drags, only the bands follow it, at the scale they had; names
  // and figures follow a few times a second.
  const [pull, setPull] = useState<Pull>();
  const bands = useMemo(() => {
    if (!pull) return still;
    const pulled = (id: string) => (id === pull.id ? { ...thickness(id), [pull.at]: pull.mm } : thickness(id));
    return layBands(cut, pulled, trueScale, scale).bands;
  }, [pull, still, cut, thickness, trueScale, scale]);
  // Many bands have one line of words each.
  const close = still.length > 13;
  const labels = useMemo(
    () =>
      spreadLabels(
        still.map((b) => (b.kind === "skin" ? VIEW.skinTop + 30 : b.midY)),
        close ? 13 : 39,
        close ? 12 : 22,
        VIEW.skinTop + 34,
      ),
    [still, close],
  );
  const index = new Map(bands.map((b, i) => [b.id, i]));
  const knots = apart(findings.map((f) => knotAt(f, bands, index)));

  const chose = useRef(onSelect);
  chose.current = onSelect;
  const select = useCallback((id: string) => chose.current?.(id), []);

  const drag = (id: string, at: "centre" | "edge") => (e: React.PointerEvent) => {
    if (!onResize || !svg.current) return;
    e.preventDefault();
    e.stopPropagation();
    // An entry that is being typed into would not follow the drag.
    (document.activeElement as HTMLElement | null)?.blur();
    const target = e.currentTarget as Element;
    target.setPointerCapture(e.pointerId);
    const startY = e.clientY;
    const start = thickness(id)[at];
    const perPx = VIEW.height / svg.current.getBoundingClientRect().height / scale.pxPerMM;
    const value = (ev: Event) => Math.max(at === "centre" ? 0.1 : 0, Math.round((start + (startY - (ev as PointerEvent).clientY) * perPx) * 20) / 20);
    // A hand moves more often than a screen is drawn.
    let frame = 0;
    let told = 0;
    const move = (ev: Event) => {
      cancelAnimationFrame(frame);
      frame = requestAnimationFrame((now) => {
        const mm = value(ev);
        setPull({ id, at, mm });
        if (now - told < TELL_MS) return;
        told = now;
        onResize(id, at, mm, false);
      });
    };
    const end = (ev: Event) => {
      cancelAnimationFrame(frame);
      setPull(undefined);
      onResize(id, at, value(ev), true);
      target.removeEventListener("pointermove", move);
      target.removeEventListener("pointerup", end);
    };
    target.addEventListener("pointermove", move);
    target.addEventListener("pointerup", end);
  };

  return (
    <Box asChild w="100%" h="100%">
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing is no fieldset */}
      <svg
        ref={svg}
        viewBox={`0 0 ${VIEW.width} ${VIEW.height}`}
        role="group"
        aria-label={`Section: ${(result.words ?? []).join(" ")}`}
        data-testid="section"
      >
        {bands.map((b, i) => {
          const l = cut.layers[i];
          return (
            <BandPath
              key={b.id}
              id={b.id}
              d={b.path}
              fill={
                kindHatch[b.kind] ?? kindHatch[natureOf(l)] ?? (l.fibre ? "url(#hatch-fibre)" : hatch(products.get(l.material ?? "")?.family ?? ""))
              }
              chosen={b.id === selected}
              fine={trueScale}
              onSelect={select}
            />
          );
        })}
        {still.map((b, i) => (
          <BandLabel
            key={b.id}
            y={labels[i]}
            close={close}
            startX={b.startX}
            midY={b.midY}
            layer={cut.layers[i]}
            thickness={Math.max(thickness(b.id).centre, natureOf(cut.layers[i]) === "film" ? thickness(b.id).coat : 0)}
            product={products.get(cut.layers[i].material ?? "")}
            chosen={b.id === selected}
            wearer={wearer}
            onSelect={select}
          />
        ))}
        <Zones cut={cut} />
        <Ruler scale={scale} cut={cut} trueScale={trueScale} />
        {onResize &&
          bands
            .filter((b, i) => b.id === selected && natureOf(cut.layers[i]) === "body")
            .map((b) => (
              <g key={b.id}>
                <Handle x={VIEW.centreX + 90} y={b.top(VIEW.centreX + 90)} label="thickness at the centre" onPointerDown={drag(b.id, "centre")} />
                <Handle x={VIEW.edgeX - 6} y={b.top(VIEW.edgeX - 6)} label="thickness at the edge" onPointerDown={drag(b.id, "edge")} />
              </g>
            ))}
        {findings.map((f, i) => (
          <Knot
            key={`${f.id}${f.below}${f.above}${f.reason}`}
            x={knots[i].x}
            y={knots[i].y}
            number={numbers?.[i] ?? i + 1}
            severity={f.severity}
            title={`${f.id}: ${f.reason}`}
            onClick={() => onFinding?.(i)}
          />
        ))}
      </svg>
    </Box>
  );
}

/** Knots that would cover each other are moved aside. */
function apart(knots: { x: number; y: number }[]): { x: number; y: number }[] {
  const placed: { x: number; y: number }[] = [];
  for (const k of knots) {
    const at = { ...k };
    while (placed.some((p) => Math.abs(p.x - at.x) < 25 && Math.abs(p.y - at.y) < 25)) at.x -= 27;
    placed.push(at);
  }
  return placed;
}

/** A finding between two bands sits on their line, one on a layer inside it. */
function knotAt(f: Finding, bands: Band[], index: Map<string, number>): { x: number; y: number } {
  const above = bands[index.get(f.above ?? "") ?? -1];
  const below = bands[index.get(f.below ?? "") ?? -1];
  const seed = (f.id.charCodeAt(0) * 7 + f.id.charCodeAt(f.id.length - 1) * 13) % 9;
  const x = VIEW.centreX + 130 + seed * 30;
  if (f.at_edge) return { x: VIEW.edgeX - 26, y: Math.min(...bands.map((b) => b.top(VIEW.edgeX - 26))) };
  if (below && above) return { x, y: below.top(x) };
  if (above) return { x, y: above.top(x) + 4 };
  return { x, y: bands.at(-1)?.top(x) ?? 0 };
}

const BandPath = memo(function BandPath({
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

const BandLabel = memo(function BandLabel({
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

/** Where one zone of a cut ends and the next begins. */
function Zones({ cut }: { cut: Cut }) {
  const across = (VIEW.edgeX - VIEW.centreX) / cut.half_width_mm;
  const zones = cut.zones ?? [];
  return (
    <g style={{ fontSize: "12px" }} fill={v("muted")}>
      {zones.map((z, i) => {
        const from = VIEW.centreX + across * (i ? zones[i - 1].to_mm : 0);
        const to = VIEW.centreX + across * z.to_mm;
        return (
          <g key={z.name + String(z.to_mm)}>
            {i < zones.length - 1 && (
              <path d={`M${to} 64V${VIEW.skinTop + VIEW.skinDeep}`} stroke={v("muted")} strokeWidth="0.8" strokeDasharray="3 4" fill="none" />
            )}
            <text x={(from + to) / 2} y="58" textAnchor="middle">
              {clip(z.name, Math.max(4, Math.floor((to - from) / 6.5)))}
            </text>
          </g>
        );
      })}
    </g>
  );
}

const clip = (s: string, n: number) => (s.length > n ? `${s.slice(0, n - 1)}…` : s);

function Ruler({ scale, cut, trueScale }: { scale: { pxPerMM: number; times: number }; cut: Cut; trueScale: boolean }) {
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20].find((s) => s * scale.pxPerMM >= 36) ?? 20;
  const top = 150;
  const across = (VIEW.edgeX - VIEW.centreX) / cut.half_width_mm;
  const stepX = [1, 2, 4, 5, 8, 10, 20, 40, 50, 100].find((s) => s * across >= 62) ?? 200;
  const marks = Array.from({ length: Math.floor((cut.half_width_mm - stepX * 0.55) / stepX) }, (_, i) => (i + 1) * stepX);
  const free = marks.filter((m) => m * across < VIEW.edgeX - VIEW.centreX - 78);
  const axis = VIEW.skinTop + VIEW.skinDeep + 1;
  return (
    <g style={{ fontSize: "12px" }} fill={v("muted")}>
      <text x={VIEW.endX} y={top - 26} textAnchor="end">
        {trueScale ? "true scale" : `height × ${scale.times.toFixed(scale.times < 10 ? 1 : 0)}`}
      </text>
      <path
        d={`M${VIEW.endX - 8} ${top}h10M${VIEW.endX - 3} ${top}v${2 * step * scale.pxPerMM}M${VIEW.endX - 8} ${top + step * scale.pxPerMM}h10M${VIEW.endX - 8} ${top + 2 * step * scale.pxPerMM}h10`}
        stroke={v("ink")}
        strokeWidth="1.2"
        fill="none"
      />
      <text x={VIEW.endX - 14} y={top + 4} textAnchor="end">
        {2 * step} mm
      </text>
      <text x={VIEW.endX - 14} y={top + 2 * step * scale.pxPerMM + 4} textAnchor="end">
        0
      </text>
      <text x={VIEW.centreX} y={axis + 13} textAnchor="middle">
        centre
      </text>
      {free.map((m) => (
        <text key={m} x={VIEW.centreX + m * across} y={axis + 13} textAnchor="middle">
          {m}
        </text>
      ))}
      <text x={VIEW.edgeX} y={axis + 13} textAnchor="middle">
        edge {cut.half_width_mm} mm
      </text>
      <text x={VIEW.endX} y={axis + 13} textAnchor="end">
        skin
      </text>
    </g>
  );
}

function Handle({ x, y, label, onPointerDown }: { x: number; y: number; label: string; onPointerDown: (e: React.PointerEvent) => void }) {
  return (
    <g onPointerDown={onPointerDown} cursor="ns-resize" style={{ touchAction: "none" }}>
      <title>{`Drag: ${label}`}</title>
      <circle cx={x} cy={y} r="22" fill="transparent" />
      <circle cx={x} cy={y} r="8" fill={v("heather")} stroke={v("ground")} strokeWidth="2" />
      <path d={`M${x} ${y - 5}v10M${x - 3} ${y - 2}l3-3 3 3M${x - 3} ${y + 2}l3 3 3-3`} stroke={v("ground")} fill="none" strokeWidth="1.4" />
    </g>
  );
}

const knotFill: Record<string, string> = { never: "rustSoft", stop: "rustSoft", warn: "gorseSoft", tip: "yewSoft" };
const knotLine: Record<string, string> = { never: "rust", stop: "rust", warn: "gorse", tip: "yew" };

/** A finding's knot: a diamond with its number, its severity in words beside. */
export function Knot({
  x,
  y,
  number,
  severity,
  title,
  onClick,
}: {
  x: number;
  y: number;
  number: number;
  severity: string;
  title: string;
  onClick?: () => void;
}) {
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the findings' list beside the drawing is the keyboard's way
    <g onClick={onClick} cursor="pointer" data-knot={title.split(":")[0]}>
      <title>{title}</title>
      <rect
        x={x - 10}
        y={y - 10}
        width="20"
        height="20"
        transform={`rotate(45 ${x} ${y})`}
        fill={v(knotFill[severity])}
        stroke={v(knotLine[severity])}
        strokeWidth="1.8"
      />
      <text style={{ fontSize: "12.5px", fontWeight: 700 }} x={x} y={y + 4.5} textAnchor="middle" fill={v("ink")}>
        {number}
      </text>
    </g>
  );
}
