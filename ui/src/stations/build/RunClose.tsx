import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { usePots, useRun } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Entry, Go, Heading, Plain, Refusal, WrongAt } from "../../parts/controls";
import { stateWords, whereNext } from "../../parts/copies";
import { dayTime, duration } from "../../parts/format";
import { columns } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Buildup } from "./Buildup";
import { Coats, Price, useCoatPlans } from "./Coats";
import { Curve } from "./Curve";
import { Held } from "./Held";
import { HelpAlong } from "./HelpAlong";
import { Meanwhile } from "./Meanwhile";
import { PotFigures, PotLine, Why } from "./PotClose";
import { Wearer } from "./Wearer";

type Stage = Schemas["BuildStage"];

/** What one says when a stage is done. */
export function doneWords(s: Pick<Stage, "act" | "coat" | "of">): string {
  if (s.coat) return `Coat ${s.coat} is on`;
  const said: Record<string, string> = {
    film: "The film is on",
    "lay on": "It is on",
    insert: "It is set in",
    whip: "The gelling agent is in",
    fill: "It is filled and closed",
    bake: "It is in the oven",
    wash: "It is washed",
    melt: "It is poured",
    chill: "It is setting",
    pour: "It is poured",
    lift: "Powdered and off",
    open: "It is out",
    fit: "It is fitted",
  };
  return said[s.act] ?? "That is done";
}

/** A session close up: its stages in order, the next one to be said done. */
export function RunClose({ code }: { code: string }) {
  const run = useRun(code);
  const shelf = usePots();
  useInHand(run.data?.piece);
  if (run.error && !run.data) return <Refusal problem={run.error as never} />;
  if (!run.data) return null;
  const r = run.data;
  const pot = shelf.data?.pots.find((p) => r.stages.some((s) => s.pot_id === p.id));
  const next = r.stages.find((s) => s.seq === r.next);
  return (
    <Box>
      <Flex gap="14px" align="center" mb="4px" wrap="wrap">
        <Box as="h1" fontSize="23px" fontWeight="700">
          Build
        </Box>
        <Tag code={r.code} />
        <Tag code={r.piece} to={`/piece/${r.piece}`} />
        <b>{r.piece_name}</b>
        <Box color="muted">
          {r.way_text}, by section §{r.section_number}
          {r.place && `, ${r.place}`}
        </Box>
      </Flex>
      <Flex gap="6px 16px" wrap="wrap" mb="14px">
        {r.copies.map((c) => (
          <Link key={c.code} to={whereNext({ ...c, run: r.code })}>
            {c.code}, {stateWords(c.state)}
            {c.mould && ` in ${c.mould}`}
          </Link>
        ))}
        {r.mixes.map((m) => (
          <Link key={m.code} to={`/mix/${m.code}`}>
            {m.code} for {m.role}
          </Link>
        ))}
      </Flex>
      {/* The layers are the work sheet; what waits in no layer stands as its glass. */}
      <Grid templateColumns={columns("minmax(0,1.6fr) minmax(380px,1fr)")} gap={{ base: "20px", lg: "44px" }} alignItems="start">
        <Box>
          {pot && pot.kind !== "dry" ? <PotFigures pot={pot} /> : <Buildup run={r.code} />}
          {pot?.bakes && <Curve pot={pot} />}
        </Box>
        <Box>
          {r.on_wearer && !r.ended_at && <Wearer run={r} />}
          {pot?.kind === "dry" && <PotLine pot={pot} />}
          {r.ended_at ? (
            <Box fontSize="18px">This session is over, since {dayTime(r.ended_at)}.</Box>
          ) : next ? (
            <Next run={r} stage={next} key={next.seq} />
          ) : (
            pot && <Last pot={pot} />
          )}
          {pot && !r.ended_at && <HelpAlong pot={pot} key={pot.id} />}
          {r.held_back && <Meanwhile waitS={r.left_s} piece={r.piece} />}
        </Box>
      </Grid>
      {pot && pot.kind !== "dry" && (
        <Box mt="24px" maxW="760px">
          <Buildup run={r.code} />
        </Box>
      )}
      <Box mt="20px" maxW="760px">
        <Heading aside={`${r.stages.filter((s) => s.done_at).length} of ${r.stages.length} done`}>Stages</Heading>
        <Box as="ol" listStyleType="none" m="0" p="0">
          {r.stages.map((s) => (
            <StageLine key={s.seq} stage={s} next={s.seq === r.next} />
          ))}
        </Box>
      </Box>
      {pot && <Why lines={pot.why} />}
    </Box>
  );
}

function StageLine({ stage: s, next }: { stage: Stage; next: boolean }) {
  return (
    <Flex as="li" gap="12px" py="4px" borderBottomWidth="1px" borderColor="line" align="baseline">
      <Box w="26px" flexShrink="0" fontWeight="700" color={s.done_at ? "yew" : next ? "ink" : "muted"} aria-hidden>
        {s.done_at ? "✓" : s.seq}
      </Box>
      <Box flex="1" minW="0" fontWeight={next ? 700 : 400} color={s.done_at || next ? "ink" : "muted"}>
        {s.text}
        {s.note && <Box color="muted">{s.note}</Box>}
      </Box>
      <Box layerStyle="small" textAlign="right" flexShrink="0" maxW="45%">
        {s.done_at ? (
          <>
            {dayTime(s.done_at)}, {s.by}
            {s.lots.length > 0 && `, lot ${s.lots.join(", ")}`}
            {waited(s) && <Box>{waited(s)}</Box>}
          </>
        ) : (
          (s.grams ?? 0) > 0 && `about ${s.grams?.toFixed(1)} g a copy`
        )}
      </Box>
    </Flex>
  );
}

