import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { resultWords, TrialLine } from "../../app/TriedBefore";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";

const none = { what: "", job: "", reason: "", drying: "", skin: "", method: "", result: "worked" as Schemas["BriefNewTrial"]["result"] };

/** What was tried before for the like, improvised things too, and how it went. */
export function Trials({
  piece,
  list,
  methods,
}: {
  piece: Schemas["PieceView"];
  list: Schemas["BriefTrial"][];
  methods: Schemas["CraftAdviseAdvice"][];
}) {
  const [draft, setDraft] = useState(none);
  const [writing, setWriting] = useState(false);
  const set = (next: Partial<typeof none>) => setDraft({ ...draft, ...next });
  const act = useAct(async () => {
    await ask(api.POST("/api/trials", { body: { ...draft, region: piece.region, piece: piece.code } }));
    setDraft(none);
    setWriting(false);
  });
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setWriting(!writing)}>
            {writing ? "not now" : "write one down"}
          </Box>
        }
      >
        Tried before
      </Heading>
      {list.length === 0 && !writing && <Box color="muted">Nothing is written down for this place yet. Sauces and sponges count too.</Box>}
      {list.map((t) => (
        <TrialLine key={t.id} trial={t} />
      ))}
      {writing && (
        <Flex direction="column" gap="8px" mt="6px">
          <Grid templateColumns="1fr 1fr" gap="8px">
            <Entry label="What was tried" name="what" value={draft.what} set={(what) => set({ what })} problem={act.problem} />
            <Entry label="For which job" name="job" value={draft.job} set={(job) => set({ job })} problem={act.problem} />
            <Choose label="It" name="result" value={draft.result} set={(r) => set({ result: r as typeof draft.result })}>
              {Object.entries(resultWords).map(([k, text]) => (
                <option key={k} value={k}>
                  {text}
                </option>
              ))}
            </Choose>
            <Choose label="Counts for the method" name="method" value={draft.method} set={(method) => set({ method })} problem={act.problem}>
              <option value="">none of them</option>
              {methods.map((m) => (
                <option key={m.slug} value={m.slug}>
                  {m.name}
                </option>
              ))}
            </Choose>
            <Entry label="Drying" name="drying" value={draft.drying} set={(drying) => set({ drying })} />
            <Entry label="What the skin did" name="skin" value={draft.skin} set={(skin) => set({ skin })} />
          </Grid>
          <Entry label="Why it went so" name="reason" value={draft.reason} set={(reason) => set({ reason })} problem={act.problem} />
          <Refusal problem={act.problem} />
          <Plain alignSelf="start" onClick={() => void act.run()}>
            Write it down
          </Plain>
        </Flex>
      )}
    </Box>
  );
}
