import { Box, Flex } from "@chakra-ui/react";
import type { Schemas } from "../app/api";
import { Sheet } from "../app/Sheet";
import { Heading } from "../parts/controls";
import { Dot } from "../parts/hatches";
import { kinds } from "./kinds";

type Product = Schemas["CraftMaterialProduct"];

/** Picks what to put on next: kinds in the order they usually lie. */
export function AddLayer({ products, pick, close }: { products: Product[]; pick: (p: Product) => void; close: () => void }) {
  return (
    <Sheet label="Add a layer" close={close} width="820px">
      <Heading aside="it goes on above the chosen band">Add a layer</Heading>
      <Flex direction="column" gap="10px">
        {kinds.map((k) => (
          <Flex key={k.kind} gap="12px" align="start">
            <Box w="150px" pt="7px" color="muted">
              {k.text}
            </Box>
            <Flex wrap="wrap" gap="8px" flex="1">
              {products
                .filter((p) => k.fits(p.family))
                .map((p) => (
                  <Flex
                    as="button"
                    key={p.slug}
                    data-pick={p.slug}
                    align="center"
                    gap="8px"
                    px="12px"
                    py="6px"
                    bg="sheet"
                    borderWidth="1.5px"
                    borderColor="line"
                    borderRadius="3px 14px 14px 3px"
                    _hover={{ borderColor: "ink" }}
                    onClick={() => pick(p)}
                  >
                    <Dot family={p.family} />
                    {p.name}
                  </Flex>
                ))}
            </Flex>
          </Flex>
        ))}
      </Flex>
    </Sheet>
  );
}
