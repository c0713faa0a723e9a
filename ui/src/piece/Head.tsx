import { Box, Flex } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "../app/api";
import { useKey } from "../app/keys";
import { Cap, Plain } from "../parts/controls";
import { Tag } from "../parts/Tag";
import type { Drafted } from "./useSection";

interface Props {
  piece: Schemas["Piece"];
  section: Drafted;
  add: () => void;
  begin: () => void;
  trueScale: boolean;
  setTrueScale: (on: boolean) => void;
  log: boolean;
  setLog: (on: boolean) => void;
}

/** Whose section this is, how its draft stands, and how it is looked at. */
export function Head({ piece, section, add, begin, trueScale, setTrueScale, log, setLog }: Props) {
  const { state, waiting } = section;
  const code = piece.code;
  useKey("A", "add a layer", add);
  useKey("T", "true scale", () => setTrueScale(!trueScale));
  useKey("L", "step log", () => setLog(!log));
  return (
    <Flex align="center" gap="12px" mb="6px" wrap={{ base: "wrap", lg: "nowrap" }}>
      <Tag code={code} />
      <Box as="h1" fontSize="23px" fontWeight="700" whiteSpace={{ lg: "nowrap" }}>
        {piece.name}
      </Box>
      <Box color="muted" flex={{ base: "1 0 100%", lg: "1" }} whiteSpace="nowrap" overflow="hidden" textOverflow="ellipsis">
        <Link to={`/brief/${code}`}>{piece.character_name}</Link> ·{" "}
        {state?.drafted
          ? `draft on §${state.base}, ${waiting ? "not saved yet" : "saved"}`
          : state?.latest
            ? `${code} §${state.latest}, agreed by ${state.agreed_by}`
            : "nothing agreed yet"}
      </Box>
      <Plain h="34px" px="13px" onClick={add}>
        <Cap>A</Cap> add a layer
      </Plain>
      <Plain h="34px" px="13px" onClick={begin}>
        begin from
      </Plain>
      <Plain h="34px" px="13px" aria-pressed={trueScale} onClick={() => setTrueScale(!trueScale)}>
        <Cap>T</Cap> true scale
      </Plain>
      <Plain h="34px" px="13px" aria-pressed={log} onClick={() => setLog(!log)}>
        <Cap>L</Cap> log
      </Plain>
    </Flex>
  );
}
