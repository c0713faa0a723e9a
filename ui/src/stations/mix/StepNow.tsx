import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import type { useScale } from "../../app/useScale";
import { Entry, FewWords, Go, Plain, Refusal } from "../../parts/controls";
import { countdown, duration } from "../../parts/format";
import { says } from "./steps";
import type { Mix, StepView } from "./useBench";

const measures: Partial<Record<StepView["act"], { label: string; hint: string }>> = {
  measure_volume: { label: "It stands at", hint: "1.6 l" },
  weigh_back: { label: "In the pot, without the pot", hint: "412 g, or leave it to the scale" },
  warm: { label: "It is at", hint: "62 °C, if you measured" },
};

/** A step that is no weighing: its clock, what is measured, and that it is done. */
export function StepNow({ mix, step, reading }: { mix: Mix; step: StepView; reading: ReturnType<typeof useScale>["reading"] }) {
  const at = { params: { path: { code: mix.code, seq: step.seq } } };
  const [typed, setTyped] = useState("");
  const [reason, setReason] = useState("");
  const left = useLeft(step);
  const begin = useAct(() => ask(api.POST("/api/mixes/{code}/steps/{seq}/begin", at)));
  const done = useAct(() => ask(api.POST("/api/mixes/{code}/steps/{seq}/done", { ...at, body: { typed, reason: reason || undefined } })));
  const runs = !!step.seconds && !!step.begun_at;
  const asks = measures[step.act];
  const early = done.problem?.code === "too_early";
  const big = runs ? (left > 0 ? countdown(left) : "now") : step.temp_c ? `${step.temp_c} °C` : step.seconds ? duration(step.seconds) : "";
  return (
    <Box>
      <Box fontSize="20px" color="muted">
        {says(step)}
      </Box>
      {big && (
        <Box
          fontSize={{ base: "min(22vw, 150px)", lg: "150px" }}
          fontWeight="700"
          lineHeight="1"
          letterSpacing="-0.02em"
          my="4px"
          data-testid="step-clock"
        >
          {big}
        </Box>
      )}
      <Box fontSize="22px" mb="14px" maxW="40ch">
        {step.text}
        {step.max_c && ` Never above ${step.max_c} °C.`}
      </Box>
      {asks && (
        <Box mb="12px" maxW="340px">
          <Entry label={asks.label} name="typed" placeholder={asks.hint} value={typed} set={setTyped} problem={done.problem} />
          {step.act === "weigh_back" && reading?.connected && (
            <Box layerStyle="small" mt="4px">
              The scale shows {reading.value.toFixed(1)} {reading.unit}
              {!reading.stable && ", moving"}.
            </Box>
          )}
        </Box>
      )}
      <Flex gap="16px" align="center" wrap="wrap">
        {step.seconds && !step.begun_at ? (
          <Go big act={() => void begin.run()} disabled={begin.busy}>
            Start the clock
          </Go>
        ) : // While it is poured a test stands beside it, and the one thing to do is the pour.
        mix.ready && mix.state === "weighing" ? (
          <Plain h="48px" disabled={done.busy} onClick={() => void done.run()}>
            {doneWords(mix, step)}
          </Plain>
        ) : (
          <Go big act={() => void done.run()} disabled={done.busy}>
            {doneWords(mix, step)}
          </Go>
        )}
        {step.seconds && !step.begun_at && (
          <Plain h="44px" disabled={done.busy} onClick={() => void done.run()}>
            It is done already
          </Plain>
        )}
      </Flex>
      {early && (
        <Box mt="10px" maxW="440px">
          <FewWords label="Why it is cut short" placeholder="why it is cut short" value={reason} set={setReason} max={200} />
        </Box>
      )}
      <Box mt="10px">
        <Refusal problem={done.problem ?? begin.problem} />
      </Box>
    </Box>
  );
}

function doneWords(mix: Mix, step: StepView): string {
  if (step.act === "test" && mix.contact_at) return "It gelled now";
  return step.act === "weigh_back" ? "Weighed back" : "It is done";
}

/** Seconds left of a step, counted between the server's answers; it survives a reload. */
function useLeft(step: StepView): number {
  const [at, setAt] = useState(() => ({ left: step.left_s, since: performance.now() }));
  const [, tick] = useState(0);
  useEffect(() => setAt({ left: step.left_s, since: performance.now() }), [step.left_s]);
  useEffect(() => {
    if (!step.begun_at || !step.seconds) return;
    const t = window.setInterval(() => tick((n) => n + 1), 500);
    return () => window.clearInterval(t);
  }, [step.begun_at, step.seconds]);
  return step.begun_at ? at.left - (performance.now() - at.since) / 1000 : step.left_s;
}
