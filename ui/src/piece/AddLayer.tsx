import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";
import { Sheet } from "../app/Sheet";
import { Heading } from "../parts/controls";
import { Dot } from "../parts/hatches";
import type { KindFacts, Product } from "./kinds";

interface Props {
  products: Product[];
  kinds: KindFacts[];
  pick: (p: Product, k: KindFacts) => void;
  close: () => void;
}

/** Picks what to put on next: kinds in the order they usually lie, narrowed by typing. */
export function AddLayer({ products, kinds, pick, close }: Props) {
  const [text, setText] = useState("");
  const hit = (p: Product, k: KindFacts) => `${k.text} ${p.name}`.toLowerCase().includes(text.trim().toLowerCase());
  const rows = kinds
    .map((k) => ({ kind: k, fit: products.filter((p) => k.families?.includes(p.family) && hit(p, k)) }))
    .filter((r) => r.fit.length > 0);
  const first = rows[0];
  return (
    <Sheet label="Add a layer" close={close} width="980px">
      <Heading aside="it goes on above the chosen band">Add a layer</Heading>
      <Input
        autoFocus
        h="38px"
        px="12px"
        bg="sheet"
        borderColor="line"
        aria-label="Narrow the list"
        placeholder="type to narrow: wax, powder, sealer …"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && first) pick(first.fit[0], first.kind);
        }}
      />
      <Flex direction="column" gap="7px" mt="10px" maxH="62vh" overflowY="auto" pe="6px">
        {rows.map(({ kind, fit }) => (
          <Flex key={kind.kind} gap="12px" align="start">
            <Box w="138px" pt="5px" layerStyle="note" flexShrink="0">
              {kind.text}
            </Box>
            <Flex wrap="wrap" gap="6px" flex="1">
              {fit.map((p) => (
                <Flex
                  as="button"
                  key={p.slug}
                  data-pick={p.slug}
                  align="center"
                  gap="7px"
                  px="10px"
                  py="4px"
                  fontSize="14.5px"
                  bg="sheet"
                  borderWidth="1.5px"
                  borderColor="line"
                  borderRadius="3px 14px 14px 3px"
                  _hover={{ borderColor: "ink" }}
                  onClick={() => pick(p, kind)}
                >
                  <Dot family={p.family} />
                  {p.name}
                </Flex>
              ))}
            </Flex>
          </Flex>
        ))}
        {rows.length === 0 && <Box color="muted">Nothing on the shelf is called that.</Box>}
      </Flex>
    </Sheet>
  );
}
