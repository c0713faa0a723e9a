import { Box, Flex, Grid } from "@chakra-ui/react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { usePiece, usePieces } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Go, Heading, Teach } from "../../parts/controls";
import { RoomHead, Standing } from "../../parts/Room";
import { BriefForm } from "./BriefForm";
import { Days } from "./Days";
import { References } from "./References";
import { Wearer } from "./Wearer";

/** Who wears it, where, how long, how near the camera; the reference pinned. */
export default function Brief() {
  const { code } = useParams();
  return code ? <One code={code} /> : <All />;
}

function All() {
  const pieces = usePieces();
  const navigate = useNavigate();
  const [query] = useSearchParams();
  const only = query.get("character");
  if (!pieces.data) return null;
  const list = pieces.data.filter((p) => !only || p.character_code === only);
  const characters = [...new Map(list.map((p) => [p.character_code, p])).values()];
  return (
    <Box>
      <RoomHead
        title="Briefs"
        aside={`${list.length} pieces, ${characters.length} characters`}
        acts={<Go act={() => navigate("/brief/new")}>Begin a piece</Go>}
      />
      {characters.length === 0 && <Teach>Every piece begins here: say who wears it and where, and it gets its code and tag.</Teach>}
      <Grid templateColumns="repeat(auto-fill, minmax(350px, 1fr))" gap="18px 34px">
        {characters.map((c) => (
          <Box key={c.character_code}>
            <Heading aside={c.performer ?? "no performer yet"}>
              {c.character_code} · {c.character_name}
            </Heading>
            <Standing
              empty={null}
              items={list
                .filter((p) => p.character_code === c.character_code)
                .map((p) => ({
                  code: p.code,
                  text: p.name,
                  to: `/brief/${p.code}`,
                  note: p.brief_number ? `brief §${p.brief_number}, ${p.copies_good} of ${p.copies_wanted} copies good` : "brief not agreed yet",
                }))}
            />
          </Box>
        ))}
      </Grid>
    </Box>
  );
}

function One({ code }: { code: string }) {
  const piece = usePiece(code);
  useInHand(code);
  if (!piece.data) return null;
  const p = piece.data;
  return (
    <Flex direction="column" h="100%" minH="0">
      <RoomHead
        code={code}
        to={`/piece/${code}`}
        title={p.name}
        aside={`${p.production} · ${p.character_name} · ${p.brief_number ? `brief §${p.brief_number} agreed` : "brief not agreed yet"}`}
      />
      <Grid templateColumns="minmax(0,1.05fr) minmax(0,1fr) 310px" gap="28px" flex="1" minH="0">
        <Box minH="0" overflowY="auto">
          <BriefForm code={code} region={p.region} />
        </Box>
        <Flex direction="column" gap="16px" minH="0" overflowY="auto">
          <References piece={p} />
          <Days piece={p} />
        </Flex>
        <Box minH="0" overflowY="auto">
          <Wearer id={p.performer_id} />
        </Box>
      </Grid>
    </Flex>
  );
}
