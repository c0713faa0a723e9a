import { Box, Grid } from "@chakra-ui/react";
import { useSearchParams } from "react-router";
import { useCopies, usePots, useRuns } from "../../app/reads";
import { Heading, Teach } from "../../parts/controls";
import { madeFrom, stateWords, whereNext } from "../../parts/copies";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { BeginRun } from "./BeginRun";
import { Night } from "./Night";
import { Places } from "./Places";
import { PotClose } from "./PotClose";
import { RunClose } from "./RunClose";

/** What is coming into being: the pots and the sessions close up, the copies. */
export default function Build() {
  const shelf = usePots();
  const copies = useCopies();
  const runs = useRuns();
  const [query, setQuery] = useSearchParams();
  if (!shelf.data || !copies.data || !runs.data) return null;
  const pots = shelf.data.pots;
  const wanted = query.get("run");
  const chosen = pots.find((p) => String(p.id) === query.get("pot"));
  const pot = chosen ?? (wanted ? undefined : (pots.find((p) => p.state === "ready") ?? pots[0]));
  const step = (by: number) => pot && setQuery({ pot: String(pots[(pots.indexOf(pot) + by + pots.length) % pots.length].id) });
  // A session is looked at as a whole where its stages follow one another; a pour has only its pots.
  const run = wanted ?? (pot?.goes_on || (pot?.run && !pot.copy) ? pot.run : undefined);
  const byHand = runs.data.filter((r) => r.way !== "cast");
  return (
    <Box>
      {!run && <RoomHead title="Build" aside={pots.length === 1 ? "one pot on the shelf" : `${pots.length} pots on the shelf`} />}
      <Night />
      {/* A session takes the whole width; what else is in work then stands under it. */}
      <Grid templateColumns={run ? "minmax(0,1fr)" : columns("minmax(0,1fr) 350px")} gap={{ base: "24px", lg: "36px" }}>
        {run ? (
          <RunClose code={run} key={run} />
        ) : pot ? (
          <PotClose pot={pot} step={step} key={pot.id} />
        ) : (
          <Teach>Nothing is being made. Pour a mix, or begin a session here, and its pots stand here, filled by the room's own warmth.</Teach>
        )}
        <Grid templateColumns={run ? columns("repeat(3, minmax(0,1fr))") : "minmax(0,1fr)"} gap={run ? "20px 36px" : "20px"} alignContent="start">
          {byHand.length > 0 && (
            <Box>
              <Heading>Sessions in work</Heading>
              <Standing
                empty={null}
                items={byHand.map((r) => ({
                  code: r.code,
                  text: `${r.piece}, ${r.way_text}`,
                  to: `/build?run=${r.code}`,
                  active: r.code === run,
                  note: `${r.stages.filter((s) => s.done_at).length} of ${r.stages.length} stages done`,
                }))}
              />
            </Box>
          )}
          <BeginRun first={query.get("piece") ?? undefined} begun={(code) => setQuery({ run: code })} />
          <Places />
          <Box>
            <Heading>Copies, newest first</Heading>
            <Standing
              empty={<Box color="muted">None yet.</Box>}
              items={copies.data.slice(0, 8).map((c) => ({ code: c.code, text: stateWords(c.state), to: whereNext(c), note: madeFrom(c) }))}
            />
          </Box>
        </Grid>
      </Grid>
    </Box>
  );
}
