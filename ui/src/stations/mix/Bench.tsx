import { Box, Flex, Grid, Input } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Problem, type Schemas } from "../../app/api";
import { useKey } from "../../app/keys";
import { outbox, useWaiting } from "../../app/outbox";
import { useRead } from "../../app/read";
import { useMe } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { useScale } from "../../app/useScale";
import { Cap, Go, Heading, Plain, Refusal, WrongAt } from "../../parts/controls";
import { grams } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { columns } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Cup } from "./Cup";
import { PourInto } from "./PourInto";
import { ScaleStandIn } from "./ScaleStandIn";
import { Weighing, Working } from "./Weighing";

type View = Schemas["MixView"];

/** A mix on the bench: one number at a time, read from two metres. */
export default function Bench() {
  const { code = "" } = useParams();
  const params = { params: { path: { code } } };
  const query = useRead({ queryKey: ["mix", code], queryFn: () => ask(api.GET("/api/mixes/{code}", params)), refetchInterval: 20_000 });
  const info = useRead({ queryKey: ["scale"], queryFn: () => ask(api.GET("/api/scale")), staleTime: 60_000 });
  const { reading, lost, stillS } = useScale();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [wide, setWide] = useState(false);
  const [typed, setTyped] = useState("");
  const [key, setKey] = useState(() => crypto.randomUUID());
  const mix = query.data;
  const me = useMe();
  const person = me.data?.person?.id ?? 0;
  const waiting = useWaiting(person).filter((w) => w.about.startsWith(`${code}/`) && !w.refused);
  const waits = (seq: number) => waiting.find((w) => w.about === `${code}/${seq}`);
  useInHand(mix?.piece);
  useEffect(
    () =>
      outbox.onAnswer((w, answer) => {
        if (w.about.startsWith(`${code}/`) && answer) queries.setQueryData(["mix", code], answer as View);
      }),
    [code, queries],
  );

  const begin = useAct(() => ask(api.POST("/api/mixes/{code}/begin", params)));
  const tare = useAct(() => ask(api.POST("/api/mixes/{code}/tare", params)));
  const weigh = useAct(async (seq: number, text?: string) => {
    if (text === undefined) {
      queries.setQueryData(["mix", code], await ask(api.POST("/api/mixes/{code}/weigh", { ...params, body: { seq, key } })));
    } else {
      // A typed weight can wait for the server; the scale's is the server's own.
      const name = mix?.lines.find((l) => l.seq === seq)?.name ?? "";
      await outbox.add({
        key,
        person,
        path: `/api/mixes/${code}/weigh`,
        body: { seq, typed: text },
        words: `${text} of ${name} into ${code}`,
        about: `${code}/${seq}`,
      });
    }
    // Only an answered or waiting weigh-in gets a new key: one sent again counts once.
    setKey(crypto.randomUUID());
    setTyped("");
  });
  const [reason, setReason] = useState("");
  const abandon = useAct(async () => {
    await ask(api.POST("/api/mixes/{code}/abandon", { ...params, body: { reason } }));
    navigate("/mix");
  });
  useKey("B", "bench view", () => setWide(!wide));
  useKey("Z", "zero the scale", mix?.state === "weighing" ? () => void tare.run() : undefined);

  if (query.error && !mix) return <Refusal problem={query.error as Problem} />;
  if (!mix) return null;
  // What waits for the server is in the cup all the same: the next part comes.
  const line = waiting.length === 0 ? mix.lines.find((l) => l.seq === mix.current) : mix.lines.find((l) => !l.done && !waits(l.seq));
  const poured = reading?.connected && reading.unit === "g" ? Math.max(0, mix.carried_g + reading.value - mix.base_g) : 0;
  const problem = weigh.problem ?? begin.problem ?? tare.problem ?? abandon.problem;
  const act = line ? "Pour" : "All is in";
  return (
    <Flex direction="column" h="100%" minH="0">
      <Flex align="center" gap={{ base: "8px", lg: "16px" }} mb="6px" wrap={{ base: "wrap", lg: "nowrap" }}>
        <Tag code={code} />
        <Tag code={mix.piece} to={`/piece/${mix.piece}`} />
        <Box as="h1" fontSize="23px" fontWeight="700">
          {mix.state === "weighing"
            ? line
              ? `${act} ${line.name.toLowerCase().replace("part a", "part A").replace("part b", "part B")}`
              : "Everything is in"
            : mix.state === "planned"
              ? "Ready to weigh"
              : mix.state === "poured"
                ? `Poured as ${mix.run}`
                : "Abandoned"}
        </Box>
        <Box color="muted" flex="1">
          {mix.name} · {grams(mix.planned_g)} for {mix.pours} {mix.pours === 1 ? "pour" : "pours"}
        </Box>
        <Plain h="34px" aria-pressed={wide} onClick={() => setWide(!wide)}>
          <Cap>B</Cap> bench view {wide ? "off" : "on"}
        </Plain>
        {mix.state === "weighing" && (
          <Plain h="34px" onClick={() => void tare.run()}>
            <Cap>Z</Cap> zero the scale
          </Plain>
        )}
      </Flex>
      <Grid templateColumns={columns(wide ? "minmax(0,1fr) 250px" : "minmax(0,1fr) 235px 300px")} gap="28px" flex="1" minH="0">
        <Flex direction="column" minW="0" minH="0" overflowY="auto" gap="10px">
          {mix.state === "planned" && <Planned mix={mix} begin={() => void begin.run()} busy={begin.busy} />}
          {mix.state === "weighing" && line && (
            <Weighing
              line={line}
              poured={poured}
              reading={reading}
              lost={lost}
              stillS={stillS}
              wide={wide}
              mix={mix}
              weigh={() => void weigh.run(line.seq)}
              typed={typed}
              setTyped={setTyped}
              weighTyped={() => void weigh.run(line.seq, typed)}
              busy={weigh.busy}
              problem={weigh.problem}
            />
          )}
          {mix.state === "weighing" && !line && waiting.length > 0 && (
            <Box fontSize="18px">Everything is in. The run is started here as soon as the server has taken what waits.</Box>
          )}
          {mix.state === "weighing" && !line && waiting.length === 0 && <PourInto mix={mix} />}
          {(mix.state === "poured" || mix.state === "abandoned") && (
            <Box fontSize="18px">
              {mix.state === "poured" ? (
                <Go act={() => navigate("/build")}>To the pots</Go>
              ) : (
                <>What was weighed stays drawn from its lots. {mix.end_reason}</>
              )}
            </Box>
          )}
          <Refusal problem={problem} />
          {mix.message && mix.state === "weighing" && (
            <Notice fontSize="17px" data-testid="overshoot">
              {mix.message}
            </Notice>
          )}
          {info.data?.simulated && mix.state === "weighing" && <ScaleStandIn />}
        </Flex>
        <Box minH="0" display={{ base: "none", lg: "block" }}>
          <Cup mix={mix} pouringG={mix.state === "weighing" ? poured : 0} />
        </Box>
        {!wide && (
          <Box minH="0" overflowY="auto">
            <Working mix={mix} />
            <Box h="14px" />
            <Heading>In the cup</Heading>
            {mix.lines.map((l) => (
              <Flex
                key={l.seq}
                py="2px"
                gap="8px"
                color={l.seq === line?.seq ? "heather" : "ink"}
                fontWeight={l.seq === line?.seq ? 600 : 400}
                data-line={l.ingredient}
              >
                <Box flex="1" lineHeight="1.2">
                  {l.name}
                  <Box as="span" color="muted" fontWeight="400">
                    {" "}
                    · {l.lot}
                  </Box>
                </Box>
                <Box fontWeight="600">{grams(l.in_cup_g)}</Box>
                <Box w="86px" color="muted" fontWeight="400">
                  {waits(l.seq) ? "waits" : l.done ? (l.over_g > l.tolerance_g ? `+${l.over_g.toFixed(1)}` : "in") : `to ${grams(l.target_g)}`}
                </Box>
              </Flex>
            ))}
            {mix.cautions.map((c) => (
              <Box key={c} layerStyle="small" mt="10px">
                {c}
              </Box>
            ))}
            {(mix.state === "planned" || mix.state === "weighing") && (
              <details>
                <summary>Abandon this mix</summary>
                <Flex gap="8px" mt="6px">
                  <Input
                    h="36px"
                    px="10px"
                    bg="sheet"
                    borderColor="line"
                    placeholder="why"
                    aria-label="Why it is abandoned"
                    value={reason}
                    onChange={(e) => setReason(e.target.value)}
                  />
                  <Plain h="36px" onClick={() => void abandon.run()}>
                    Abandon
                  </Plain>
                </Flex>
                <WrongAt problem={abandon.problem} name="reason" />
              </details>
            )}
          </Box>
        )}
      </Grid>
    </Flex>
  );
}

function Planned({ mix, begin, busy }: { mix: View; begin: () => void; busy: boolean }) {
  return (
    <Box fontSize="18px">
      <Box mb="14px" maxW="46ch">
        Put the cup on the scale and zero it. {mix.lines[0]?.name} goes first, part B last, so that the clock starts as late as it can.
      </Box>
      <Go big act={begin} disabled={busy}>
        Begin weighing
      </Go>
    </Box>
  );
}
