import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask, type Schemas } from "../../app/api";
import { Equipment } from "../../app/Equipment";
import { useRead } from "../../app/read";
import { useClock } from "../../app/reads";
import { Narrow, Plain, Teach } from "../../parts/controls";
import { grams } from "../../parts/format";
import { Dot } from "../../parts/hatches";
import { columns, RoomHead } from "../../parts/Room";
import { LotPage } from "./LotPage";
import { Receive } from "./Receive";
import { Rooms } from "./Rooms";

/** Lots: what came in, what is on hand, what may be used. */
export default function Stores() {
  const { code } = useParams();
  return code ? <LotPage code={code} key={code} /> : <Shelves />;
}

function Shelves() {
  const [usedUp, setUsedUp] = useState(false);
  const lots = useRead({ queryKey: ["lots", usedUp], queryFn: () => ask(api.GET("/api/lots", { params: { query: { used_up: usedUp } } })) });
  const clock = useClock();
  const [words, setWords] = useState("");
  if (!lots.data || !clock.data) return null;
  const now = new Date(clock.data.now).getTime();
  const shown = lots.data.filter((l) => `${l.code} ${l.material_name} ${l.supplier} ${l.shelf}`.toLowerCase().includes(words.toLowerCase()));
  return (
    <Box>
      <RoomHead
        title="Stores"
        aside={usedUp ? "the newest that are used up" : `${lots.data.length} lots`}
        acts={
          <Flex gap="12px" wrap="wrap" align="center">
            <Rooms />
            <Plain h="38px" aria-pressed={usedUp} onClick={() => setUsedUp(!usedUp)}>
              {usedUp ? "On the shelf" : "Used up"}
            </Plain>
            <Narrow what="lots" value={words} set={setWords} width="220px" />
          </Flex>
        }
      />
      <Grid templateColumns={columns("minmax(0,1fr) 300px")} gap="34px">
        <Box>
          {lots.data.length === 0 && !usedUp && (
            <Teach>
              The shelves are empty. Take the first delivery in on the right; from then on every gram that is weighed is drawn from its lot.
            </Teach>
          )}
          <Box as="table" w="100%">
            <thead>
              <Box as="tr" textAlign="left" layerStyle="small" borderBottomWidth="1.5px" borderColor="ink">
                <th>lot</th>
                <th>material</th>
                <Box as="th" textAlign="right">
                  on hand
                </Box>
                <Box as="th" ps="20px">
                  use by
                </Box>
                <Box as="th" display={{ base: "none", lg: "table-cell" }}>
                  shelf
                </Box>
              </Box>
            </thead>
            <tbody>
              {shown.map((l) => (
                <LotLine key={l.code + l.part} lot={l} now={now} />
              ))}
            </tbody>
          </Box>
        </Box>
        <Box>
          <Receive />
          <Box mt="20px">
            <Equipment />
          </Box>
        </Box>
      </Grid>
    </Box>
  );
}

function LotLine({ lot, now }: { lot: Schemas["StoresLot"]; now: number }) {
  const days = Math.ceil((new Date(lot.expires_on).getTime() - now) / 86_400_000);
  return (
    <Box as="tr" borderBottomWidth="1px" borderColor="line" color={lot.refused ? "muted" : "ink"}>
      <Box as="td" py="5px" whiteSpace="nowrap">
        <Link to={`/stores/${lot.code}`}>
          <b>{lot.code}</b> {lot.part}
        </Link>
      </Box>
      <td>
        <Flex gap="8px" align="center">
          <Dot family={lot.family} size={13} /> {lot.material_name}
        </Flex>
      </td>
      <Box as="td" textAlign="right" fontWeight="600">
        {grams(lot.on_hand_g)}
      </Box>
      <Box as="td" ps="20px" color={lot.refused ? "rust" : days < 30 ? "gorse" : "ink"}>
        {lot.expires_on.slice(0, 10)}
        {lot.refused ? `, ${lot.refused}` : days < 30 ? `, ${days} days` : ""}
      </Box>
      <Box as="td" color="muted" display={{ base: "none", lg: "table-cell" }}>
        {lot.shelf}
      </Box>
    </Box>
  );
}
