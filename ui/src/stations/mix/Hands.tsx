import { Box, Flex } from "@chakra-ui/react";
import { Link } from "react-router";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading } from "../../parts/controls";
import { RoomHead } from "../../parts/Room";
import { Tools } from "./Tools";

/** What keeps stuff off fingers and tools, with what that leaves behind, and how they come clean. */
export default function Hands() {
  const guide = useRead({ queryKey: ["hands"], queryFn: () => ask(api.GET("/api/hands")) });
  if (!guide.data) return null;
  const materials = [...new Set(guide.data.keep_off.map((k) => k.material))];
  return (
    <Box>
      <RoomHead title="Hands and tools" aside="what does not stick, and what that costs later" acts={<Link to="/mix">To the bench</Link>} />
      <Tools />
      <Box style={{ columns: "2 420px", columnGap: 34 }}>
        {materials.map((m) => (
          <Box key={m} mb="18px">
            <Heading>What keeps {m} off</Heading>
            {guide.data.keep_off
              .filter((k) => k.material === m)
              .map((k) => (
                <Box key={k.with} py="6px" borderBottomWidth="1px" borderColor="line" style={{ breakInside: "avoid" }}>
                  <Flex gap="8px" align="baseline">
                    <Box flex="1" fontWeight="700">
                      {k.with}
                    </Box>
                    {k.greasy && <Box color="gorse">wipe it off first</Box>}
                  </Flex>
                  <Box>{k.how}.</Box>
                  <Box layerStyle="small">
                    Leaves {k.leaves}. Before glue, film or colour: {k.wipe}.
                  </Box>
                </Box>
              ))}
          </Box>
        ))}
        <Box>
          <Heading>Cleaning</Heading>
          {guide.data.cleaning.map((c) => (
            <Box key={c.medium} py="6px" borderBottomWidth="1px" borderColor="line" style={{ breakInside: "avoid" }}>
              <Flex gap="8px" align="baseline">
                <Box flex="1" fontWeight="700">
                  {c.medium}
                </Box>
                <Box color="muted">{c.minutes} min</Box>
              </Flex>
              <Box>
                {c.with}. Tools: {c.tool}. Cloth: {c.cloth}.
              </Box>
              <Box layerStyle="small">Spoils {c.ruins}.</Box>
            </Box>
          ))}
        </Box>
      </Box>
    </Box>
  );
}
