import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Heading, Plain } from "../parts/controls";
import { type Kind, MapDesk, useDesk } from "../parts/map/MapDesk";
import { Picture } from "../parts/Picture";
import { Tag } from "../parts/Tag";
import { api, ask, type Schemas } from "./api";
import { useRead } from "./read";
import { usePiece } from "./reads";

/** The pictures of the piece in hand, drawn out beside whatever is being done. The room stays in use. */
export function ReferenceDrawer({ code, close }: { code: string | undefined; close: () => void }) {
  const piece = usePiece(code);
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  // It stands at either side, so that it never covers what is being done.
  const [left, setLeft] = useState(() => localStorage.getItem("yewmoor.drawer") === "left");
  const list = piece.data?.references ?? [];
  const picture = list[Math.min(at, list.length - 1)];
  return (
    <Flex
      as="aside"
      aria-label="Reference"
      className="no-print"
      direction="column"
      w={{ base: "100%", md: "380px" }}
      position="fixed"
      top={{ base: "0", md: "74px" }}
      bottom={{ base: "0", md: "112px" }}
      {...(left ? { left: "0", borderLeftWidth: "0" } : { right: "0", borderRightWidth: "0" })}
      zIndex="30"
      bg="ground"
      borderWidth="1.5px"
      borderColor="ink"
      borderRadius={left ? "0 20px 4px 0" : "20px 0 0 4px"}
      p="14px"
      overflowY="auto"
    >
      <Heading
        aside={
          <Flex gap="12px">
            <Box
              as="button"
              textDecoration="underline"
              onClick={() => {
                localStorage.setItem("yewmoor.drawer", left ? "right" : "left");
                setLeft(!left);
              }}
            >
              to the other side
            </Box>
            <Box as="button" textDecoration="underline" onClick={close}>
              put away
            </Box>
          </Flex>
        }
      >
        Reference
      </Heading>
      {!code && <Box color="muted">Take a piece in hand first: open its page or its place in a room.</Box>}
      {code && list.length === 0 && piece.data && <Box color="muted">Nothing is pinned to {code} yet.</Box>}
      {picture && code && (
        <>
          <Picture picture={picture} height="34vh" />
          <Flex gap="10px" align="center" mt="8px" wrap="wrap">
            <Tag code={code} to={`/piece/${code}`} />
            <Box flex="1" lineHeight="1.25">
              {picture.caption}
              <Box as="span" color="muted">
                {picture.view && `, ${picture.view}`}
                {picture.standing !== "direct" && `, ${picture.standing}`}
              </Box>
            </Box>
          </Flex>
          <Box mt="6px" fontSize="14px">
            {picture.notes.map((n, i) => (
              <Flex key={n.id} gap="8px">
                <b>{i + 1}</b>
                <Box>
                  {n.label}
                  {n.words && `, ${n.words}`}
                </Box>
              </Flex>
            ))}
          </Box>
          {list.length > 1 && (
            <Flex gap="8px" mt="10px">
              <Plain h="34px" onClick={() => setAt((at + list.length - 1) % list.length)}>
                Before
              </Plain>
              <Plain h="34px" onClick={() => setAt((at + 1) % list.length)}>
                Next, {(at % list.length) + 1} of {list.length}
              </Plain>
            </Flex>
          )}
        </>
      )}
      {code && <Where code={code} />}
      {code && (
        <Box mt="10px">
          <Plain h="34px" onClick={() => navigate(`/brief/${code}`)}>
            The brief of {code}
          </Plain>
        </Box>
      )}
    </Flex>
  );
}

/** Where the piece sits, on the wearer's map. */
function Where({ code }: { code: string }) {
  const piece = usePiece(code);
  const brief = useRead({
    queryKey: ["brief", code, ""],
    queryFn: () => ask(api.GET("/api/pieces/{code}/brief", { params: { path: { code } } })),
  });
  const kinds = useRead<Kind[]>({ queryKey: ["map kinds"], queryFn: () => ask(api.GET("/api/map/kinds")), staleTime: Number.POSITIVE_INFINITY });
  const v = brief.data;
  if (!v || !piece.data || !kinds.data || v.doc.marks.length === 0) return null;
  return (
    <Box mt="12px">
      <Heading aside={`${v.map.cm2.toFixed(1)} cm² of skin`}>Where it sits</Heading>
      <Box h="330px">
        <Placed key={code} first={v.doc.marks[0].sheet} code={code} performer={piece.data.performer_id ?? 0} view={v} kinds={kinds.data} />
      </Box>
    </Box>
  );
}

function Placed({
  first,
  code,
  performer,
  view: v,
  kinds,
}: {
  first: string;
  code: string;
  performer: number;
  view: Schemas["BriefView"];
  kinds: Kind[];
}) {
  const desk = useDesk(first);
  const pieces = [{ code, name: "", marks: v.doc.marks }, ...v.others];
  return (
    <MapDesk
      desk={desk}
      performer={performer}
      stamps={v.stamps}
      pieces={pieces}
      look={v.look_marks}
      wearer={v.wearer_marks}
      areas={v.map.areas}
      openings={v.map.openings}
      kinds={kinds}
      keys={false}
      title={`Where ${code} sits`}
    />
  );
}
