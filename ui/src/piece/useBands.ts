import { useState } from "react";
import { useKey } from "../app/keys";
import { cutsOf, type Layer, natureOf, withCut } from "../parts/section/geometry";
import { freshLayer, halves, type KindFacts, layerId, type Product } from "./kinds";
import { asMeasured, type Found, planned } from "./Measured";
import type { Drafted } from "./useSection";

/**
 * The band and the cut in hand, and what is done to them: walking, adding,
 * splitting, moving, thickening, by finger and by key. Every change goes to the
 * section's draft.
 */
export function useBands(section: Drafted) {
  const [selected, setSelected] = useState("skin");
  const [cutAt, setCut] = useState(0);
  const { doc } = section;
  const cuts = doc ? cutsOf(doc) : [];
  const cutIndex = Math.min(cutAt, Math.max(0, cuts.length - 1));
  const cut = cuts[cutIndex];
  const layers = cut?.layers ?? [];
  const at = Math.max(
    0,
    layers.findIndex((l) => l.id === selected),
  );
  const choose = (id: string) => {
    setSelected(id);
    const home = cuts.findIndex((c) => c.layers.some((l) => l.id === id));
    if (home >= 0) setCut(home);
  };
  const walk = (by: number) => setSelected(layers[Math.max(0, Math.min(layers.length - 1, at + by))]?.id ?? "skin");
  const put = (next: Layer[], now = false) => doc && section.change(withCut(doc, cutIndex, { layers: next }), now);
  const replace = (next: Layer, now = false) =>
    put(
      layers.map((l) => (l.id === next.id ? next : l)),
      now,
    );
  const shift = (by: 1 | -1) => {
    const to = at + by;
    if (at === 0 || to < 1 || to >= layers.length) return;
    const next = [...layers];
    [next[at], next[to]] = [next[to], next[at]];
    put(next, true);
  };
  const remove = () => {
    if (at === 0) return;
    setSelected(layers[at - 1].id);
    put(
      layers.filter((_, i) => i !== at),
      true,
    );
  };
  const split = () => {
    const l = layers[at];
    if (!l || at === 0) return;
    const twin: Layer = { ...l, id: layerId() };
    const half = halves(l);
    if (!half) return;
    put([...layers.slice(0, at), { ...l, ...half[0] }, { ...twin, ...half[1] }, ...layers.slice(at + 1)], true);
    setSelected(twin.id);
  };
  const add = (p: Product, kind: KindFacts) => {
    const fresh = freshLayer(p, kind, layerId());
    if (fresh.extent === "centre_only" && cut) fresh.stop_mm = Math.min(fresh.stop_mm ?? 0, cut.half_width_mm);
    put([...layers.slice(0, at + 1), fresh, ...layers.slice(at + 1)], true);
    setSelected(fresh.id);
  };
  // The area goes with the thickness where the piece has one cut: then area times
  // mean is the volume that was measured.
  const take = (f: Found) => {
    if (!doc || !cut) return;
    const next = layers.map((l, i) => (i === at ? asMeasured(l, f) : l));
    section.change(withCut(doc, cutIndex, cuts.length === 1 ? { layers: next, area_cm2: f.area_cm2 } : { layers: next }), true);
  };
  const coats = (by: number) => {
    const l = layers[at];
    if (!l || l.kind === "skin") return;
    if (natureOf(l) === "body") replace(planned(l, { centre_mm: Math.max(0.1, Math.round(((l.centre_mm ?? 0) + by * 0.5) * 100) / 100) }));
    else if (l.count !== undefined) replace({ ...l, count: Math.max(1, l.count + by) });
    else if (l.zone_coats?.length) replace({ ...l, zone_coats: l.zone_coats.map((n, i) => (i === 0 ? Math.max(0, n + by) : n)) });
    else if (l.coats) replace({ ...l, coats: Math.max(1, l.coats + by) });
  };
  const changeCut = (by: number) => cuts.length > 1 && setCut((cutIndex + by + cuts.length) % cuts.length);

  useKey("ArrowUp", "walk up the bands", () => walk(1));
  useKey("ArrowDown", "walk down the bands", () => walk(-1));
  useKey("Alt+ArrowUp", "move the band up", () => shift(1));
  useKey("Alt+ArrowDown", "move the band down", () => shift(-1));
  useKey("+", "thicker, one coat more", () => coats(1));
  useKey("-", "thinner, one coat less", () => coats(-1));
  useKey("S", "split the band", split);
  useKey("C", "the next cut", cuts.length > 1 ? () => changeCut(1) : undefined);
  useKey("Delete", "remove the band", remove);

  const layer = layers[at] ?? layers[0];
  /** Where the band in hand stands in the document, as the server names its fields. */
  const path = cutIndex === 0 ? `layers[${at}]` : `more[${cutIndex - 1}].layers[${at}]`;
  return { cuts, cut, cutIndex, setCut, selected, choose, at, layer, layers, path, replace, shift, remove, add, take };
}
