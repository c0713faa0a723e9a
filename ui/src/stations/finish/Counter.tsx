import { Box, Flex } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { offline, Problem } from "../../app/api";
import { outbox, useWaiting } from "../../app/outbox";
import { readAgain } from "../../app/read";
import { useMe } from "../../app/reads";
import { Figure as Big, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { typed } from "./bench";

interface Props {
  of: string;
  copy?: string;
  id: string;
  what: string;
  total: number;
  done: number;
  /** Minutes that are left, and seconds a stroke. */
  left: number;
  pace: number;
  /** What one is: a stroke of the needle, an insert. */
  per: string;
}

/** Counts what is set: space or a tap adds so many; kept on this device until the server has it. */
export function Counter({ of, copy, id, what, total, done, left, pace, per }: Props) {
  const person = useMe().data?.person?.id;
  const [step, setStep] = useState("10");
  const waiting = useWaiting(person).filter((w) => w.about === `count ${of} ${id}`);
  // What waits here is set all the same.
  const here = done + waiting.reduce((n, w) => n + Number(w.body.n ?? 0), 0);
  const last = useRef(Date.now());
  const queries = useQueryClient();
  useEffect(() => {
    last.current = Date.now();
  }, []);
  const [problem, setProblem] = useState<Problem>();
  // Every tap counts, also those that come while one is on its way.
  const add = (n: number) => {
    if (!person) return;
    setProblem(undefined);
    const seconds = Math.round((Date.now() - last.current) / 1000);
    last.current = Date.now();
    outbox
      .add({
        key: crypto.randomUUID(),
        person,
        path: `/api/finish-plans/${of}/counts`,
        // A pause is no work: more than five minutes at once are not timed.
        body: { of: id, n, seconds: n > 0 && seconds <= 300 ? seconds : 0, ...(copy ? { copy } : {}) },
        words: `${n} ${what}`,
        about: `count ${of} ${id}`,
      })
      .then(() => readAgain(queries, [{ topic: "finish", code: of }]))
      .catch((e) => setProblem(e instanceof Problem ? e : offline()));
  };
  const n = Math.max(1, Math.round(typed(step, 10)));
  return (
    <Box mt="16px" data-testid="counter">
      <Heading aside={copy ?? "this look"}>Set so far</Heading>
      <Flex gap="22px" align="center" wrap="wrap">
        <Box fontSize={{ base: "44px", md: "56px" }} fontWeight="700" lineHeight="1" aria-live="polite">
          {here}
          <Box as="span" fontSize="20px" fontWeight="400" color="muted">
            {" "}
            of {total}
          </Box>
        </Box>
        <Box flex="1" minW="160px">
          <Box
            h="14px"
            borderWidth="1.5px"
            borderColor="ink"
            borderRadius="full"
            overflow="hidden"
            role="img"
            aria-label={`${Math.round((100 * here) / Math.max(1, total))} % are set`}
          >
            <Box h="100%" bg="yew" w={`${Math.min(100, (100 * here) / Math.max(1, total))}%`} />
          </Box>
          <Big label="left">
            {here >= total
              ? "none"
              : `about ${left >= 90 ? `${(left / 60).toFixed(1)} h` : `${Math.round(left)} min`} at ${pace.toFixed(1)} s ${per}`}
          </Big>
        </Box>
      </Flex>
      <Flex gap="12px" mt="8px" align="center" wrap="wrap">
        <Go big disabled={!person || here >= total} act={() => void add(Math.min(n, Math.max(1, total - here)))}>{`${n} more`}</Go>
        <Box fontSize="14.5px">
          <label>
            a tap counts{" "}
            <input
              aria-label="How many a tap counts"
              value={step}
              inputMode="numeric"
              onChange={(e) => setStep(e.target.value)}
              style={{
                width: 56,
                height: 36,
                padding: "0 8px",
                borderRadius: 8,
                border: "1.5px solid var(--chakra-colors-line)",
                background: "var(--chakra-colors-sheet)",
              }}
            />
          </label>
        </Box>
        <Plain disabled={here < n} onClick={() => void add(-n)}>
          {n} fewer
        </Plain>
        {waiting.length > 0 && <Box layerStyle="small">{waiting.length} entries wait on this device for the line.</Box>}
      </Flex>
      <Refusal problem={problem} />
    </Box>
  );
}
