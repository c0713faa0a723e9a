import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Heading, Teach } from "../../parts/controls";
import { words } from "../../parts/format";
import { columns } from "../../parts/Room";

type Yielded = Schemas["CheckYielded"];

/** How copies came out, by material and by mould, with how far so few can be believed; and how many to look at. */
export function Yields() {
  const yields = useRead({ queryKey: ["yields"], queryFn: () => ask(api.GET("/api/yields")) });
  if (!yields.data) return null;
  const by = (b: Yielded["by"]) => yields.data.filter((y) => y.by === b);
  if (yields.data.length === 0)
    return <Teach>Nothing was judged yet. As soon as copies are accepted or scrapped, what comes out well stands here.</Teach>;
  return (
    <Grid templateColumns={columns("minmax(0,1fr) minmax(0,1fr)")} gap="36px">
      <Box>
        <Heading aside="and where the truth lies, four times in five">By material</Heading>
        {by("material").map((y) => (
          <Row key={y.of} y={y} name={words(y.of)} />
        ))}
        <Sample />
      </Box>
      <Box>
        <Heading>By mould</Heading>
        {by("mould").map((y) => (
          <Row key={y.of} y={y} name={y.of} />
        ))}
      </Box>
    </Grid>
  );
}

function Row({ y, name }: { y: Yielded; name: string }) {
  const x = (share: number) => `${Math.round(1000 * share) / 10}%`;
  return (
    <Box py="7px" borderBottomWidth="1px" borderColor="line">
      <Flex gap="10px" align="baseline">
        <b>{name}</b>
        <Box color="muted">
          {y.good} of {y.made} good{y.repaired > 0 && `, ${y.repaired} after a repair`}
          {y.less > 0 && `, ${y.less} kept for less`}
          {y.scrapped > 0 && `, ${y.scrapped} scrapped`}
        </Box>
      </Flex>
      <Box
        position="relative"
        h="16px"
        my="4px"
        role="img"
        aria-label={`${name}: ${Math.round(100 * y.mean)} % are good, between ${Math.round(100 * y.low)} and ${Math.round(100 * y.high)} %`}
      >
        <Box position="absolute" top="7px" left="0" right="0" h="2px" bg="line" />
        <Box
          position="absolute"
          top="3px"
          h="10px"
          left={x(y.low)}
          w={x(y.high - y.low)}
          bg="yewSoft"
          borderWidth="1px"
          borderColor="yew"
          borderRadius="full"
        />
        <Box position="absolute" top="0" h="16px" w="4px" ms="-2px" left={x(y.mean)} bg="yew" />
      </Box>
      <Box layerStyle="small">
        {Math.round(100 * y.mean)} %, {Math.round(100 * y.low)} to {Math.round(100 * y.high)} %
        {y.faults.length > 0 && `; seen most: ${y.faults.map((f) => `${f.name} ${f.times} ×${f.cause ? ` (${f.cause})` : ""}`).join(", ")}`}
      </Box>
    </Box>
  );
}

/** Of many small ones not all are looked at. */
function Sample() {
  const [n, setN] = useState("40");
  const [share, setShare] = useState("10");
  const copies = Math.round(Number(n));
  const bad = Number(share) / 100;
  const fits = copies >= 1 && copies <= 100_000 && bad >= 0.0001 && bad <= 1;
  const sample = useRead({
    queryKey: ["samples", copies, bad],
    enabled: fits,
    queryFn: () => ask(api.GET("/api/samples", { params: { query: { copies, bad_share: bad, confidence: 0.95 } } })),
  });
  return (
    <Box mt="22px">
      <Heading>How many to look at</Heading>
      <Flex gap="8px" align="end" wrap="wrap">
        <Entry label="Of so many alike" name="copies" value={n} set={setN} width="130px" />
        <Entry label="if so many in 100 are bad" name="share" value={share} set={setShare} width="170px" />
        {fits && sample.data && (
          <Box pb="8px">
            look at <b>{sample.data.check}</b>: a bad one is then found {Math.round(100 * sample.data.p_find)} times of 100
          </Box>
        )}
      </Flex>
      <Box layerStyle="note">For a close camera look at all of them.</Box>
    </Box>
  );
}
