import type { Schemas } from "../app/api";
import { type Layer, natureOf } from "../parts/section/geometry";

export type Product = Schemas["CraftMaterialProduct"];
export type KindFacts = Schemas["CraftSectionKindFacts"];

/** The kinds of layer that a material can be put on as, the usual one first. */
export const kindsFor = (family: string, kinds: KindFacts[]) => kinds.filter((k) => k.families?.includes(family));

/** What is usual of a film: coats, and how far it reaches. */
const usualCoats: Record<string, number> = { adhesive: 2, encapsulator: 2, latex: 3, paint: 3, seal: 2 };

/** A layer as it is usually put on, to start from. */
export function freshLayer(product: Product, kind: KindFacts, id: string): Layer {
  const base: Layer = { id, kind: kind.kind, material: product.slug };
  switch (kind.nature) {
    case "body":
      return { ...base, centre_mm: 4, edge_mm: 0, method: product.slug === "silicone-direct" ? "direct" : undefined };
    case "things":
      return { ...base, count: 1, each_g: kind.kind === "weight" ? 200 : 2, centre_mm: 4, extent: "centre_only", stop_mm: 8, fitted: "before" };
    case "hair":
      return { ...base, hairs_cm2: 30, length_mm: 40, method: kind.methods?.[0] };
  }
  const layer: Layer = { ...base, coats: usualCoats[kind.kind] ?? 1, coat_mm: product.coat_mm || 0.02 };
  return kind.kind === "paint" ? { ...layer, extent: "past_edge", stop_mm: 12 } : layer;
}

let counter = 0;

/** An id that no other layer of the section has. */
export const layerId = () => `l${Date.now().toString(36)}${(counter++).toString(36)}`;

/** A band in two: a body by its height, a film by its coats. */
export function halves(l: Layer): [Partial<Layer>, Partial<Layer>] | undefined {
  const nature = natureOf(l);
  if (nature === "body") {
    const [c, e] = [(l.centre_mm ?? 0) / 2, (l.edge_mm ?? 0) / 2];
    return c < 0.05
      ? undefined
      : [
          { centre_mm: c, edge_mm: e, measured: undefined },
          { centre_mm: c, edge_mm: e, measured: undefined },
        ];
  }
  const n = nature === "things" ? (l.count ?? 1) : (l.coats ?? 1);
  if (nature === "hair" || n < 2 || l.zone_coats?.length) return undefined;
  const [a, b] = [Math.ceil(n / 2), Math.floor(n / 2)];
  return nature === "things" ? [{ count: a }, { count: b }] : [{ coats: a }, { coats: b }];
}
