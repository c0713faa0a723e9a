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

const areaNamed: Record<string, string> = {
  section: "drawn in the section",
  map: "outlined on the wearer's map",
  scan: "under the scanned sculpt",
};

interface Voice {
  name: string;
  value: number;
  sd: number;
}

/** All that tells how much a piece takes and how much skin it covers, and which of it everything goes by. */
export function Amounts({ code, quiet }: { code: string; quiet?: boolean }) {
  const amounts = useRead({
    queryKey: ["amounts", code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/amounts", { params: { path: { code } } })),
  });
  const a = amounts.data;
  if (!a || a.voices.length === 0) return null;
  const apart = a.disagree.length + a.areas.disagree.length > 0;
  const text = `How much it takes: ${a.volume_ml.toFixed(1)} ml on ${a.areas.cm2.toFixed(1)} cm²`;
  if (quiet && !apart)
    return (
      <details>
        <summary>{text}</summary>
        <Amounts code={code} />
      </details>
    );
  return (
    <Flex direction="column" gap="12px">
      <Told
        code={code}
        what="volume"
        title="How much it takes"
        unit="ml"
        named={named}
        voices={a.voices.map((v) => ({ name: v.name, value: v.volume_ml, sd: v.sd_ml }))}
        believed={a.believed}
        chosen={a.chosen}
        disagree={a.disagree}
        why={a.why}
      />
      {a.areas.areas && a.areas.areas.length > 0 && (
        <Told
          code={code}
          what="area"
          title="How much skin it covers"
          unit="cm²"
          named={areaNamed}
          voices={a.areas.areas.map((v) => ({ name: v.name, value: v.cm2, sd: v.sd_cm2 }))}
          believed={a.areas.believed}
          chosen={a.areas.chosen}
          disagree={a.areas.disagree}
          why={a.area_why}
        />
      )}
    </Flex>
  );
}

interface ToldProps {
  code: string;
  what: "volume" | "area";
  title: string;
  unit: string;
  named: Record<string, string>;
  voices: Voice[];
  believed: string;
  chosen: boolean;
  disagree: string[];
  why?: Schemas["SculptChosen"];
}

/** Voices of one figure side by side, with how far each may be off, and which one everything goes by. */
function Told({ code, what, title, unit, named, voices, believed, chosen, disagree, why }: ToldProps) {
  const me = useMe();
  const [asked, setAsked] = useState<Route>();
  const [reason, setReason] = useState("");
  const believe = useAct(async (route: Route) => {
    await ask(api.PUT("/api/pieces/{code}/amounts", { params: { path: { code } }, body: { what, route, reason } }));
    setAsked(undefined);
    setReason("");
  });
  const most = Math.max(...voices.map((v) => v.value + 2 * v.sd));
  const may = me.data?.person?.role !== "apprentice";
  return (
    <Box data-amounts={believed}>
      <Heading aside={disagree.length > 0 ? "they contradict each other" : voices.length > 1 ? "within their bands" : undefined}>{title}</Heading>
      {voices.map((v) => {
        const on = v.name === believed;
        const off = disagree.includes(v.name);
        return (
          <Box key={v.name} py="3px">
            <Flex gap="10px" align="baseline">
              <Box flex="1" minW="0" fontWeight={on ? 600 : 400}>
                {named[v.name] ?? v.name}
                {on && (
                  <Box as="span" layerStyle="small">
                    {" "}
                    {chosen ? "believed" : "goes by this"}
                  </Box>
                )}
              </Box>
              {!on && may && (
                <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => setAsked(v.name as Route)}>
                  believe it
                </Box>
              )}
              <Box whiteSpace="nowrap" color={off ? "rust" : undefined} fontWeight={on ? 600 : 400}>
                {v.value.toFixed(1)} {unit} ± {(2 * v.sd).toFixed(1)}
              </Box>
            </Flex>
            <Box h="10px" position="relative" aria-hidden="true">
              <Box
                position="absolute"
                h="4px"
                top="3px"
                borderRadius="2px"
                bg={off ? "rust" : on ? "yew" : "line"}
                left={`${(100 * Math.max(0, v.value - 2 * v.sd)) / most}%`}
                right={`${100 - (100 * Math.min(most, v.value + 2 * v.sd)) / most}%`}
              />
              <Box position="absolute" w="3px" h="10px" bg="ink" left={`${(100 * v.value) / most}%`} />
            </Box>
          </Box>
        );
      })}
      {why && (
        <Box layerStyle="small">
          {why.who}, {day(why.at)}
          {why.reason && `: ${why.reason}`}
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
