import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { FewWords, Heading, Plain, Refusal } from "../../parts/controls";
import { grams } from "../../parts/format";
import { RoomHead } from "../../parts/Room";
import { Rooms } from "./Rooms";

/** The shelf, lot by lot, to count with a phone in the hand. */
export default function Count() {
  const lots = useRead({ queryKey: ["lots", false], queryFn: () => ask(api.GET("/api/lots", { params: { query: { used_up: false } } })) });
  const [words, setWords] = useState("");
  const shown = (lots.data ?? []).filter((l) => `${l.code} ${l.material_name} ${l.shelf}`.toLowerCase().includes(words.toLowerCase()));
  const shelves = [...new Set(shown.map((l) => l.shelf))].sort();
  return (
    <Box maxW="720px">
      <RoomHead title="Count" aside="what really stands there" acts={<Rooms />} />
      <Flex gap="12px" mb="12px" wrap="wrap" align="center">
        <Input
          h="48px"
          flex="1 1 200px"
          px="14px"
          bg="sheet"
          borderColor="line"
          placeholder="scan a label, or type"
          aria-label="Find a lot"
          value={words}
          onChange={(e) => setWords(e.target.value.includes("/") ? (e.target.value.split("/").pop() ?? "") : e.target.value)}
        />
        <a href="/api/stock/count-list.pdf">List on paper</a>
        <a href="/api/stock/labels.pdf">Shelf labels</a>
      </Flex>
      {shelves.map((s) => (
        <Box key={s} mb="16px">
          <Heading>{s || "no place noted"}</Heading>
          {shown
            .filter((l) => l.shelf === s)
            .map((l) => (
              <OneLot key={l.code + l.part} l={l} />
            ))}
        </Box>
      ))}
      {lots.data && shown.length === 0 && <Box color="muted">No lot has these words on it.</Box>}
    </Box>
  );
}

function OneLot({ l }: { l: Schemas["StoresLot"] }) {
  const [amount, setAmount] = useState("");
  const [note, setNote] = useState("");
  const [done, setDone] = useState("");
  const count = useAct(async () => {
    await ask(
      api.POST("/api/lots/{code}/count", {
        params: { path: { code: l.code } },
        body: { part: l.part as "" | "A" | "B", amount, note: note || undefined },
      }),
    );
    setDone(amount);
    setAmount("");
    setNote("");
  });
  const why = count.problem?.field === "note";
  return (
    <Box py="8px" borderBottomWidth="1px" borderColor="line">
      <Flex gap="10px" align="center" wrap="wrap">
        <Box flex="1 1 170px" lineHeight="1.2">
          <b>
            {l.code} {l.part}
          </b>
          <Box>{l.material_name}</Box>
          <Box layerStyle="small">
            the books say {grams(l.on_hand_g)}
            {l.refused && `, ${l.refused}`}
          </Box>
        </Box>
        <Input
          h="48px"
          w="120px"
          px="12px"
          bg="sheet"
          borderColor="line"
          inputMode="decimal"
          placeholder="412 g"
          aria-label={`Found of ${l.code} ${l.part}`}
          value={amount}
          onChange={(e) => setAmount(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && amount.trim() && void count.run()}
        />
        <Plain h="48px" disabled={count.busy || !amount.trim()} onClick={() => void count.run()}>
          Counted
        </Plain>
      </Flex>
      {why && <FewWords label="Why the difference" placeholder="spilt, weighed with the can" value={note} set={setNote} max={200} />}
      {done && !amount && (
        <Box color="yew" fontSize="15px">
          counted: {done}
        </Box>
      )}
      <Refusal problem={count.problem} />
    </Box>
  );
}
