import { Box, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Choose, Entry, Heading, Plain, Refusal } from "../parts/controls";
import { day } from "../parts/format";
import { fields } from "../parts/Room";
import { useAct } from "./act";
import { api, ask, type Schemas } from "./api";
import { useRead } from "./read";

type Trial = Schemas["BriefTrial"];
export const resultWords: Record<Trial["result"], string> = { worked: "worked", partly: "half worked", failed: "failed" };
const tone: Record<Trial["result"], string> = { worked: "yew", partly: "gorse", failed: "rust" };

/** One trial in a line: what, for which job, how it went and why. */
export function TrialLine({ trial: t }: { trial: Trial }) {
  return (
    <Box fontSize="14.5px" py="2px" lineHeight="1.35" data-trial={t.result}>
      <b>{t.what}</b> for {t.job}:{" "}
      <Box as="span" color={tone[t.result]} fontWeight="600">
        {resultWords[t.result]}
      </Box>
      , {t.reason}.
      <Box as="span" color="muted">
        {t.drying && ` Drying ${t.drying}.`}
        {t.skin && ` Skin: ${t.skin}.`} {t.by}, {day(t.at)}
      </Box>
    </Box>
  );
}

/** How products went before, where one of them is chosen again; nothing where nothing was written down. */
export function TriedBefore({ materials }: { materials: string[] }) {
  const of = [...new Set(materials)].filter(Boolean).sort();
  const tried = useTried(of);
  if (!tried.data?.length) return null;
  return (
    <Box data-testid="tried">
      <Box fontWeight="600" fontSize="14.5px">
        Tried before
      </Box>
      {tried.data.slice(0, 4).map((t) => (
        <TrialLine key={t.id} trial={t} />
      ))}
    </Box>
  );
}

function useTried(of: string[]) {
  return useRead({
    queryKey: ["tried", of.join(",")],
    enabled: of.length > 0,
    queryFn: () => ask(api.GET("/api/trials", { params: { query: { materials: of } } })),
  });
}

const none = { job: "", reason: "", result: "worked" as Trial["result"] };

/** How one product went before, and a place to write down how it went now. */
export function Verdicts({ material }: { material: string }) {
  const tried = useTried([material]);
  const [draft, setDraft] = useState(none);
  const put = (next: Partial<typeof none>) => setDraft({ ...draft, ...next });
  const write = useAct(async () => {
    await ask(api.POST("/api/trials", { body: { material, ...draft } }));
    setDraft(none);
  });
  return (
    <Box>
      <Heading>How it went</Heading>
      {tried.data?.length === 0 && <Box color="muted">Nothing is written down of it yet.</Box>}
      {tried.data?.map((t) => (
        <TrialLine key={t.id} trial={t} />
      ))}
      <Grid templateColumns={fields("1.4fr 0.8fr 1.8fr auto")} gap="8px" mt="6px" alignItems="end">
        <Entry label="For which job" name="job" value={draft.job} set={(job) => put({ job })} problem={write.problem} />
        <Choose label="It" name="result" value={draft.result} set={(r) => put({ result: r as Trial["result"] })}>
          {Object.entries(resultWords).map(([k, text]) => (
            <option key={k} value={k}>
              {text}
            </option>
          ))}
        </Choose>
        <Entry label="Why it went so" name="reason" value={draft.reason} set={(reason) => put({ reason })} problem={write.problem} />
        <Plain h="38px" disabled={write.busy} onClick={() => void write.run()}>
          Write it down
        </Plain>
      </Grid>
      <Refusal problem={write.problem} />
    </Box>
  );
}
