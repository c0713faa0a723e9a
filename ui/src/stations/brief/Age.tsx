import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day } from "../../parts/format";

/** What is needed of a performer under age before anything is agreed. */
export function Age({ performer: p }: { performer: Schemas["PeoplePerformer"] }) {
  const [open, setOpen] = useState(false);
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            {p.of_age_on ? "change" : "under age"}
          </Box>
        }
      >
        Age
      </Heading>
      {p.of_age_on ? (
        <Box>
          Under age until {day(p.of_age_on)}. Guardian {p.guardian || "not named"}, chaperone {p.chaperone || "not named"},{" "}
          {p.law_hours ? `${p.law_hours} h of work by local law.` : "hours of the local law not said."}
        </Box>
      ) : (
        !open && <Box color="muted">Grown up, as far as is written here.</Box>
      )}
      {open && <Fields key={p.id} performer={p} done={() => setOpen(false)} />}
    </Box>
  );
}

function Fields({ performer: p, done }: { performer: Schemas["PeoplePerformer"]; done: () => void }) {
  const [until, setUntil] = useState(p.of_age_on?.slice(0, 10) ?? "");
  const [guardian, setGuardian] = useState(p.guardian);
  const [chaperone, setChaperone] = useState(p.chaperone);
  const [hours, setHours] = useState(p.law_hours ? String(p.law_hours) : "");
  const keep = useAct(async () => {
    const law_hours = Number(hours.replace(",", "."));
    await ask(
      api.PUT("/api/performers/{id}/age", {
        params: { path: { id: p.id } },
        body: { of_age_on: until, guardian, chaperone, ...(hours.trim() ? { law_hours } : {}) },
      }),
    );
    done();
  });
  return (
    <Box mt="8px">
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Entry label="Of age on" name="of_age_on" type="date" value={until} set={setUntil} problem={keep.problem} hint="empty for a grown person" />
        <Entry label="Hours by local law" name="law_hours" value={hours} set={setHours} problem={keep.problem} />
        <Entry label="Guardian" name="guardian" value={guardian} set={setGuardian} problem={keep.problem} />
        <Entry label="Chaperone" name="chaperone" value={chaperone} set={setChaperone} problem={keep.problem} />
      </Grid>
      <Flex mt="8px" gap="10px" align="center">
        <Plain disabled={keep.busy} onClick={() => void keep.run()}>
          Keep it
        </Plain>
        <Box layerStyle="small">The guardian's consent is written down under Consent.</Box>
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}
