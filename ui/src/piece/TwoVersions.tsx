import { Box, Grid } from "@chakra-ui/react";
import type { Schemas } from "../app/api";
import { millimetres } from "../parts/format";
import { cutsOf, type Layer } from "../parts/section/geometry";
import type { Both } from "./useSection";

type Products = Map<string, Schemas["CraftMaterialProduct"]>;

/** The bands in which both sections of a conflict differ, side by side. */
export function TwoVersions({ both, products }: { both: Both; products: Products }) {
  const yours = { layers: cutsOf(both.yours).flatMap((c) => c.layers) };
  const theirs = { layers: cutsOf(both.theirs).flatMap((c) => c.layers) };
  // From the air down to the skin, as the drawing stands.
  const ids = [...new Set([...theirs.layers, ...yours.layers].map((l) => l.id))].reverse();
  const words = (layers: Layer[], id: string) =>
    say(
      layers.find((l) => l.id === id),
      products,
    );
  const differ = ids.filter((id) => words(yours.layers, id) !== words(theirs.layers, id));
  const same = ids.length - differ.length;
  const order = (layers: Layer[]) => layers.filter((l) => ids.includes(l.id)).map((l) => l.id);
  return (
    <Box my="10px" fontSize="14.5px" lineHeight="1.35" data-testid="two-versions">
      <Grid templateColumns="1fr 1fr" columnGap="14px">
        <Box fontWeight="700">Yours</Box>
        <Box fontWeight="700">{both.who ? `The other, ${both.who}` : "The other"}</Box>
        {differ.flatMap((id) =>
          (["yours", "theirs"] as const).map((whose) => (
            <Box key={`${id} ${whose}`} py="4px" borderTopWidth="1px" borderColor="gorse">
              {words((whose === "yours" ? yours : theirs).layers, id)}
            </Box>
          )),
        )}
      </Grid>
      <Box color="muted" mt="4px">
        {same === 1 ? "One band is the same." : `${same} bands are the same.`}
        {differ.length === 0 && order(yours.layers).join() !== order(theirs.layers).join() && " They lie in another order."}
      </Box>
    </Box>
  );
}

/** A band in words: its material and what a hand set on it. */
function say(l: Layer | undefined, products: Products): string {
  if (!l) return "not there";
  if (l.kind === "skin") return "Skin";
  const parts = [products.get(l.material ?? "")?.name ?? l.kind];
  if (l.centre_mm) parts.push(`${millimetres(l.centre_mm)} at the centre`);
  if (l.edge_mm) parts.push(`${millimetres(l.edge_mm)} at the edge`);
  if (l.count) parts.push(`${l.count} of ${l.each_g} g`);
  if (l.hairs_cm2) parts.push(`${l.hairs_cm2} hairs a cm²`);
  if (l.zone_coats?.length) parts.push(`${l.zone_coats.join("–")} coats by zone`);
  else if (l.coats) parts.push(l.coats === 1 ? "1 coat" : `${l.coats} coats`);
  if (l.coat_mm) parts.push(`${millimetres(l.coat_mm)} a coat`);
  if (l.extent && l.extent !== "to_edge") parts.push(l.extent.replaceAll("_", " "));
  if (l.from_mm) parts.push(`from ${millimetres(l.from_mm)}`);
  if (l.fibre) parts.push("with fibre");
  if (l.stretched) parts.push("powdered while stretched");
  for (const said of [l.method, l.role, l.side && `${l.side} only`, l.fit && `laid ${l.fit}`, l.purpose, l.note]) if (said) parts.push(said);
  return parts.join(", ");
}
