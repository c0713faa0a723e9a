import { Box, Flex, Grid } from "@chakra-ui/react";
import { Link, useSearchParams } from "react-router";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { usePieces } from "../../app/reads";
import { Heading, Teach } from "../../parts/controls";
import { grams, words } from "../../parts/format";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { Exposures } from "./Exposures";
import { PourSheet } from "./PourSheet";

/** The mixing room: what stands on the bench, and a new pour sheet for a piece or for the shop. */
export default function Mix() {
  const mixes = useRead({ queryKey: ["mixes"], queryFn: () => ask(api.GET("/api/mixes")) });
  const pieces = usePieces();
  const [query] = useSearchParams();
  if (!mixes.data || !pieces.data) return null;
  const open = mixes.data.filter((m) => m.state === "planned" || m.state === "weighing");
  const ended = mixes.data.filter((m) => m.state !== "planned" && m.state !== "weighing");
  const ready = pieces.data.filter((p) => p.section_number > 0);
  const recipe = query.get("recipe") ?? undefined;
  const ml = Number(query.get("ml")) || undefined;
  const piece = ready.find((p) => p.code === query.get("piece"))?.code ?? (recipe ? undefined : ready[0]?.code);
  const whose = (m: (typeof open)[number]) => (m.piece ? `${m.piece}, ${m.piece_name}` : m.material);
  return (
    <Box>
      <RoomHead
        title="Mix"
        aside="from the amount to the pour"
        acts={
          <Flex gap="16px">
            <Link to="/recipes">House recipes</Link>
            <Link to="/hands">Hands and tools</Link>
          </Flex>
        }
      />
      <Grid templateColumns={columns("270px minmax(0,1fr)")} gap="34px">
        <Box order={{ base: 2, lg: 1 }}>
          <Heading>On the bench</Heading>
          <Standing
            empty={<Box color="muted">No mix is open.</Box>}
            items={open.map((m) => ({
              code: m.code,
              text: whose(m),
              to: `/mix/${m.code}`,
              note: m.state === "planned" ? `${grams(m.planned_g)} to weigh` : `${grams(m.weighed_g)} of ${grams(m.planned_g)} in the cup`,
            }))}
          />
          <Box h="20px" />
          <Heading>Before</Heading>
          <Standing
            empty={<Box color="muted">Nothing was mixed yet.</Box>}
            items={ended.slice(0, 7).map((m) => ({
              code: m.code,
              text: m.piece || m.material,
              to: `/mix/${m.code}`,
              note: `${words(m.state)}, ${grams(m.weighed_g)}`,
            }))}
          />
          <Exposures />
        </Box>
        <Box order={{ base: 1, lg: 2 }} minW="0">
          {ready.length === 0 && (
            <Box mb="16px">
              <Teach>
                A sheet for a piece needs its agreed section: draw and agree one, and it stands here filled in. For the shop any house recipe can be
                mixed now: prepared stock, a mould, a trial.
              </Teach>
            </Box>
          )}
          <PourSheet pieces={ready} piece={piece} recipe={recipe} ml={ml} key={`${piece} ${recipe} ${ml}`} />
        </Box>
      </Grid>
    </Box>
  );
}
