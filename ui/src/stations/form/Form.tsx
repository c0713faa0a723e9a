import { Box, Flex, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useClock, usePieces, useRegions } from "../../app/reads";
import { Choose, Entry, Go, Heading, Refusal, Teach } from "../../parts/controls";
import { day, isoDay, words } from "../../parts/format";
import { RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";

/** Life casts, cores and stands: whose, of what, where they stand. */
export default function Form() {
  const forms = useQuery({ queryKey: ["forms"], queryFn: () => ask(api.GET("/api/forms")) });
  const pieces = usePieces();
  if (!forms.data || !pieces.data) return null;
  const here = pieces.data.filter((p) => p.place === "form");
  return (
    <Box>
      <RoomHead title="Forms" aside="life casts, cores and stands" />
      <Grid templateColumns="minmax(0,1fr) 320px" gap="36px">
        <Box>
          {forms.data.length === 0 && (
            <Teach>No form is registered yet. Register the first life cast or stand on the right; it gets a code to write on its base.</Teach>
          )}
          {forms.data.map((f) => (
            <Flex key={f.code} gap="16px" py="9px" borderBottomWidth="1px" borderColor="line" align="center">
              <Tag code={f.code} />
              <Box flex="1">
                <b>{f.performer ?? "general"}</b>, {words(f.region)}, {f.material}
                <Box color="muted" fontSize="14px">
                  made {day(f.made_on)}
                  {f.state && `, ${f.state}`}
                  {f.moulds && ` · core of ${f.moulds}`}
                </Box>
              </Box>
              <Box color="muted">{f.place}</Box>
            </Flex>
          ))}
        </Box>
        <Box>
          <NewForm />
          {here.length > 0 && (
            <Box mt="22px">
              <Heading>Pieces that stand here</Heading>
              <Standing empty={null} items={here.map((p) => ({ code: p.code, text: p.name, to: `/piece/${p.code}` }))} />
            </Box>
          )}
        </Box>
      </Grid>
    </Box>
  );
}

function NewForm() {
  const regions = useRegions();
  const pieces = usePieces();
  const clock = useClock();
  const [performer, setPerformer] = useState("");
  const [region, setRegion] = useState("face");
  const [material, setMaterial] = useState("");
  const [place, setPlace] = useState("");
  const [made, setMade] = useState("");
  const today = clock.data ? isoDay(new Date(clock.data.now)) : "";
  const names = [...new Set(pieces.data?.map((p) => p.performer).filter((n): n is string => !!n))];
  const add = useAct(async () => {
    await ask(api.POST("/api/forms", { body: { performer, region, material, place, made_on: made || today } }));
    setMaterial("");
    setPlace("");
  });
  return (
    <Flex direction="column" gap="9px">
      <Heading>Register a form</Heading>
      <Choose label="Whose" name="performer" value={performer} set={setPerformer} problem={add.problem}>
        <option value="">general, or a stand</option>
        {names.map((n) => (
          <option key={n}>{n}</option>
        ))}
      </Choose>
      <Choose label="Shows" name="region" value={region} set={setRegion} problem={add.problem}>
        {regions.data?.map((r) => (
          <option key={r.name} value={r.name}>
            {r.text}
          </option>
        ))}
      </Choose>
      <Entry label="Made of" name="material" value={material} set={setMaterial} problem={add.problem} placeholder="hard stone" />
      <Entry label="Stands" name="place" value={place} set={setPlace} problem={add.problem} placeholder="rack 2" />
      <Entry label="Made on" name="made_on" type="date" value={made || today} set={setMade} problem={add.problem} />
      <Flex>
        <Go act={() => void add.run()} disabled={add.busy}>
          Register it
        </Go>
      </Flex>
      <Refusal problem={add.problem} fields={["performer", "region", "material", "place", "made_on"]} />
    </Flex>
  );
}
