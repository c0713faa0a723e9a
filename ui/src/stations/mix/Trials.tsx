import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day } from "../../parts/format";

/** How a recipe runs and stays: a drop on a tilted strip, watched with a clock. */
export function Trials({ slug }: { slug: string }) {
  const params = { path: { code: slug } };
  const trials = useRead({ queryKey: ["trials", slug], queryFn: () => ask(api.GET("/api/recipes/{code}/trials", { params })) });
  const [volume, setVolume] = useState("0.1");
  const [width, setWidth] = useState("4");
  const [tilt, setTilt] = useState("90");
  const [runs, setRuns] = useState("");
  const [stands, setStands] = useState(false);
  const [words, setWords] = useState("");
  const number = (t: string) => Number(t.replace(",", "."));
  const keep = useAct(async () => {
    const readings = runs
      .split(/[;\n]/)
      .map((r) => r.trim())
      .filter(Boolean)
      .map((r) => {
        const [t, x] = r.split(/\s+/).map(number);
        return { time_s: t, distance_mm: x };
      });
    await ask(
      api.POST("/api/recipes/{code}/trials", {
        params,
        body: { volume_ml: number(volume), width_mm: number(width), tilt_deg: number(tilt), readings, stopped: stands, words: words || undefined },
      }),
    );
    setRuns("");
    setWords("");
  });
  const problem = keep.problem?.field.startsWith("readings") ? keep.problem.at(keep.problem.field, "readings") : keep.problem;
  return (
    <Box>
      <Heading>How it runs and stays</Heading>
      {trials.data?.map((t) => (
        <Box key={t.at} py="3px" fontSize="15px">
          {day(t.at)}:{" "}
          {t.fit.viscosity_pas
            ? `${t.fit.class}, ${t.fit.viscosity_pas.toPrecision(2)} Pa·s (${t.fit.low_pas?.toPrecision(2)} to ${t.fit.high_pas?.toPrecision(2)})`
            : "only where it stands"}
          {t.fit.yield_pa ? `, holds ${t.fit.yield_pa.toPrecision(2)} Pa` : ""}
          {t.after_mm != null && `; a drop comes ${t.after_mm.toFixed(0)} mm down a wall in half a minute`}
          {t.fit.warnings?.includes("not_newtonian") && "; it does not run like a syrup"}. {t.words}{" "}
          <Box as="span" color="muted">
            {t.by}
          </Box>
        </Box>
      ))}
      <details>
        <summary>Watch a drop run</summary>
        <Grid templateColumns="1fr 1fr 1fr" gap="8px" mt="6px">
          <Entry label="Drop, ml" name="volume_ml" value={volume} set={setVolume} problem={keep.problem} />
          <Entry label="Track, mm wide" name="width_mm" value={width} set={setWidth} problem={keep.problem} />
          <Entry label="Tilt, °" name="tilt_deg" value={tilt} set={setTilt} problem={keep.problem} />
        </Grid>
        <Box mt="6px">
          <Entry
            label="Seconds and mm, one reading after another"
            name="readings"
            placeholder="10 62; 40 96; 160 155"
            value={runs}
            set={setRuns}
            problem={problem}
          />
        </Box>
        <Flex as="label" gap="6px" my="6px">
          <input type="checkbox" checked={stands} onChange={(e) => setStands(e.target.checked)} /> the last is where it stands
        </Flex>
        <Entry
          label="What it is like"
          name="words"
          placeholder="runs like syrup, gathers at the chin"
          value={words}
          set={setWords}
          problem={keep.problem}
        />
        <Plain mt="8px" h="40px" disabled={keep.busy || !runs.trim()} onClick={() => void keep.run()}>
          Keep it with the recipe
        </Plain>
        <Refusal problem={keep.problem} />
      </details>
    </Box>
  );
}
