import { Box, Flex } from "@chakra-ui/react";
import { Heading, Plain, Refusal } from "../../parts/controls";
import { DraftFoot } from "../../parts/DraftFoot";
import type { Plan, PlanDraft } from "./bench";

const severity: Record<string, string> = { never: "Never", stop: "Stop", warn: "Look", tip: "Tip" };

/** What a finish plan says of itself, and what is done with the draft: one foot for all of its leaves. */
export function PlanFoot({ draft }: { draft: PlanDraft }) {
  const v = draft.view;
  if (!v) return null;
  const found = v.result?.findings ?? [];
  const nothing = !draft.doc || (Object.values(draft.doc).every((x) => !Array.isArray(x) || x.length === 0) && !draft.doc.age && !draft.doc.follows);
  return (
    <Box mt="16px">
      {v.wrong && (
        <Box fontWeight="700" role="alert" mb="8px">
          {v.wrong.detail}
        </Box>
      )}
      {found.length > 0 && (
        <Box mb="10px">
          <Heading>What speaks up</Heading>
          {found.map((f) => (
            <Box key={`${f.id} ${f.above} ${f.reason}`} py="2px" color={f.severity === "never" || f.severity === "stop" ? "rust" : undefined}>
              <b>{severity[f.severity]}</b> {f.reason}{" "}
              <Box as="span" color="ink">
                {f.remedy}
              </Box>{" "}
              <Box as="span" fontSize="13px" color="muted">
                {f.id}
              </Box>
            </Box>
          ))}
        </Box>
      )}
      <Flex gap="12px" align="center" wrap="wrap">
        <DraftFoot draft={draft} agree="Agree the finish plan" empty={nothing} wrong={!!v.wrong} />
        {v.result && v.result.minutes > 0 && <Box layerStyle="small">about {Math.round(v.result.minutes)} min at the bench for one copy</Box>}
        {v.state.latest > 0 && <Box layerStyle="small">§{v.state.latest} agreed; new copies get its work on their lists</Box>}
      </Flex>
      <Conflict draft={draft} />
    </Box>
  );
}

function Conflict({ draft }: { draft: PlanDraft }) {
  if (!draft.problem) return null;
  const both = draft.problem.status === 409 ? (draft.problem.data as { yours?: Plan; theirs?: Plan; who?: string } | undefined) : undefined;
  const say = (p?: Plan) =>
    [...(p?.hair ?? []), ...(p?.inserts ?? []), ...(p?.worn ?? []), ...(p?.weights ?? [])].map((x) => x.name).join(", ") || "nothing";
  return (
    <Refusal problem={draft.problem}>
      {both?.yours && both.theirs && (
        <>
          <Box fontSize="14px">
            Yours: {say(both.yours)}. The other, {both.who}: {say(both.theirs)}.
          </Box>
          <Flex gap="10px">
            <Plain h="34px" onClick={() => void draft.settle(true)}>
              Keep mine over it
            </Plain>
            <Plain h="34px" onClick={() => void draft.settle(false)}>
              Take the other
            </Plain>
          </Flex>
        </>
      )}
    </Refusal>
  );
}
