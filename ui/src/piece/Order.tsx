import { Box, Flex } from "@chakra-ui/react";
import type { Schemas } from "../app/api";
import { Heading } from "../parts/controls";
import { duration } from "../parts/format";

type Step = Schemas["CraftSectionStep"];

/** The order of work: what, why it stands here, how long, and what goes wrong the other way round. */
export function Order({ steps, cautions, show }: { steps: Step[]; cautions: Schemas["CraftRulesFinding"][]; show: (layer: string) => void }) {
  if (steps.length === 0) return <Box color="muted">As soon as there are layers, the work stands here in its order.</Box>;
  return (
    <Box>
      {(["bench", "chair"] as const).map((where) => {
        const list = steps.map((s, i) => ({ ...s, n: i + 1 })).filter((s) => s.where === where);
        if (list.length === 0) return null;
        const hands = list.reduce((sum, s) => sum + s.hands_s, 0);
        return (
          <Box key={where} mb="14px">
            <Heading aside={`hands ${duration(hands)}`}>{where === "bench" ? "At the bench" : "At the chair"}</Heading>
            {list.map((s) => (
              <Flex key={s.n} gap="10px" py="4px" borderBottomWidth="1px" borderColor="line" data-step={s.act}>
                <Box w="22px" fontWeight="700" textAlign="right">
                  {s.n}
                </Box>
                <Box flex="1" lineHeight="1.35">
                  {s.layers?.[0] ? (
                    <Box as="button" textAlign="left" onClick={() => show(s.layers?.[0] ?? "")}>
                      {s.text}
                    </Box>
                  ) : (
                    s.text
                  )}
                  {s.why && <Box layerStyle="small">Here because {s.why}.</Box>}
                  {s.swap && <Box layerStyle="small">The other way round: {s.swap}</Box>}
                  {s.cautions?.map((c) => (
                    <Box key={c} color="gorse" fontSize="13.5px">
                      {c}
                    </Box>
                  ))}
                </Box>
                <Box w="66px" textAlign="right" fontSize="13.5px" color="muted">
                  {duration(s.hands_s)}
                  {s.wait_s > 0 && <Box>+ {duration(s.wait_s)}</Box>}
                </Box>
              </Flex>
            ))}
          </Box>
        );
      })}
      {cautions.length > 0 && (
        <Box>
          <Heading>Mind, while making it</Heading>
          {cautions.map((c) => (
            <Box key={c.id} fontSize="14px" py="2px">
              {c.reason}{" "}
              <Box as="span" color="muted">
                {c.remedy} ({c.id})
              </Box>
            </Box>
          ))}
        </Box>
      )}
      <Box layerStyle="small" mt="8px">
        Hands and waits are estimates: closed forms and figures of ours, until the shop's own log replaces them.
      </Box>
    </Box>
  );
}
