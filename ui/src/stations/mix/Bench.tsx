import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, type Problem } from "../../app/api";
import { useKey } from "../../app/keys";
import { useRead } from "../../app/read";
import { useInHand } from "../../app/Shell";
import { Cap, Go, Plain, Refusal } from "../../parts/controls";
import { grams } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { columns } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Cup } from "./Cup";
import { Ends } from "./Ends";
import { InTheCup } from "./InTheCup";
import { ScaleStandIn } from "./ScaleStandIn";
import { StepNow } from "./StepNow";
import { actName } from "./steps";
import { TagCheck } from "./TagCheck";
import { type Line, type Mix, type StepView, useBench } from "./useBench";
import { Weighing } from "./Weighing";

/** A mix on the bench: one number at a time, read from two metres. */
export default function Bench() {
  const { code = "" } = useParams();
  const bench = useBench(code);
  const info = useRead({ queryKey: ["scale"], queryFn: () => ask(api.GET("/api/scale")), staleTime: 60_000 });
  const navigate = useNavigate();
  const [wide, setWide] = useState(false);
  const { mix, line, step, pouredG, scale, waiting, begin, tare, weigh } = bench;
  const weighing = mix?.state === "weighing";
  // Who goes on with another's mix confirms what it asks for, too.
  const asked = weighing && mix && !mix.confirmed;
  useInHand(mix?.piece);
  useKey("B", "bench view", () => setWide(!wide));
  useKey("Z", "zero the scale", weighing ? () => void tare.run() : undefined);

  if (bench.failed && !mix) return <Refusal problem={bench.failed as Problem} />;
  if (!mix) return null;
  return (
    <Flex direction="column" h="100%" minH="0">
      <Flex align="center" gap={{ base: "8px", lg: "16px" }} mb="6px" wrap={{ base: "wrap", lg: "nowrap" }}>
        <Tag code={code} />
        {mix.piece && <Tag code={mix.piece} to={`/piece/${mix.piece}`} />}
        <Box as="h1" fontSize="23px" fontWeight="700">
          {title(mix, line, step)}
        </Box>
        <Box color="muted" flex="1">
          {mix.name}
          {mix.number > 0 && ` §${mix.number}`} · {grams(mix.planned_g)}
          {mix.piece && ` for ${mix.pours} ${mix.pours === 1 ? "pour" : "pours"}`}
          {mix.parent && ` · divided from ${mix.parent}`}
        </Box>
        <Plain h="34px" aria-pressed={wide} onClick={() => setWide(!wide)}>
          <Cap>B</Cap> bench view {wide ? "off" : "on"}
        </Plain>
        {weighing && (
          <Plain h="34px" onClick={() => void tare.run()}>
            <Cap>Z</Cap> zero the scale
          </Plain>
        )}
      </Flex>
      <Grid templateColumns={columns(wide ? "minmax(0,1fr) 250px" : "minmax(0,1fr) 235px 300px")} gap="28px" flex="1" minH="0">
        <Flex direction="column" minW="0" minH="0" overflowY="auto" gap="10px">
          {mix.state === "planned" && <Planned mix={mix} begin={(c) => void begin.run(c)} busy={begin.busy} />}
          {asked && <Confirm mix={mix} act="Go on" go={(c) => void begin.run(c)} busy={begin.busy} />}
          {(weighing || step?.act === "test") &&
            !asked &&
            step &&
            mix.state !== "abandoned" &&
            mix.state !== "planned" &&
            (!mix.ready || step.act === "test") && <StepNow mix={mix} step={step} reading={scale.reading} key={step.seq} />}
          {weighing && !asked && line && (
            <Weighing
              line={line}
              poured={pouredG}
              reading={scale.reading}
              lost={scale.lost}
              stillS={scale.stillS}
              wide={wide}
              mix={mix}
              weigh={() => void weigh.run(line.seq)}
              typed={bench.typed}
              setTyped={bench.setTyped}
              weighTyped={() => void weigh.run(line.seq, bench.typed)}
              busy={weigh.busy}
              problem={weigh.problem}
            />
          )}
          {weighing && !asked && line?.lot && <TagCheck mix={mix} line={line} key={`tag${line.seq}`} />}
          {weighing && !line && !mix.ready && !step && waiting && (
            <Box fontSize="18px">Everything is in. The run is started here as soon as the server has taken what waits.</Box>
          )}
          {weighing && !asked && mix.ready && !waiting && <Ends mix={mix} />}
          {mix.state === "poured" && <Go act={() => navigate("/build")}>To the pots</Go>}
          {mix.state === "abandoned" && <Box fontSize="18px">What was weighed stays drawn from its lots. {mix.end_reason}</Box>}
          {mix.state === "used" && <Box fontSize="18px">Used: {mix.end_reason}</Box>}
          {mix.state === "put_by" && (
            <Box fontSize="18px">
              Put by as lot <Tag code={mix.put_by ?? ""} to={`/stores/${mix.put_by}`} />, {mix.end_reason}.
            </Box>
          )}
          {["poured", "put_by", "used", "abandoned"].includes(mix.state) && <CleanUp mix={mix} />}
          <Refusal problem={weigh.problem ?? begin.problem ?? tare.problem} />
          {mix.message && weighing && (
            <Notice fontSize="17px" data-testid="overshoot">
              {mix.message}
            </Notice>
          )}
          {info.data?.simulated && weighing && <ScaleStandIn />}
        </Flex>
        <Box minH="0" display={{ base: "none", lg: "block" }}>
          <Cup mix={mix} pouringG={weighing ? pouredG : 0} />
        </Box>
        {!wide && (
          <Box minH="0" overflowY="auto">
            <InTheCup mix={mix} line={line} waits={bench.waits} />
          </Box>
        )}
      </Grid>
    </Flex>
  );
}

