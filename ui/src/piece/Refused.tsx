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
  const instead = (finding.instead ?? []).flatMap((slug, i) => {
    const p = products.get(slug);
    return p ? [{ p, changes: finding.changes?.[i] }] : [];
  });
  return (
    <Notice tone="stop" role="alert" data-refused={finding.id}>
      <Box fontWeight="700" color="rust">
        Refused: never for this wearer
      </Box>
      <Box my="6px">{message}</Box>
      {finding.settles && <Box layerStyle="note">{finding.settles}</Box>}
      <Flex gap="8px" wrap="wrap" mt="8px" align="baseline">
        {instead.map(({ p, changes }) => {
          const kind = kindsFor(p.family, kinds)[0];
          return (
            kind && (
              <Flex key={p.slug} gap="10px" w="100%" align="baseline" wrap="wrap">
                <Plain h="36px" data-instead={p.slug} onClick={() => take(p, kind)}>
                  Take {p.name.toLowerCase()}
                </Plain>
                {changes && <Box layerStyle="small">{changes}</Box>}
              </Flex>
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
