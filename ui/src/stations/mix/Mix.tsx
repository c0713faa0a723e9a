import { Box, Grid } from "@chakra-ui/react";
import { useSearchParams } from "react-router";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { usePieces } from "../../app/reads";
import { Heading, Teach } from "../../parts/controls";
import { grams } from "../../parts/format";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { PourSheet } from "./PourSheet";

/** The mixing room: what stands on the bench, and a new pour sheet. */
export default function Mix() {
  const mixes = useRead({ queryKey: ["mixes"], queryFn: () => ask(api.GET("/api/mixes")) });
  const pieces = usePieces();
  const [query] = useSearchParams();
  if (!mixes.data || !pieces.data) return null;
  const open = mixes.data.filter((m) => m.state === "planned" || m.state === "weighing");
  const ended = mixes.data.filter((m) => m.state === "poured" || m.state === "abandoned");
  const ready = pieces.data.filter((p) => p.section_number > 0 && p.family.startsWith("silicone"));
  return (
    <Box>
      <RoomHead title="Mix" aside="from the amount to the pour" />
      <Grid templateColumns={columns("300px minmax(0,1fr)")} gap="34px">
        <Box>
          <Heading>On the bench</Heading>
          <Standing
            empty={<Box color="muted">No mix is open.</Box>}
            items={open.map((m) => ({
              code: m.code,
              text: `${m.piece}, ${m.piece_name}`,
              to: `/mix/${m.code}`,
              note: m.state === "planned" ? `${grams(m.planned_g)} to weigh` : `${grams(m.weighed_g)} of ${grams(m.planned_g)} in the cup`,
            }))}
          />
          <Box h="20px" />
          <Heading>Before</Heading>
          <Standing
            empty={<Box color="muted">Nothing was mixed yet.</Box>}
            items={ended.slice(0, 7).map((m) => ({ code: m.code, text: m.piece, to: `/mix/${m.code}`, note: `${m.state}, ${grams(m.weighed_g)}` }))}
          />
        </Box>
        {ready.length === 0 ? (
          <Teach>A pour sheet needs a piece with an agreed section and a silicone body. Draw and agree a section first, then come back.</Teach>
        ) : (
          <PourSheet pieces={ready} piece={ready.find((p) => p.code === query.get("piece"))?.code ?? ready[0].code} key={query.get("piece")} />
        )}
      </Grid>
    </Box>
  );
}