/** What a stage waited beside what it was told to, and how long hands were at it. */
export function waited(s: Pick<Stage, "expected_s" | "waited_s" | "hand_s">): string {
  const out: string[] = [];
  if (s.waited_s !== undefined) out.push(`waited ${duration(s.waited_s)}${s.expected_s ? `, told ${duration(s.expected_s)}` : ""}`);
  else if (s.expected_s) out.push(`told to wait ${duration(s.expected_s)}`);
  if (s.hand_s) out.push(`hands ${duration(s.hand_s)}`);
  return out.join(" · ");
}

const figure = (typed: string) => (typed.trim() === "" ? undefined : Number(typed.replace(",", ".")));

/** The stage to do next: said done in one press, with a lot or a note if wanted. */
function Next({ run, stage }: { run: Schemas["BuildRun"]; stage: Stage }) {
  const [note, setNote] = useState("");
  const [lot, setLot] = useState("");
  const [checked, setChecked] = useState(false);
  const [minutes, setMinutes] = useState("");
  const [wet, setWet] = useState("");
  const [used, setUsed] = useState("");
  const planned = stage.wet ? (1000 * stage.wet.wet_m).toFixed(2) : undefined;
  const path = { params: { path: { code: run.code, seq: stage.seq } } };
  const done = useAct((reason?: string) =>
    ask(
      api.POST("/api/runs/{code}/stages/{seq}", {
        ...path,
        body: {
          note: note || undefined,
          lot: lot || undefined,
          reason: reason || undefined,
          checked: checked || undefined,
          hand_min: figure(minutes),
          wet_mm: figure(wet),
          used_g: figure(used),
        },
      }),
    ),
  );
  const more = useAct(() => ask(api.POST("/api/runs/{code}/coats", { params: { path: { code: run.code } } })));
  const coated = run.stages.some((s) => s.done_at && s.coat);
  const plans = useCoatPlans(run.code, !!stage.coat && coated);
  const takes = (stage.grams ?? 0) * run.copies.filter((c) => c.state === "making").length;
  const atField = ["lot", "note", "hand_min", "wet_mm", "used_g"].includes(done.problem?.field ?? "");
  return (
    <Box maxW="640px">
      <Box fontSize="17px" fontWeight="600" mb="8px" lineHeight="1.25" data-testid="next-stage">
        {stage.text}
      </Box>
      <Coats plans={plans} />
      {stage.hold && (
        <Box mb="10px" data-testid="hold">
          <Flex as="label" gap="9px" align="baseline">
            <input type="checkbox" checked={checked} onChange={(e) => setChecked(e.target.checked)} />
            <Box fontWeight="600">{stage.hold}</Box>
          </Flex>
          <WrongAt problem={done.problem} name="checked" />
        </Box>
      )}
      {run.held_back ? (
        <Held
          why={run.held_back}
          price={<Price plans={plans} />}
          early={stage.coat ? "Coat it" : "Go on"}
          all={(reason) => void done.run(reason)}
          busy={done.busy}
        />
      ) : (
        <Flex gap="12px" wrap="wrap" align="center">
          <Go big act={() => void done.run()} disabled={done.busy}>
            {doneWords(stage)}
          </Go>
          {coated && (
            <Plain disabled={more.busy} onClick={() => void more.run()}>
              One more coat
            </Plain>
          )}
        </Flex>
      )}
      <Box mt="10px">
        <Refusal problem={done.problem ?? more.problem} />
      </Box>
      {stage.tool && (
        <Box layerStyle="small" mb="6px" data-testid="tool">
          {stage.tool}
        </Box>
      )}
      <details open={atField || undefined}>
        <summary>{stage.material ? `Another lot, or a note: it takes about ${takes.toFixed(1)} g of the first to expire` : "A note"}</summary>
        <Grid templateColumns={{ base: "1fr", md: "1fr 1.2fr" }} gap="10px" my="8px">
          {stage.material && <Entry label="Lot" name="lot" value={lot} set={setLot} problem={done.problem} placeholder="first to expire" />}
          <Entry label="Note" name="note" value={note} set={setNote} problem={done.problem} />
          {!!stage.coat && <Entry label="Wet by the gauge, mm" name="wet_mm" value={wet} set={setWet} problem={done.problem} placeholder={planned} />}
          {stage.material && <Entry label="It took, g a copy" name="used_g" value={used} set={setUsed} problem={done.problem} />}
          <Entry label="Hands were at it, minutes" name="hand_min" value={minutes} set={setMinutes} problem={done.problem} />
        </Grid>
      </details>
    </Box>
  );
}

/** Everything is done but the waiting. */
function Last({ pot }: { pot: Schemas["BuildPot"] }) {
  const out = useAct((reason?: string) =>
    ask(api.POST("/api/pots/{id}/out", { params: { path: { id: pot.id } }, body: { reason: reason || undefined } })),
  );
  return (
    <Box mt="16px" maxW="640px">
      {pot.held_back ? (
        <Held why={pot.held_back} early="End it" all={(reason) => void out.run(reason)} busy={out.busy} />
      ) : (
        <Go big act={() => void out.run()} disabled={out.busy}>
          It is made
        </Go>
      )}
      <Box mt="10px">
        <Refusal problem={out.problem} />
      </Box>
    </Box>
  );
}