/** What there is to clean afterwards, by what was in the cup. */
function CleanUp({ mix }: { mix: Mix }) {
  if (mix.clean.length === 0) return null;
  return (
    <Box data-testid="clean-up" maxW="640px">
      <Box fontWeight="700" fontSize="18px">
        Clean up now
      </Box>
      {mix.clean.map((c) => (
        <Box key={c.medium} py="4px" fontSize="17px">
          {c.medium}: {c.with}. Tools: {c.tool}. Cloth: {c.cloth}. It spoils {c.ruins}.
        </Box>
      ))}
      <Link to="/hands">What became of a tool</Link>
    </Box>
  );
}

/** What the bench says from two metres. */
function title(mix: Mix, line: Line | undefined, step: StepView | undefined): string {
  switch (mix.state) {
    case "weighing":
      if (step && !mix.ready) return sentence(actName(step.act));
      return line ? `Pour ${line.name.toLowerCase().replace(/^part ([ab])/, (_, part: string) => `part ${part.toUpperCase()}`)}` : "It is ready";
    case "planned":
      return "Ready to weigh";
    case "poured":
      return `Poured as ${mix.run}`;
    case "put_by":
      return "Put by";
    case "used":
      return "Used";
    default:
      return "Abandoned";
  }
}

const sentence = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

function Planned({ mix, begin, busy }: { mix: Mix; begin: (confirmed: string[]) => void; busy: boolean }) {
  const sets = mix.lines.length > 1 && mix.working.sheet_s > 0;
  return (
    <Box fontSize="18px">
      <Box mb="14px" maxW="46ch">
        Put the cup on the scale and zero it. {mix.lines[0]?.name} goes first
        {sets && `, ${mix.lines.at(-1)?.name.replace("Part", "part")} last, so that the clock starts as late as it can`}.
      </Box>
      <Confirm mix={mix} act="Begin weighing" go={begin} busy={busy} />
    </Box>
  );
}

/** What is confirmed before fumes, dust or food are begun with. */
function Confirm({ mix, act, go, busy }: { mix: Mix; act: string; go: (confirmed: string[]) => void; busy: boolean }) {
  const [ticked, setTicked] = useState<string[]>([]);
  const asked = mix.confirmed ? [] : mix.follows.confirm;
  const all = asked.every((n) => ticked.includes(n.code));
  return (
    <Box fontSize="18px">
      {asked.map((n) => (
        <Flex as="label" key={n.code} gap="14px" align="center" minH="48px" cursor="pointer">
          <input
            type="checkbox"
            style={{ width: 28, height: 28, flexShrink: 0 }}
            checked={ticked.includes(n.code)}
            onChange={(e) => setTicked(e.target.checked ? [...ticked, n.code] : ticked.filter((c) => c !== n.code))}
          />
          {n.text}
        </Flex>
      ))}
      {asked.length > 1 && !all && (
        <Plain my="10px" me="14px" h="44px" onClick={() => setTicked(asked.map((n) => n.code))}>
          All of it holds
        </Plain>
      )}
      <Go big act={() => go(ticked)} disabled={busy || !all}>
        {act}
      </Go>
    </Box>
  );
}
