import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../app/api";
import { useRead } from "../app/read";
import { Heading } from "../parts/controls";
import { RoomHead } from "../parts/Room";

type Rule = Schemas["CraftRulesRule"];

const said: Record<string, string> = { never: "never", stop: "stop", warn: "mind", tip: "tip" };
const tone: Record<string, string> = { never: "rust", stop: "rust", warn: "gorse", tip: "yew" };
const places: Record<string, string> = {
  handover: "Hand over",
  colour: "Colour",
  sculpt: "Sculpt",
  mould: "Mould",
  mix: "Mix",
  build: "Build",
  form: "Form",
  plan: "Plan",
  check: "Check",
};

/** Every rule of the craft in plain words, where it is decided, and where somebody overrode it. */
export default function Rules() {
  const rules = useRead({ queryKey: ["rules"], queryFn: () => ask(api.GET("/api/rules")), staleTime: Number.POSITIVE_INFINITY });
  const overrides = useRead({ queryKey: ["rules", "overrides"], queryFn: () => ask(api.GET("/api/rules/overrides")) });
  const [text, setText] = useState("");
  if (!rules.data) return null;
  const hit = (r: Rule) => `${r.id} ${r.text} ${r.group}`.toLowerCase().includes(text.trim().toLowerCase());
  const list = rules.data.filter(hit);
  const groups = [...new Set(list.map((r) => r.group))];
  const waiting = rules.data.filter((r) => r.waiting).length;
  return (
    <Flex direction="column" h="100%" minH="0">
      <RoomHead
        title="The rules"
        aside={`${rules.data.length} rules, ${waiting} wait for their room`}
        acts={
          <Input
            h="36px"
            w="260px"
            px="12px"
            bg="sheet"
            borderColor="line"
            aria-label="Narrow the rules"
            placeholder="narrow: latex, SAF, powder …"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        }
      />
      <Box color="muted" mb="8px" fontSize="14.5px">
        <b>never</b> cannot be signed away, only the facts can change; <b>stop</b> wants a lead's signed reason, which travels to the hand-over sheet;{" "}
        <b>mind</b> and <b>tip</b> are advice. The supplier's data sheet, local codes and licensed professionals have the last word.
      </Box>
      <Box flex="1" minH="0" overflowY="auto" tabIndex={0} role="region" aria-label="All rules" style={{ columns: "2 430px", columnGap: "34px" }}>
        {groups.map((g) => (
          <Box key={g} mb="16px">
            <Heading>{g}</Heading>
            {list
              .filter((r) => r.group === g)
              .map((r) => (
                <Flex key={r.id} gap="10px" py="3px" style={{ breakInside: "avoid" }} data-rule={r.id}>
                  <Box w="62px" fontWeight="600" flexShrink="0">
                    {r.id}
                  </Box>
                  <Box w="44px" color={tone[r.severity]} fontWeight="600" flexShrink="0">
                    {said[r.severity]}
                  </Box>
                  <Box flex="1" lineHeight="1.35">
                    {r.text}
                    {r.waiting && (
                      <Box as="span" color="muted">
                        {" "}
                        Waits for {places[r.decided] ?? r.decided}.
                      </Box>
                    )}
                    {!r.waiting && r.decided !== "section" && (
                      <Box as="span" color="muted">
                        {" "}
                        Decided {{ mould: "in the mould room", form: "in the form room" }[r.decided] ?? `on ${r.decided}`}.
                      </Box>
                    )}
                    {overrides.data
                      ?.filter((o) => o.rule === r.id)
                      .map((o) => (
                        <Box key={o.piece + o.at} fontSize="14px">
                          Overridden on <Link to={`/piece/${o.piece}`}>{o.piece}</Link> §{o.number}: “{o.reason}” ({o.by})
                        </Box>
                      ))}
                  </Box>
                </Flex>
              ))}
          </Box>
        ))}
        {groups.length === 0 && <Box color="muted">No rule speaks of that.</Box>}
      </Box>
    </Flex>
  );
}
