import { Box, Grid } from "@chakra-ui/react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { usePieces } from "../../app/reads";
import { Heading, Teach } from "../../parts/controls";
import { RoomHead, Standing } from "../../parts/Room";

/** Every piece of the room, with how far its texture is. */
export function InClay() {
  const pieces = usePieces();
  const plans = useRead({ queryKey: ["textures"], queryFn: () => ask(api.GET("/api/textures")) });
  if (!pieces.data || !plans.data) return null;
  const planned = new Map(plans.data.map((p) => [p.code, p]));
  const open = (p: Schemas["Piece"]) => p.place === "sculpt" || ((planned.get(p.code)?.ready ?? 7) < 7 && planned.has(p.code));
  const words = (code: string) => {
    const t = planned.get(code);
    if (!t) return "no texture planned yet";
    const parts = [t.number ? `§${t.number}, ${t.ticks} steps done` : "a draft"];
    if (t.number && t.drafts) parts.push("a draft on it");
    if (t.ready) parts.push(t.ready >= 7 ? "through the gate" : `${t.ready} of 7 looked at`);
    return parts.join(", ");
  };
  const list = (of: Schemas["Piece"][]) => of.map((p) => ({ code: p.code, text: p.name, to: `/sculpt/${p.code}`, note: words(p.code) }));
  return (
    <Box>
      <RoomHead title="Sculpt" aside="textures planned, pressed and ticked; clay, trial paint, and the gate to the mould" />
      {pieces.data.length === 0 && <Teach>Begin a piece with 1. When its form stands, its texture is planned here and ticked row by row.</Teach>}
      <Grid templateColumns="repeat(auto-fill, minmax(350px, 1fr))" gap="18px 34px">
        <Box>
          <Heading>In the clay now</Heading>
          <Standing empty={<Box color="muted">No piece stands here now.</Box>} items={list(pieces.data.filter(open))} />
        </Box>
        <Box>
          <Heading>Elsewhere on the round</Heading>
          <Standing empty={null} items={list(pieces.data.filter((p) => !open(p)))} />
        </Box>
      </Grid>
    </Box>
  );
}
