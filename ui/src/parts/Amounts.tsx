import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../app/act";
import { api, ask, type Schemas } from "../app/api";
import { useRead } from "../app/read";
import { useMe } from "../app/reads";
import { FewWords, Heading, Plain, Refusal } from "./controls";
import { day } from "./format";

type Route = Schemas["SculptBelieving"]["route"];

const named: Record<string, string> = {
  section: "drawn in the section",
  scan: "between the scans",
  clay: "clay before and after",
  water: "water in the mould",
  area: "area × thickness",
  displacement: "what it displaces",
  poured: "really poured",
};

/** All that tells how much a piece takes, side by side with how far each may be off, and which one everything goes by. */
export function Amounts({ code, quiet }: { code: string; quiet?: boolean }) {
  const amounts = useRead({
    queryKey: ["amounts", code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/amounts", { params: { path: { code } } })),
  });
  const me = useMe();
  const [asked, setAsked] = useState<Route>();
  const [reason, setReason] = useState("");
  const believe = useAct(async (route: Route) => {
    await ask(api.PUT("/api/pieces/{code}/amounts", { params: { path: { code } }, body: { route, reason } }));
    setAsked(undefined);
    setReason("");
  });
  const a = amounts.data;
  if (!a || a.voices.length === 0) return null;
  const most = Math.max(...a.voices.map((v) => v.volume_ml + 2 * v.sd_ml));
  const may = me.data?.person?.role !== "apprentice";
  const text = `How much it takes: ${a.volume_ml.toFixed(1)} ml`;
  if (quiet && a.disagree.length === 0)
    return (
      <details>
        <summary>{text}</summary>
        <Amounts code={code} />
      </details>
    );
  return (
    <Box data-amounts={a.believed}>
      <Heading aside={a.disagree.length > 0 ? "they contradict each other" : a.voices.length > 1 ? "within their bands" : undefined}>
        How much it takes
      </Heading>
      {a.voices.map((v) => {
        const on = v.name === a.believed;
        const off = a.disagree.includes(v.name);
        return (
          <Box key={v.name} py="3px">
            <Flex gap="10px" align="baseline">
              <Box flex="1" minW="0" fontWeight={on ? 600 : 400}>
                {named[v.name] ?? v.name}
                {on && (
                  <Box as="span" layerStyle="small">
                    {" "}
                    {a.chosen ? "believed" : "goes by this"}
                  </Box>
                )}
              </Box>
              {!on && may && (
                <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => setAsked(v.name as Route)}>
                  believe it
                </Box>
              )}
              <Box whiteSpace="nowrap" color={off ? "rust" : undefined} fontWeight={on ? 600 : 400}>
                {v.volume_ml.toFixed(1)} ml ± {(2 * v.sd_ml).toFixed(1)}
              </Box>
            </Flex>
            <Box h="10px" position="relative" aria-hidden="true">
              <Box
                position="absolute"
                h="4px"
                top="3px"
                borderRadius="2px"
                bg={off ? "rust" : on ? "yew" : "line"}
                left={`${(100 * Math.max(0, v.volume_ml - 2 * v.sd_ml)) / most}%`}
                right={`${100 - (100 * Math.min(most, v.volume_ml + 2 * v.sd_ml)) / most}%`}
              />
              <Box position="absolute" w="3px" h="10px" bg="ink" left={`${(100 * v.volume_ml) / most}%`} />
            </Box>
          </Box>
        );
      })}
      {a.chosen && (
        <Box layerStyle="small">
          {a.by}, {a.at && day(a.at)}
          {a.reason && `: ${a.reason}`}
        </Box>
      )}
      {asked && (
        <Flex gap="8px" mt="6px" wrap="wrap">
          <FewWords label="Why this one is right" placeholder={`why ${named[asked]} is right`} value={reason} set={setReason} max={300} />
          <Plain h="34px" disabled={believe.busy} onClick={() => void believe.run(asked)}>
            Go by it
          </Plain>
          <Plain h="34px" onClick={() => setAsked(undefined)}>
            Leave it
          </Plain>
        </Flex>
      )}
      <Refusal problem={believe.problem} />
    </Box>
  );
}
