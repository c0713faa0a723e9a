import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../app/act";
import { api, ask, type Schemas } from "../app/api";
import { useRead } from "../app/read";
import { useMe } from "../app/reads";
import { FewWords, Heading, Plain, Refusal } from "../parts/controls";

type Proposal = Schemas["CheckProposal"];

/** What faults asked to be changed here, until somebody agrees or declines. */
export function Proposals({ to, code }: { to?: "recipe" | "mould"; code: string }) {
  const list = useRead({
    queryKey: ["proposals", to ?? "piece", code],
    queryFn: () => ask(api.GET("/api/fault-proposals", { params: { query: { to, code } } })),
  });
  if (!list.data || list.data.length === 0) return null;
  return (
    <Box mb="16px" data-testid="proposals">
      <Heading>Asked by faults</Heading>
      {list.data.map((p) => (
        <One key={p.id} p={p} />
      ))}
    </Box>
  );
}

/** What stands on the piece's page without being its section. */
const toWords: Partial<Record<Proposal["goes_to"], string>> = { plan: "for the plan", stores: "for the stores", hand: "for whoever does it" };

function One({ p }: { p: Proposal }) {
  const me = useMe().data?.person;
  const [reason, setReason] = useState("");
  const settle = useAct((agree: boolean) =>
    ask(api.POST("/api/fault-proposals/{id}/settle", { params: { path: { id: p.id } }, body: { agree, reason } })),
  );
  return (
    <Box py="5px" borderBottomWidth="1px" borderColor="line" data-proposal={p.id}>
      <Box>
        <b>{p.text}</b>{" "}
        <Box as="span" color="muted">
          {toWords[p.goes_to] && `${toWords[p.goes_to]}, `}after{" "}
          <Link to={`/check/${p.copy}?leaf=Faults`} style={{ textDecoration: "underline" }}>
            {p.name} on {p.copy}
          </Link>
          , proposed by {p.who}
        </Box>
        {p.state !== "proposed" && (
          <>
            {": "}
            <b>{p.state}</b> by {p.settled_by} {p.reason}
          </>
        )}
      </Box>
      {p.state === "proposed" && me?.role !== "apprentice" && (
        <Flex gap="8px" mt="4px" wrap="wrap">
          <Plain h="34px" disabled={settle.busy} onClick={() => void settle.run(true)}>
            Agree
          </Plain>
          <FewWords label="Why not" placeholder="why not" value={reason} set={setReason} grow="0 1 220px" />
          <Plain h="34px" disabled={settle.busy || !reason.trim()} onClick={() => void settle.run(false)}>
            Decline
          </Plain>
        </Flex>
      )}
      <Refusal problem={settle.problem} />
    </Box>
  );
}
