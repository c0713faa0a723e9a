import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Heading, Plain } from "../parts/controls";
import { Picture } from "../parts/Picture";
import { Tag } from "../parts/Tag";
import { usePiece } from "./reads";

/** The pictures of the piece in hand, drawn out beside whatever is being done. The room stays in use. */
export function ReferenceDrawer({ code, close }: { code: string | undefined; close: () => void }) {
  const piece = usePiece(code);
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
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
      right="0"
      zIndex="30"
      bg="ground"
      borderWidth="1.5px"
      borderColor="ink"
      borderRightWidth="0"
      borderRadius="20px 0 0 4px"
      p="14px"
      overflowY="auto"
    >
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={close}>
            put away
          </Box>
        }
      >
        Reference
      </Heading>
      {!code && <Box color="muted">Take a piece in hand first: open its page or its place in a room.</Box>}
      {code && list.length === 0 && piece.data && <Box color="muted">Nothing is pinned to {code} yet.</Box>}
      {picture && code && (
        <>
          <Picture picture={picture} height="48vh" />
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
