import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading, Plain, Refusal } from "../../parts/controls";
import { grams } from "../../parts/format";
import { Tag } from "../../parts/Tag";

/** What goes with a kit off the shelf: one tap draws from its lot what the sections say that the copies take. */
export function FromTheShelf({ code }: { code: string }) {
  const lots = useRead({ queryKey: ["kit lots", code], queryFn: () => ask(api.GET("/api/kits/{code}/lots", { params: { path: { code } } })) });
  if (!lots.data?.length) return null;
  return (
    <Box mb="18px">
      <Heading>Off the shelf</Heading>
      {lots.data.map((l) => (
        <OneLot key={l.lot + l.part} kit={code} l={l} />
      ))}
    </Box>
  );
}

function OneLot({ kit, l }: { kit: string; l: Schemas["StoresKitLot"] }) {
  const [amount, setAmount] = useState(l.need_g > 0 ? `${Math.max(0.1, Math.round(l.need_g * 10) / 10)} g` : "");
  const take = useAct(() =>
    ask(api.POST("/api/kits/{code}/lots", { params: { path: { code: kit } }, body: { lot: l.lot, part: l.part as "" | "A" | "B", amount } })),
  );
  return (
    <Box py="4px" borderBottomWidth="1px" borderColor="line">
      <Flex gap="10px" align="center" wrap="wrap">
        <Tag code={l.lot} to={`/stores/${l.lot}`} />
        <Box flex="1" minW="120px">
          {l.name}
          {l.refused && <Box color="rust">{l.refused}</Box>}
        </Box>
        {l.taken_g > 0 ? (
          <Box fontWeight="600">{grams(l.taken_g)} taken</Box>
        ) : (
          !l.refused && (
            <>
              <Input
                h="38px"
                w="92px"
                px="10px"
                bg="sheet"
                borderColor="line"
                placeholder="5 g"
                aria-label={`How much of ${l.name}`}
                value={amount}
                onChange={(e) => setAmount(e.target.value)}
              />
              <Plain h="38px" disabled={take.busy || !amount.trim()} onClick={() => void take.run()}>
                Take it
              </Plain>
            </>
          )
        )}
      </Flex>
      <Refusal problem={take.problem} />
    </Box>
  );
}
