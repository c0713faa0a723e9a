import { Box, Grid } from "@chakra-ui/react";
import type { Schemas } from "../app/api";
import { millimetres } from "../parts/format";
import type { Layer } from "../parts/section/geometry";
import type { Both } from "./useSection";

type Products = Map<string, Schemas["CraftMaterialProduct"]>;

/** Both sections of a conflict, band for band, with what differs in bold. */
export function TwoVersions({ both, products }: { both: Both; products: Products }) {
  // From the air down to the skin, as the drawing stands.
  const ids = [...new Set([...both.theirs.layers, ...both.yours.layers].map((l) => l.id))].reverse();
  const find = (layers: Layer[], id: string) => layers.find((l) => l.id === id);
  return (
    <Grid templateColumns="1fr 1fr" columnGap="12px" my="10px" fontSize="14px" lineHeight="1.3" data-testid="two-versions">
      <Box fontWeight="600">Yours</Box>
      <Box fontWeight="600">{both.who ? `The other, ${both.who}` : "The other"}</Box>
      {ids.map((id) => {
        const mine = say(find(both.yours.layers, id), products);
        const theirs = say(find(both.theirs.layers, id), products);
        return [mine, theirs].map((words, i) => (
          <Box
            key={`${id}${i ? "t" : "m"}`}
            py="3px"
            borderTopWidth="1px"
            borderColor="line"
            fontWeight={mine === theirs ? 400 : 700}
            color={mine === theirs ? "muted" : "ink"}
          >
            {words}
          </Box>
        ));
      })}
    </Grid>
  );
}

/** A band in words: its material and what a hand set on it. */
export function say(l: Layer | undefined, products: Products): string {
  if (!l) return "not there";
  if (l.kind === "skin") return "Skin";
  const parts = [products.get(l.material ?? "")?.name ?? l.kind];
  if (l.centre_mm) parts.push(`${millimetres(l.centre_mm)} at the centre`);
  if (l.edge_mm) parts.push(`${millimetres(l.edge_mm)} at the edge`);
  if (l.coats) parts.push(l.coats === 1 ? "1 coat" : `${l.coats} coats`);
  if (l.coat_mm) parts.push(`${millimetres(l.coat_mm)} a coat`);
  if (l.extent && l.extent !== "to_edge") parts.push(l.extent.replaceAll("_", " "));
  if (l.fibre) parts.push("with fibre");
  return parts.join(", ");
}
