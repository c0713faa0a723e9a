import { Box, Flex } from "@chakra-ui/react";
import { Heading, Refusal } from "../parts/controls";
import { useAct } from "./act";
import { api, ask, type Schemas } from "./api";
import { useRead } from "./read";
import { useMe } from "./reads";

const useEquipment = () => useRead({ queryKey: ["equipment"], queryFn: () => ask(api.GET("/api/equipment")) });

/** What the shop has: what a method needs and is not here is a stop. Nothing is here until somebody says so. */
function Ticks() {
  const list = useEquipment();
  const me = useMe();
  const act = useAct((m: Schemas["BriefMachine"]) => ask(api.PUT("/api/equipment", { body: m })));
  const may = me.data?.person?.role !== "apprentice";
  return (
    <>
      <Refusal problem={act.problem} />
      <Flex wrap="wrap" gap="4px 20px" fontSize="14.5px" mt="4px">
        {list.data?.map((m) => (
          <Flex as="label" key={m.name} gap="7px" align="center" minH="28px">
            <input type="checkbox" checked={m.has} disabled={!may} onChange={(e) => void act.run({ ...m, has: e.target.checked })} />
            {m.name}
            {m.note && (
              <Box as="span" color="muted">
                {m.note}
              </Box>
            )}
          </Flex>
        ))}
      </Flex>
    </>
  );
}

/** The same, folded away where it is looked up now and then. */
export function Equipment() {
  return (
    <details>
      <summary>What this shop has</summary>
      <Ticks />
    </details>
  );
}

/** A new shop is asked once what it has; until then no method that needs any of it is offered. */
export function AskEquipment() {
  const list = useEquipment();
  if (!list.data || list.data.some((m) => m.version > 0)) return null;
  return (
    <Box mb="18px" data-testid="ask-equipment">
      <Heading>What does this shop have?</Heading>
      <Box>Tick what is here. A method that needs something else is held back until it is. It stands under Stores afterwards.</Box>
      <Ticks />
    </Box>
  );
}
