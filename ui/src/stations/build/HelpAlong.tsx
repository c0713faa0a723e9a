import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Plain, Refusal } from "../../parts/controls";
import { dayTime, duration } from "../../parts/format";
import { Held } from "./Held";

type Help = Schemas["BuildHelp"];
type Pot = Schemas["BuildPot"];

/** What is seen, felt and weighed of a pot, and what would help it along: other air, another place. */
export function HelpAlong({ pot }: { pot: Pot }) {
  const [open, setOpen] = useState(false);
  if (pot.kind === "mould") return null;
  return (
    <Box mt="12px" maxW="640px" data-testid="help-along">
      <Signs pot={pot} />
      <Box as="button" textDecoration="underline" aria-expanded={open} onClick={() => setOpen(!open)}>
        {pot.place_name ? `It stands in ${pot.place_name}: help it along` : "Help it along, or put it somewhere else"}
      </Box>
      {open && <Ways pot={pot} />}
      {open && pot.kind === "dry" && <Learned />}
    </Box>
  );
}

const signs = [
  { stage: "touch", text: "It is no longer tacky now" },
  { stage: "dry", text: "It is clear and no longer cold now" },
  { stage: "gelled", text: "It is gelled: it springs back" },
] as const;

/** What a finger found, or the scale: the pot's times follow, and the shop learns of its air. */
function Signs({ pot }: { pot: Pot }) {
  const see = useAct((stage: (typeof signs)[number]["stage"]) =>
    ask(api.POST("/api/pots/{id}/observe", { params: { path: { id: pot.id } }, body: { stage } })),
  );
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
        {pot.kind === "dry" && <Weigh id={pot.id} />}
      </Flex>
      <Refusal problem={see.problem} />
    </Box>
  );
}

/** The piece on the scale: what it lost since the first weighing is its water. */
function Weigh({ id }: { id: number }) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const grams = Number(typed.replace(",", "."));
  const keep = useAct(async () => {
    await ask(api.POST("/api/pots/{id}/weigh", { params: { path: { id } }, body: { grams } }));
    setTyped("");
    setOpen(false);
  });
  if (!open)
    return (
      <Plain h="36px" onClick={() => setOpen(true)}>
        Weigh it
      </Plain>
    );
  return (
    <Flex gap="8px" align="end" w="100%">
      <Entry
        label="The piece on what it was weighed on before, g"
        name="grams"
        value={typed}
        set={setTyped}
        problem={keep.problem}
        placeholder="14.2"
      />
      <Plain h="44px" disabled={keep.busy || !(grams > 0)} onClick={() => void keep.run()}>
        Keep the weight
      </Plain>
    </Flex>
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
        <Box key={p.place + p.product}>
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

function Ways({ pot }: { pot: Pot }) {
  const path = { params: { path: { id: pot.id } } };
  const ways = useRead({
    queryKey: ["help along", pot.id],
    queryFn: () => ask(api.GET("/api/pots/{id}/help", path)),
    refetchInterval: 60_000,
  });
  // What was held back is asked for again with a reason.
  const [held, setHeld] = useState<string>();
  const put = useAct(async (way: Help, reason?: string) => {
    setHeld(way.preset ? undefined : (way.place ?? ""));
    if (way.preset === "microwave") await ask(api.POST("/api/pots/{id}/burst", { ...path, body: { seconds: 10 } }));
    else if (way.preset) await ask(api.POST("/api/pots/{id}/air", { ...path, body: { preset: way.preset } }));
    else await ask(api.POST("/api/pots/{id}/place", { ...path, body: { place: way.place ?? "", reason } }));
    setHeld(undefined);
  });
  const again = ways.data?.find((w) => !w.preset && (w.place ?? "") === held);
  return (
    <Box mt="6px">
      {ways.data?.length === 0 && <Box color="muted">Nothing here would help it.</Box>}
      {ways.data?.map((w) => (
        <Box key={`${w.preset}/${w.place}`} py="6px" borderBottomWidth="1px" borderColor="line" data-air={w.preset || undefined} data-place={w.place}>
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
                <Box>
                  {w.untold
                    ? "nobody can tell"
                    : w.ready_at
                      ? `${pot.kind === "dry" ? "dry through" : "ready"} ${dayTime(w.ready_at)}`
                      : "not within sixty days"}
                </Box>
                <Box color={w.saves_s > 60 ? "yew" : "muted"}>{saves(w, pot)}</Box>
                {!w.now && (
                  <Plain h="34px" px="12px" disabled={put.busy} onClick={() => void put.run(w)}>
                    {w.untold ? "It had ten seconds" : "It stands there now"}
                  </Plain>
                )}
              </>
            )}
          </Flex>
          {w.limit && !w.refused && <Box layerStyle="small">{w.limit}</Box>}
          {w.others.length > 0 && (
            <Box layerStyle="small">
              Blows over what stands beside it too:{" "}
              {w.others.map((o) => `${o.label} ${o.saves_s > 0 ? `${duration(o.saves_s)} sooner` : "no sooner"}`).join(", ")}.
            </Box>
          )}
        </Box>
      ))}
      {put.problem?.code === "held_back" && again ? (
        <Box mt="8px">
          <Held why={put.problem.message} early="Move it" all={(reason) => void put.run(again, reason)} busy={put.busy} />
        </Box>
      ) : (
        <Refusal problem={put.problem} />
      )}
    </Box>
  );
}

/** From here on a pot does not come to its time as it stands, s: no difference to that is told. */
const NEVER = 60 * 86_400;

function saves(w: Help, pot: Pot): string {
  if (w.now || w.untold || pot.left_s >= NEVER) return "";
  if (Math.abs(w.saves_s) <= 60) return "saves nothing";
  return w.saves_s > 0 ? `${duration(w.saves_s)} sooner` : `${duration(-w.saves_s)} later`;
}
