import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Entry, Plain, Refusal } from "../parts/controls";
import { dayTime } from "../parts/format";
import { useAct } from "./act";
import { api, ask } from "./api";
import { useRead } from "./read";

/** After a restore: what came after the backup is asked before anything is recorded. */
export function Restored({ lead }: { lead: boolean }) {
  const query = useRead({ queryKey: ["restored"], queryFn: () => ask(api.GET("/api/restored")), staleTime: 60_000 });
  const [allergies, setAllergies] = useState("");
  const [recalls, setRecalls] = useState("");
  const [erasures, setErasures] = useState("");
  const answer = useAct(() => ask(api.POST("/api/restored", { body: { allergies, recalls, erasures } })));
  const r = query.data;
  if (!r?.asked || !r.made_at) return null;
  return (
    <Box bg="gorseSoft" borderBottomWidth="1.5px" borderColor="ink" px={{ base: "14px", md: "28px" }} py="12px" role="status" data-testid="restored">
      <Box>
        <b>This shop came back from a backup of {dayTime(r.made_at)}.</b> What was recorded after it is not here
        {r.missing > 0 && `, and ${r.missing} ${r.missing === 1 ? "picture was" : "pictures were"} missing from it`}.{" "}
        {lead ? "Say what came after it, and work goes on." : "Nothing is recorded until a lead has said what came after it."}
      </Box>
      {lead && (
        <>
          <Flex gap="12px" wrap="wrap" mt="8px" align="end">
            <Entry
              label="Allergies and limits since then"
              name="allergies"
              value={allergies}
              set={setAllergies}
              problem={answer.problem}
              placeholder="none"
              width="260px"
            />
            <Entry
              label="Recalled or put aside lots"
              name="recalls"
              value={recalls}
              set={setRecalls}
              problem={answer.problem}
              placeholder="none"
              width="260px"
            />
            <Entry
              label="Facts that were erased"
              name="erasures"
              value={erasures}
              set={setErasures}
              problem={answer.problem}
              placeholder="none"
              width="260px"
            />
            <Plain h="40px" disabled={answer.busy} onClick={() => void answer.run()}>
              That is all
            </Plain>
          </Flex>
          <Box layerStyle="small" mt="6px">
            The record keeps the recalls as you write them. It keeps no health facts: of allergies and erasures only that you were asked, so write
            down elsewhere what you type here, and enter it again at once, allergies in the wearer's brief, recalls in Stores. Everybody signs in
            anew, and artists need new links.
          </Box>
          <Refusal problem={answer.problem} />
        </>
      )}
    </Box>
  );
}
