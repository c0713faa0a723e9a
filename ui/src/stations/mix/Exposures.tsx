import { Box, Flex } from "@chakra-ui/react";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading } from "../../parts/controls";
import { day } from "../../parts/format";

/** Minutes with fumes and dust of the last days: one's own, or everybody's for a lead. */
export function Exposures() {
  const list = useRead({ queryKey: ["exposures"], queryFn: () => ask(api.GET("/api/exposures", { params: { query: { days: 7 } } })) });
  if (!list.data?.length) return null;
  return (
    <Box mt="20px">
      <Heading>Minutes in fumes and dust</Heading>
      {list.data.map((e) => (
        <Flex key={`${e.person} ${e.what} ${e.day}`} gap="8px" fontSize="15px">
          <Box flex="1">
            {e.person}, {e.what}
          </Box>
          <Box color="muted">{day(e.day)}</Box>
          <Box fontWeight="600" w="64px" textAlign="right">
            {e.open ? "goes on" : `${e.minutes.toFixed(0)} min`}
          </Box>
        </Flex>
      ))}
    </Box>
  );
}
