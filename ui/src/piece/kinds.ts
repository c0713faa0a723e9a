import type { Schemas } from "../app/api";
import type { Layer } from "../parts/section/geometry";

type Product = Schemas["CraftMaterialProduct"];

/** The kinds of layer as a person picks them, in the order they usually lie. */
export const kinds: { kind: Layer["kind"]; text: string; fits: (family: string) => boolean }[] = [
  { kind: "barrier", text: "Barrier", fits: (f) => f === "barrier" },
  { kind: "adhesive", text: "Adhesive", fits: (f) => f.startsWith("adhesive") },
  { kind: "encapsulator", text: "Encapsulating film", fits: (f) => f === "encapsulator" },
  { kind: "silicone", text: "Silicone body", fits: (f) => f.startsWith("silicone") },
  { kind: "latex", text: "Latex coats", fits: (f) => f === "latex" || f === "latex_paste" },
  { kind: "paint", text: "Colour", fits: (f) => f.startsWith("paint") },
  { kind: "powder", text: "Powder", fits: (f) => f === "powder" },
];

export const kindOf = (family: string) => kinds.find((k) => k.fits(family))?.kind;

/** A layer as it is usually put on, to start from. */
export function freshLayer(product: Product, id: string): Layer | undefined {
  const kind = kindOf(product.family);
  if (!kind) return undefined;
  const base = { id, kind, material: product.slug };
  if (kind === "silicone") return { ...base, centre_mm: 4, edge_mm: 0 };
  const coats = { barrier: 1, adhesive: 2, encapsulator: 2, latex: 3, paint: 3, powder: 1 }[kind as string] ?? 1;
  const layer: Layer = { ...base, coats, coat_mm: product.coat_mm || 0.02 };
  return kind === "paint" ? { ...layer, extent: "past_edge", stop_mm: 12 } : layer;
}

let counter = 0;

/** An id that no other layer of the section has. */
export const layerId = () => `l${Date.now().toString(36)}${(counter++).toString(36)}`;
