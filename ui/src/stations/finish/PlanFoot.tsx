import { Box, Flex } from "@chakra-ui/react";
import { Conflict } from "../../parts/Conflict";
import { Heading } from "../../parts/controls";
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
      <Conflict<Plan> problem={draft.problem} settle={draft.settle} say={said} />
    </Box>
  );
}

const said = (p: Plan) => [...p.hair, ...p.inserts, ...p.worn, ...p.weights].map((x) => x.name).join(", ") || "nothing";
