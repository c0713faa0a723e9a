import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useClock } from "../../app/reads";
import { Entry, Plain, Refusal } from "../../parts/controls";
import { clockTime, duration } from "../../parts/format";
import { Notice } from "../../parts/Notice";

const figures = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10];

/** How the wearer is while a piece is built on them: minutes on, when they are asked again, what they said. */
export function Wearer({ run }: { run: Schemas["BuildRun"] }) {
  const now = useClock().data?.now;
  const [words, setWords] = useState("");
  const note = useAct(async (comfort: number) => {
    await ask(api.POST("/api/runs/{code}/comfort", { params: { path: { code: run.code } }, body: { comfort, words: words || undefined } }));
    setWords("");
  });
  const last = run.checks[run.checks.length - 1];
  const due = now && run.ask_next_at && new Date(now) >= new Date(run.ask_next_at);
  return (
    <Box mb="14px" data-testid="wearer">
      {run.unwell && (
        <Notice tone="stop" mb="8px">
          <b>They are at {last.comfort}.</b> Stop, let them out and breathe, and go on at their word only.
        </Notice>
      )}
      <details open={due || undefined}>
        <summary>
          {now && `On the wearer for ${duration((new Date(now).getTime() - new Date(run.started_at).getTime()) / 1000)}`}
          {last ? `, at ${last.comfort} of 10 at ${clockTime(last.at)}` : ", not asked yet"}
          {run.ask_next_at && (due ? <b>: ask how it is now</b> : `; ask again at ${clockTime(run.ask_next_at)}`)}
        </summary>
        <Flex gap="4px" wrap="wrap" my="6px">
          {figures.map((n) => (
            <Plain key={n} h="34px" minW="34px" px="4px" aria-label={`${n} of 10`} disabled={note.busy} onClick={() => void note.run(n)}>
              {n}
            </Plain>
          ))}
        </Flex>
        <Entry label="In their words" name="words" value={words} set={setWords} problem={note.problem} />
        <Refusal problem={note.problem} />
        <Box layerStyle="small">
          10 is well. Their own sign to stop is on <Link to={`/brief/${run.piece}`}>their card</Link>. Air at a wearer: at most 45 °C, the skin at
          most 40 °C, never on the lids, a few minutes a pass.
        </Box>
      </details>
    </Box>
  );
}
