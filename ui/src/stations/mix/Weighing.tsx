import { Box, Flex, Input } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import type { Problem, Schemas } from "../../app/api";
import { useDevice } from "../../app/reads";
import type { useScale } from "../../app/useScale";
import { Go, Heading, Plain, WrongAt } from "../../parts/controls";
import { countdown, duration, grams } from "../../parts/format";

type View = Schemas["MixView"];

interface WeighingProps {
  line: Schemas["MixLine"];
  poured: number;
  reading: ReturnType<typeof useScale>["reading"];
  lost: boolean;
  stillS: number;
  wide: boolean;
  mix: View;
  weigh: () => void;
  typed: string;
  setTyped: (t: string) => void;
  weighTyped: () => void;
  busy: boolean;
  problem?: Problem;
}

export function Weighing({ line, poured, reading, lost, stillS, wide, mix, weigh, typed, setTyped, weighTyped, busy, problem }: WeighingProps) {
  const left = line.add_g - poured;
  const scale = useDevice("scale");
  const dead = lost || !reading?.connected;
  const over = left < -line.tolerance_g;
  const here = Math.abs(left) <= line.tolerance_g;
  return (
    <Box>
      <Box fontSize="20px" color="muted">
        {!scale ? "weigh out" : dead ? "the scale does not answer" : over ? "over by" : here ? "that is it" : "still to pour"}
      </Box>
      <Flex align="baseline" gap="10px" lineHeight="1" my="4px" color={over ? "gorse" : "ink"}>
        <Box
          fontSize={{ base: "min(24vw, 190px)", lg: wide ? "300px" : "190px" }}
          fontWeight="700"
          letterSpacing="-0.02em"
          data-testid="big-number"
          aria-live="polite"
        >
          {!scale ? line.add_g.toFixed(1) : dead ? "–" : Math.abs(here ? 0 : left).toFixed(1)}
        </Box>
        <Box fontSize={{ base: "min(10vw, 62px)", lg: wide ? "90px" : "62px" }} fontWeight="700">
          g
        </Box>
      </Flex>
      <Box fontSize="19px" mb="14px">
        {!scale ? (
          "Weigh it on your own scale and type what it shows."
        ) : dead ? (
          "Type the weight below, or plug the scale in. What was weighed is kept."
        ) : (
          <>
            on the scale <b data-testid="scale-value">{`${reading.value.toFixed(reading.unit === "g" ? 1 : 3)} ${reading.unit}`}</b>{" "}
            <Box as="span" color="muted" data-testid="scale-steady">
              {reading.unit !== "g" ? "wrong unit, switch to grams" : reading.stable ? "steady" : "moving"}
            </Box>{" "}
            → {grams(poured + line.in_cup_g)} of <b>{grams(line.target_g)}</b> ± {line.tolerance_g.toFixed(line.tolerance_g < 0.1 ? 2 : 1)}
            {poured > 0.1 && left > line.tolerance_g && stillS > 8 && (
              <Box color="muted" fontSize="15px">
                Pouring, and the number stands still? Lift the cup off and set it down: what a stuck scale hid counts as soon as it moves.
              </Box>
            )}
          </>
        )}
      </Box>
      <Flex gap="18px" align="center" wrap="wrap">
        {scale && (
          <Go big act={weigh} disabled={busy || dead}>
            {line.ingredient.length === 1 ? `${line.ingredient} is in` : "It is in"}
          </Go>
        )}
        <Flex gap="8px" align="center">
          <Input
            h="44px"
            w="130px"
            px="12px"
            bg="sheet"
            borderColor="line"
            borderWidth="1.5px"
            placeholder="or type 58.4 g"
            aria-label="Weight read off another scale"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && weighTyped()}
          />
          <Plain h="44px" disabled={busy || typed.trim() === ""} onClick={weighTyped}>
            Take it
          </Plain>
        </Flex>
        {wide && <WorkingLine mix={mix} />}
      </Flex>
      <WrongAt problem={problem} name="typed" />
      <ByThePot take={setTyped} />
    </Box>
  );
}

/** What went in without a scale under the cup: the pot before and after. Loose words become a measure. */
function ByThePot({ take }: { take: (typed: string) => void }) {
  const [before, setBefore] = useState("");
  const [after, setAfter] = useState("");
  const grams = Number(before.replace(",", ".")) - Number(after.replace(",", "."));
  const set = (b: string, a: string) => {
    setBefore(b);
    setAfter(a);
    const g = Number(b.replace(",", ".")) - Number(a.replace(",", "."));
    if (b.trim() && a.trim() && g > 0) take(`${Math.round(g * 100) / 100} g`);
  };
  return (
    <details>
      <summary>A splash, a spoon, some drops</summary>
      <Flex gap="8px" mt="6px" align="center" wrap="wrap">
        <Box>The pot weighed</Box>
        <Input
          h="44px"
          w="90px"
          px="10px"
          bg="sheet"
          borderColor="line"
          inputMode="decimal"
          placeholder="g"
          aria-label="The pot before, g"
          value={before}
          onChange={(e) => set(e.target.value, after)}
        />
        <Box>before and</Box>
        <Input
          h="44px"
          w="90px"
          px="10px"
          bg="sheet"
          borderColor="line"
          inputMode="decimal"
          placeholder="g"
          aria-label="The pot after, g"
          value={after}
          onChange={(e) => set(before, e.target.value)}
        />
        <Box>after{grams > 0 && before.trim() && after.trim() ? `: ${Math.round(grams * 100) / 100} g went in` : ""}.</Box>
      </Flex>
      <Box layerStyle="small" mt="4px">
        Spoons and drops may be typed above as well: 1/4 tsp, 12 drops. A drop counts as it was weighed here, if it was.
      </Box>
    </details>
  );
}

/** Seconds left, counted between the server's answers. */
function useLeft(w: View["working"]): number {
  const [at, setAt] = useState(() => ({ left: w.left_s, since: performance.now() }));
  const [, tick] = useState(0);
  useEffect(() => setAt({ left: w.left_s, since: performance.now() }), [w.left_s]);
  useEffect(() => {
    if (!w.started) return;
    const t = window.setInterval(() => tick((n) => n + 1), 500);
    return () => window.clearInterval(t);
  }, [w.started]);
  return w.started ? at.left - (performance.now() - at.since) / 1000 : w.left_s;
}

function WorkingLine({ mix }: { mix: View }) {
  const left = useLeft(mix.working);
  return (
    <Box fontSize="19px" color={mix.working.started ? (left < 120 ? "rust" : "ink") : "muted"}>
      {mix.working.started ? `${countdown(left)} to pour` : mix.working.sheet_s > 0 ? "the clock starts when the last part meets the rest" : ""}
    </Box>
  );
}

export function Working({ mix }: { mix: View }) {
  const left = useLeft(mix.working);
  const w = mix.working;
  if (w.sheet_s === 0) return null;
  return (
    <Box>
      <Heading>{w.started ? "Working time left" : "Working time once it is set off"}</Heading>
      <Box fontSize="34px" fontWeight="700" lineHeight="1.15" color={w.over || (w.started && left < 120) ? "rust" : "ink"} data-testid="pot-life">
        {w.over || left <= 0 ? "over" : w.started ? countdown(left) : duration(w.left_s)}
      </Box>
      <Box layerStyle="note">
        at {w.temp_c.toFixed(1)} °C, between {duration(w.low_s)} and {duration(w.high_s)}.
        {w.ref_c !== w.temp_c && ` Library default: ${duration(w.sheet_s)} at ${w.ref_c} °C; the data sheet wins.`}
      </Box>
    </Box>
  );
}
