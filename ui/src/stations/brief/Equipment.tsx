import { Box, Flex } from "@chakra-ui/react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMe } from "../../app/reads";
import { Refusal } from "../../parts/controls";

/** What the shop has: what a method needs and is not here is a stop. */
export function Equipment() {
  const list = useRead({ queryKey: ["equipment"], queryFn: () => ask(api.GET("/api/equipment")) });
  const me = useMe();
  const act = useAct((m: Schemas["BriefMachine"]) => ask(api.PUT("/api/equipment", { body: m })));
  const may = me.data?.person?.role !== "apprentice";
  return (
    <details>
      <summary>What this shop has</summary>
      <Refusal problem={act.problem} />
      <Flex wrap="wrap" gap="4px 20px" fontSize="14.5px" mt="4px">
        {list.data?.map((m) => (
          <Flex as="label" key={m.name} gap="7px" align="center">
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
    </details>
  );
}
