import { Box } from "@chakra-ui/react";
import { useCallback, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../app/api";
import { hatch } from "../hatches";
import { BandLabel, BandPath } from "./bands";
import { type Cut, endOf, type Layer, layBands, natureOf, spreadLabels, VIEW } from "./geometry";
import { apart, type Finding, Handle, Knot, knotAt, Ruler, Zones } from "./marks";

const kindHatch: Record<string, string> = { skin: "url(#hatch-skin)", hair: "url(#hatch-hair)" };

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
  /** Dragging a handle: the new thickness in mm at the centre, at the edge, or at a place of a shape drawn by hand. */
  onResize?: (id: string, at: End, mm: number, done: boolean) => void;
}

/** Where a body is pulled: at one of its ends, or at a place of its drawn shape. */
export type End = "centre" | "edge" | number;

/** A handle on its way: which body, where, how thick. */
interface Pull {
  id: string;
  at: End;
  mm: number;
}

const layerOf = (cut: Cut, id: string) => cut.layers.find((l) => l.id === id);

/** The cut with the place of a drawn shape where the hand has it. */
function shapePulled(cut: Cut, { id, at, mm }: Pull): Cut {
  const shape = layerOf(cut, id)?.shape;
  if (!shape) return cut;
  const k = at === "centre" ? 0 : at === "edge" ? shape.profile_mm.length - 1 : at;
  const profile_mm = shape.profile_mm.map((x, i) => (i === k ? mm : x));
  return { ...cut, layers: cut.layers.map((l) => (l.id === id ? { ...l, shape: { ...shape, profile_mm } } : l)) };
}

/** How long a dragging hand rests before names and figures follow it, in ms. */
const REST_MS = 140;

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
  // While a hand drags, only the bands follow it, at the scale they had, with
  // the thickness at the handle; names and figures follow when it rests.
  const [pull, setPull] = useState<Pull>();
  const bands = useMemo(() => {
    if (!pull) return still;
    const pulled = (id: string) => (id === pull.id ? { ...thickness(id), [pull.at]: pull.mm } : thickness(id));
    return layBands(shapePulled(cut, pull), pulled, trueScale, scale).bands;
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
  const index = useMemo(() => new Map(still.map((b, i) => [b.id, i])), [still]);
  const noted = useRef(onFinding);
  noted.current = onFinding;
  // Names, ruler and knots stand still while a hand drags.
  const around = useMemo(() => {
    const knots = apart(findings.map((f) => knotAt(f, still, index)));
    return (
      <>
        <Zones cut={cut} />
        <Ruler scale={scale} cut={cut} trueScale={trueScale} />
        {findings.map((f, i) => (
          <Knot
            key={`${f.id}${f.below}${f.above}${f.reason}`}
            x={knots[i].x}
            y={knots[i].y}
            number={numbers?.[i] ?? i + 1}
            severity={f.severity}
            title={`${f.id}: ${f.reason}`}
            onClick={() => noted.current?.(i)}
          />
        ))}
      </>
    );
  }, [findings, numbers, still, index, cut, scale, trueScale]);

  const chose = useRef(onSelect);
  chose.current = onSelect;
  const select = useCallback((id: string) => chose.current?.(id), []);

  const drag = (id: string, at: End) => (e: React.PointerEvent) => {
    if (!onResize || !svg.current) return;
    e.preventDefault();
    e.stopPropagation();
    // An entry that is being typed into would not follow the drag.
    (document.activeElement as HTMLElement | null)?.blur();
    const target = e.currentTarget as Element;
    target.setPointerCapture(e.pointerId);
    const startY = e.clientY;
    const start = typeof at === "number" ? (layerOf(cut, id)?.shape?.profile_mm[at] ?? 0) : thickness(id)[at];
    const perPx = VIEW.height / svg.current.getBoundingClientRect().height / scale.pxPerMM;
    const value = (ev: Event) => Math.max(at === "centre" ? 0.1 : 0, Math.round((start + (startY - (ev as PointerEvent).clientY) * perPx) * 20) / 20);
    // A hand moves more often than a screen is drawn, and the page is told when
    // it rests for a moment: its panels cost more than a frame has.
    let frame = 0;
    let rest = 0;
    const move = (ev: Event) => {
      const mm = value(ev);
      cancelAnimationFrame(frame);
      frame = requestAnimationFrame(() => setPull({ id, at, mm }));
      window.clearTimeout(rest);
      rest = window.setTimeout(() => onResize(id, at, mm, false), REST_MS);
    };
    const end = (ev: Event) => {
      cancelAnimationFrame(frame);
      window.clearTimeout(rest);
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
        {around}
        {onResize &&
          bands
            .filter((b, i) => b.id === selected && natureOf(cut.layers[i]) === "body")
            .map((b) => (
              <g key={b.id}>
                <Handle
                  x={centreHandle(layerOf(cut, b.id))}
                  y={b.top(centreHandle(layerOf(cut, b.id)))}
                  label="thickness at the centre"
                  mm={pull?.id === b.id && pull.at === "centre" ? pull.mm : undefined}
                  onPointerDown={drag(b.id, "centre")}
                />
                {inner(layerOf(cut, b.id)).map((k, _, all) => (
                  <Handle
                    key={k}
                    x={shapeX(k, all.length + 1, cut, layerOf(cut, b.id))}
                    y={b.top(shapeX(k, all.length + 1, cut, layerOf(cut, b.id)))}
                    label={`thickness ${k} of ${all.length + 1} parts of the way out`}
                    mm={pull?.id === b.id && pull.at === k ? pull.mm : undefined}
                    onPointerDown={drag(b.id, k)}
                  />
                ))}
                <Handle
                  x={VIEW.edgeX - 6}
                  y={b.top(VIEW.edgeX - 6)}
                  label="thickness at the edge"
                  mm={pull?.id === b.id && pull.at === "edge" ? pull.mm : undefined}
                  onPointerDown={drag(b.id, "edge")}
                />
              </g>
            ))}
      </svg>
    </Box>
  );
}

/** The places between the ends of a shape that is drawn by hand. */
const inner = (l: Layer | undefined) => (l?.shape?.from === "hand" ? Array.from({ length: l.shape.profile_mm.length - 2 }, (_, i) => i + 1) : []);

/** Where a place of a drawn shape stands across the drawing. */
const shapeX = (k: number, steps: number, cut: Cut, l: Layer | undefined) =>
  VIEW.centreX + (k / steps) * (VIEW.edgeX - VIEW.centreX) * ((l?.extent === "centre_only" ? endOf(l, cut) : cut.half_width_mm) / cut.half_width_mm);

/** Where the centre is pulled: out of the way of a drawn shape's next place. */
const centreHandle = (l: Layer | undefined) => VIEW.centreX + (l?.shape?.from === "hand" ? 30 : 90);
