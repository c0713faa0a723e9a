import { Box, Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Tag } from "./Tag";

/** The head of a room: what it is about, and what can be done at once. */
export function RoomHead({ code, to, title, aside, acts }: { code?: string; to?: string; title: string; aside?: ReactNode; acts?: ReactNode }) {
  return (
    <Flex align="center" gap="16px" mb="14px" wrap="wrap">
      {code && <Tag code={code} to={to} />}
      <Box as="h1" fontSize="23px" fontWeight="700">
        {title}
      </Box>
      <Box color="muted" flex={{ base: "1 1 160px", lg: "1" }}>
        {aside}
      </Box>
      {acts}
    </Flex>
  );
}

/** Pieces, copies or kits that stand in a room, as tags to take in hand. */
export function Standing({
  items,
  empty,
}: {
  items: { code: string; text: string; to: string; note?: ReactNode; active?: boolean }[];
  empty: ReactNode;
}) {
  if (items.length === 0) return <>{empty}</>;
  return (
    <Flex direction="column" gap="9px">
      {items.map((i) => (
        <Flex key={i.code} align="center" gap="12px">
          <Tag code={i.code} to={i.to} bg={i.active ? "heatherSoft" : "sheet"} />
          <Box flex="1" minW="0">
            <Box lineHeight="1.2">{i.text}</Box>
            {i.note && (
              <Box layerStyle="small" lineHeight="1.25">
                {i.note}
              </Box>
            )}
          </Box>
        </Flex>
      ))}
    </Flex>
  );
}

/** Fields of a form side by side: two by two where the screen is narrow. */
export const fields = (wide: string) => ({ base: "minmax(0,1fr) minmax(0,1fr)", lg: wide });

/** Columns of a room that stand under one another where the screen is narrow. */
export const columns = (wide: string) => ({ base: "minmax(0,1fr)", lg: wide });
