import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Plain, Refusal } from "../../parts/controls";
import { dayTime, duration } from "../../parts/format";

type Help = Schemas["BuildHelp"];

/** What a fan, a dryer or the warm box would save a pot of coats, and putting it there. */
export function HelpAlong({ pot }: { pot: Schemas["BuildPot"] }) {
  const [open, setOpen] = useState(false);
  if (pot.kind !== "dry") return null;
  return (
    <Box mt="12px" maxW="640px" data-testid="help-along">
      <Signs pot={pot} />
      {pot.state === "running" && (
        <Box as="button" textDecoration="underline" aria-expanded={open} onClick={() => setOpen(!open)}>
          Help it along
        </Box>
      )}
      {open && pot.state === "running" && <Ways id={pot.id} />}
      {open && pot.state === "running" && <Learned />}
    </Box>
  );
}

const signs = [
  { stage: "touch", text: "It is no longer tacky now" },
  { stage: "dry", text: "It is clear and no longer cold now" },
] as const;

/** What a finger found: the pot's times follow, and the shop learns of its air. */
function Signs({ pot }: { pot: Schemas["BuildPot"] }) {
  const see = useAct((stage: "touch" | "dry") => ask(api.POST("/api/pots/{id}/observe", { params: { path: { id: pot.id } }, body: { stage } })));
  const missing = signs.filter((s) => pot.marks.some((m) => m.stage === s.stage && !m.reached));
  if (missing.length === 0) return null;
  return (
    <Box mb="8px">
      <Flex gap="8px" wrap="wrap">
        {missing.map((s) => (
          <Plain key={s.stage} h="36px" disabled={see.busy} onClick={() => void see.run(s.stage)}>
            {s.text}
          </Plain>
        ))}
      </Flex>
      <Refusal problem={see.problem} />
    </Box>
  );
}

/** What signs of before say of each air, and starting one anew. */
function Learned() {
  const paces = useRead({ queryKey: ["paces"], queryFn: () => ask(api.GET("/api/paces")) });
  const forget = useAct((place: string) => ask(api.POST("/api/paces/forget", { body: { place } })));
  if (!paces.data?.length) return null;
  return (
    <Box mt="8px" layerStyle="small">
      {paces.data.map((p) => (
        <Box key={p.place}>
          {p.words}: {p.times.toFixed(2)} of the book's time ({p.times_low.toFixed(2)} to {p.times_high.toFixed(2)}), from {p.n} signs.{" "}
          <Box as="button" textDecoration="underline" onClick={() => void forget.run(p.place)}>
            Start anew
          </Box>
        </Box>
      ))}
      <Refusal problem={forget.problem} />
    </Box>
  );
}

function Ways({ id }: { id: number }) {
  const path = { params: { path: { id } } };
  const ways = useRead({ queryKey: ["help along", id], queryFn: () => ask(api.GET("/api/pots/{id}/help", path)), refetchInterval: 60_000 });
  const put = useAct((preset: Help["preset"]) => ask(api.POST("/api/pots/{id}/air", { ...path, body: { preset } })));
  return (
    <Box mt="6px">
      {ways.data?.map((w) => (
        <Box key={w.preset} py="6px" borderBottomWidth="1px" borderColor="line" data-air={w.preset}>
          <Flex gap="12px" align="baseline" wrap="wrap">
            <Box flex="1 1 150px" fontWeight={w.now ? 700 : 400}>
              {w.words}
              {w.now && ", as now"}
            </Box>
            {w.refused ? (
              <Box color="rust" flex="2 1 240px">
                {w.refused}
              </Box>
            ) : (
              <>
                <Box>{w.dry_at ? `dry through ${dayTime(w.dry_at)}` : "not dry in sixty days"}</Box>
                <Box color={w.saves_s > 60 ? "yew" : "muted"}>{saves(w)}</Box>
                {!w.now && (
                  <Plain h="34px" px="12px" disabled={put.busy} onClick={() => void put.run(w.preset)}>
                    It stands there now
                  </Plain>
                )}
              </>
            )}
          </Flex>
          {w.limit && !w.refused && <Box layerStyle="small">{w.limit}</Box>}
        </Box>
      ))}
      <Refusal problem={put.problem} />
    </Box>
  );
}

function saves(w: Help): string {
  if (w.now) return "";
  if (Math.abs(w.saves_s) <= 60) return "saves nothing";
  return w.saves_s > 0 ? `${duration(w.saves_s)} sooner` : `${duration(-w.saves_s)} later`;
}
