import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
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
import { InTheCup } from "./InTheCup";
import { PourInto } from "./PourInto";
import { ScaleStandIn } from "./ScaleStandIn";
import { type Line, type Mix, useBench } from "./useBench";
import { Weighing } from "./Weighing";

/** A mix on the bench: one number at a time, read from two metres. */
export default function Bench() {
  const { code = "" } = useParams();
  const bench = useBench(code);
  const info = useRead({ queryKey: ["scale"], queryFn: () => ask(api.GET("/api/scale")), staleTime: 60_000 });
  const navigate = useNavigate();
  const [wide, setWide] = useState(false);
  const { mix, line, pouredG, scale, waiting, begin, tare, weigh } = bench;
  const weighing = mix?.state === "weighing";
  useInHand(mix?.piece);
  useKey("B", "bench view", () => setWide(!wide));
  useKey("Z", "zero the scale", weighing ? () => void tare.run() : undefined);

  if (bench.failed && !mix) return <Refusal problem={bench.failed as Problem} />;
  if (!mix) return null;
  return (
    <Flex direction="column" h="100%" minH="0">
      <Flex align="center" gap={{ base: "8px", lg: "16px" }} mb="6px" wrap={{ base: "wrap", lg: "nowrap" }}>
        <Tag code={code} />
        <Tag code={mix.piece} to={`/piece/${mix.piece}`} />
        <Box as="h1" fontSize="23px" fontWeight="700">
          {title(mix, line)}
        </Box>
        <Box color="muted" flex="1">
          {mix.name} · {grams(mix.planned_g)} for {mix.pours} {mix.pours === 1 ? "pour" : "pours"}
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
          {mix.state === "planned" && <Planned mix={mix} begin={() => void begin.run()} busy={begin.busy} />}
          {weighing && line && (
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
          {weighing && !line && waiting && (
            <Box fontSize="18px">Everything is in. The run is started here as soon as the server has taken what waits.</Box>
          )}
          {weighing && !line && !waiting && <PourInto mix={mix} />}
          {mix.state === "poured" && <Go act={() => navigate("/build")}>To the pots</Go>}
          {mix.state === "abandoned" && <Box fontSize="18px">What was weighed stays drawn from its lots. {mix.end_reason}</Box>}
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

/** What the bench says from two metres. */
function title(mix: Mix, line: Line | undefined): string {
  switch (mix.state) {
    case "weighing":
      return line ? `Pour ${line.name.toLowerCase().replace(/^part ([ab])/, (_, part: string) => `part ${part.toUpperCase()}`)}` : "Everything is in";
    case "planned":
      return "Ready to weigh";
    case "poured":
      return `Poured as ${mix.run}`;
    default:
      return "Abandoned";
  }
}

function Planned({ mix, begin, busy }: { mix: Mix; begin: () => void; busy: boolean }) {
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
