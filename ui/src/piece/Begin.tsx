import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../app/api";
import { useMethods, usePieces } from "../app/reads";
import { Sheet } from "../app/Sheet";
import { Choose, Heading, Plain } from "../parts/controls";
import { Dot } from "../parts/hatches";
import { Amount } from "./entries";

export type From = Omit<Schemas["PieceBeginning"], "base" | "step">;

/** Begins a section: from a house method, or from what another piece is made of. */
export function Begin({
  code,
  chosen,
  heightMM,
  begin,
  close,
}: {
  code: string;
  chosen?: string;
  heightMM: number;
  begin: (from: From) => void;
  close: () => void;
}) {
  const methods = useMethods();
  const pieces = usePieces();
  const [height, setHeight] = useState(heightMM);
  const [piece, setPiece] = useState("");
  const others = (pieces.data ?? []).filter((p) => p.code !== code && p.section_number > 0);
  return (
    <Sheet label="Begin the section" close={close} width="900px">
      <Heading aside="what stands there is one step back">Begin from a house method</Heading>
      <Flex gap="10px" align="end" mb="8px">
        <Box w="170px">
          <Amount label="Height at the centre" kind="length" value={height} unit="mm" name="height_mm" set={setHeight} />
        </Box>
        <Box color="muted" pb="9px" fontSize="14px">
          {chosen ? "The method chosen in the brief is marked." : "No method is chosen in the brief yet."}{" "}
          <Link to={`/brief/${code}?leaf=Method`}>The advice</Link>
        </Box>
      </Flex>
      <Grid templateColumns="1fr 1fr" gap="6px 16px" maxH="46vh" overflowY="auto" pe="6px">
        {(methods.data ?? []).map((m) => (
          <Flex
            as="button"
            key={m.slug}
            data-method={m.slug}
            gap="9px"
            align="start"
            textAlign="left"
            p="7px 12px"
            bg="sheet"
            borderWidth="1.5px"
            borderColor={m.slug === chosen ? "heather" : "line"}
            borderRadius="3px 14px 14px 3px"
            _hover={{ borderColor: "ink" }}
            onClick={() => begin({ method: m.slug, height_mm: height })}
          >
            <Box pt="3px">
              <Dot family={m.family} />
            </Box>
            <Box lineHeight="1.3">
              <b>{m.name}</b>
              {m.slug === chosen && ", chosen"}
              <Box layerStyle="small">{m.text}</Box>
            </Box>
          </Flex>
        ))}
      </Grid>
      {others.length > 0 && (
        <Box mt="14px">
          <Heading>Or from another piece</Heading>
          <Flex gap="10px" align="end">
            <Box w="380px">
              <Choose label="Piece, as it was last agreed" name="piece" value={piece} set={setPiece}>
                <option value="">choose one</option>
                {others.map((p) => (
                  <option key={p.code} value={p.code}>
                    {p.code} · {p.name}
                  </option>
                ))}
              </Choose>
            </Box>
            <Plain disabled={!piece} onClick={() => begin({ piece })}>
              Copy it on to this size
            </Plain>
          </Flex>
        </Box>
      )}
    </Sheet>
  );
}
