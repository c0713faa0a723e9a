import { Box, Flex } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { Heading } from "../../parts/controls";
import { Notice } from "../../parts/Notice";
import { Tag } from "../../parts/Tag";

/** What the sheet says of each copy; the artist's page and the kit show the same. */
export function CopySheets({ copies, cautions }: { copies: Schemas["HandoverCopySheet"][]; cautions: string[] }) {
  return (
    <Flex direction="column" gap="18px">
      {cautions.length > 0 && (
        <Notice>
          {cautions.map((c) => (
            <Box key={c}>{c}</Box>
          ))}
          <Box layerStyle="small">The safety data sheets, local rules and licensed professionals have the last word.</Box>
        </Notice>
      )}
      {copies.map((c) => (
        <Box key={c.code}>
          <Flex gap="12px" align="center" mb="6px">
            <Tag code={c.code} />
            <b>{c.name}</b>
            <Box color="muted">{c.where}</Box>
          </Flex>
          {c.as ? (
            <Box>Made, put on, coloured and taken off as {c.as}.</Box>
          ) : (
            <>
              <Heading>Putting it on</Heading>
              <Steps list={c.order} />
              <Heading>Taking it off</Heading>
              <Steps list={c.removal} />
              {c.touch_ups.length > 0 && <Heading>Touch-up colours</Heading>}
              {c.touch_ups.map((t) => (
                <Flex key={t.name} gap="10px" align="center" py="2px">
                  <Box w="44px" h="22px" bg={t.hex} borderWidth="1px" borderColor="ink" />
                  {t.name}, {t.medium.toLowerCase()}
                  <Box color="muted">{t.place}</Box>
                </Flex>
              ))}
            </>
          )}
          <details>
            <summary>What it is made of</summary>
            {!c.as && c.layers.map((l) => <Box key={l}>{l}</Box>)}
            <Box color="muted" mt="4px">
              Lots: {c.lots.join(", ")}
            </Box>
          </details>
          {c.signed.map((s) => (
            <Box key={s} color="gorse">
              Signed by a lead: {s}
            </Box>
          ))}
        </Box>
      ))}
    </Flex>
  );
}

function Steps({ list }: { list: string[] }) {
  return (
    <Box as="ol" ps="20px" mb="8px" listStyleType="decimal">
      {list.map((s) => (
        <li key={s}>{s}</li>
      ))}
    </Box>
  );
}
