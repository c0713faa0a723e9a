import { Box, Flex } from "@chakra-ui/react";
import type { Schemas } from "../app/api";
import { Plain } from "../parts/controls";
import { Notice } from "../parts/Notice";
import { type KindFacts, kindsFor, type Product } from "./kinds";

interface Props {
  finding: Schemas["CraftRulesFinding"];
  products: Map<string, Product>;
  kinds: KindFacts[];
  take: (p: Product, k: KindFacts) => void;
  close: () => void;
  message: string;
}

/** A choice that nobody can sign away was refused; what to take instead. */
export function Refused({ finding, products, kinds, take, close, message }: Props) {
  const instead = (finding.instead ?? []).map((slug) => products.get(slug)).filter((p) => p !== undefined);
  return (
    <Notice tone="stop" role="alert" data-refused={finding.id}>
      <Box fontWeight="700" color="rust">
        Refused: never for this wearer
      </Box>
      <Box my="6px">{message}</Box>
      {finding.settles && <Box layerStyle="note">{finding.settles}</Box>}
      <Flex gap="8px" wrap="wrap" mt="8px">
        {instead.map((p) => {
          const kind = kindsFor(p.family, kinds)[0];
          return (
            kind && (
              <Plain key={p.slug} h="36px" data-instead={p.slug} onClick={() => take(p, kind)}>
                Take {p.name.toLowerCase()}
              </Plain>
            )
          );
        })}
        <Plain h="36px" onClick={close}>
          Leave it
        </Plain>
      </Flex>
    </Notice>
  );
}
