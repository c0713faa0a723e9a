import { Box, Flex } from "@chakra-ui/react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { usePieces } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Pick, Teach } from "../../parts/controls";
import { Leaves } from "../../parts/Leaves";
import { Notice } from "../../parts/Notice";
import { RoomHead } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Cards } from "./Cards";
import { useColourRoom, useGreySurround } from "./colours";
import { DayColours } from "./DayColours";
import { Injuries } from "./Injuries";
import { Lights } from "./Lights";
import { Match } from "./Match";
import { Paint } from "./Paint";
import { PaletteLeaf } from "./PaletteLeaf";
import { Pigments } from "./Pigments";
import { Swatches } from "./Swatches";
import { Trials } from "./Trials";

const leaves = ["Match", "Mixed and read", "Paint", "Injuries", "Palette", "For the day", "Swatches", "Cards", "Pigments", "Lights"] as const;
type Leaf = (typeof leaves)[number];

/** What a piece is to look like, and how it comes to look like it; all of it on neutral grey. */
export default function Colour() {
  const { code } = useParams();
  const pieces = usePieces();
  const go = useNavigate();
  const [search, setSearch] = useSearchParams();
  useInHand(code);
  useGreySurround();
  if (!pieces.data) return null;
  const at =
    pieces.data.find((p) => p.code === code) ??
    pieces.data.find((p) => p.place === "colour") ??
    pieces.data.find((p) => p.section_number > 0) ??
    pieces.data[0];
  const leaf = leaves.find((l) => l === search.get("leaf")) ?? "Match";
  const open = (l: Leaf) => setSearch(l === "Match" ? {} : { leaf: l }, { replace: true });
  return (
    <Box>
      <RoomHead
        title="Colour"
        aside="right before it is poured, and right under the set's light"
        acts={
          at && (
            <Flex gap="10px" align="center">
              <Tag code={at.code} to={`/pieces/${at.code}`} />
              <Pick
                label="Piece"
                value={at.code}
                set={(c) => go(`/colour/${c}${leaf === "Match" ? "" : `?leaf=${encodeURIComponent(leaf)}`}`)}
                width="250px"
              >
                {pieces.data.map((p) => (
                  <option key={p.code} value={p.code}>
                    {p.code}, {p.name}
                  </option>
                ))}
              </Pick>
            </Flex>
          )
        }
      />
      {!at ? (
        <Teach>Begin a piece with 1. What it is to look like, its recipe and its paint are worked out here.</Teach>
      ) : (
        <>
          <Leaves of="colour" list={leaves} leaf={leaf} choose={open} />
          <Box pt="14px" key={at.code}>
            <OneLeaf leaf={leaf} piece={at.code} open={open} />
          </Box>
        </>
      )}
    </Box>
  );
}

function OneLeaf({ leaf, piece, open }: { leaf: Leaf; piece: string; open: (l: Leaf) => void }) {
  const room = useColourRoom(piece);
  if (leaf === "Swatches") return <Swatches piece={piece} />;
  if (leaf === "Cards") return <Cards />;
  if (leaf === "Pigments") return <Pigments />;
  if (leaf === "Lights") return <Lights />;
  if (leaf === "For the day") return <DayColours piece={piece} />;
  if (leaf === "Palette") return <PaletteLeaf piece={piece} />;
  if (!room.data) return null;
  return (
    <>
      <Warnings list={room.data.warnings} />
      {leaf === "Match" && <Match piece={piece} room={room.data} taken={() => open("Mixed and read")} />}
      {leaf === "Mixed and read" && <Trials piece={piece} room={room.data} />}
      {leaf === "Paint" && <Paint piece={piece} />}
      {leaf === "Injuries" && <Injuries piece={piece} />}
    </>
  );
}

function Warnings({ list }: { list: { kind: string; text: string }[] }) {
  if (list.length === 0) return null;
  return (
    <Notice mb="12px" data-testid="colour-warnings" role="status">
      {list.map((w) => (
        <Box key={w.text} fontWeight={w.kind === "fails" ? 700 : 400}>
          {w.text}
        </Box>
      ))}
    </Notice>
  );
}
