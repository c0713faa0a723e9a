import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useClock, useForms, usePieces, useRegions } from "../../app/reads";
import { Choose, Entry, Go, Heading, Refusal, Teach } from "../../parts/controls";
import { day, isoDay, words } from "../../parts/format";
import { Leaves } from "../../parts/Leaves";
import { RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { LifeCasts } from "./LifeCasts";

const leaves = ["On the racks", "Life casts"] as const;

/** Every form, whose it is, what it shows, where it stands and what is built on it. */
export function Register() {
  const forms = useForms();
  const pieces = usePieces();
  const [search, setSearch] = useSearchParams();
  const leaf = leaves.find((l) => l === search.get("leaf")) ?? leaves[0];
  const [narrow, setNarrow] = useState("");
  if (!forms.data || !pieces.data) return null;
  const here = pieces.data.filter((p) => p.place === "form");
  const list = forms.data.filter((f) => JSON.stringify(Object.values(f)).toLowerCase().includes(narrow.toLowerCase()));
  return (
    <Box>
      <RoomHead title="Forms" aside="life casts, cores and stands; scans of them and of what is sculpted on them" />
      <Leaves of="the form room" list={leaves} leaf={leaf} choose={(l) => setSearch({ leaf: l }, { replace: true })} />
      {leaf === "Life casts" ? (
        <LifeCasts />
      ) : (
        <Grid templateColumns={{ base: "1fr", lg: "minmax(0,1fr) 320px" }} gap="36px" mt="12px">
          <Box>
            <Entry label="Narrow" name="narrow" value={narrow} set={setNarrow} placeholder="whose, where, nose, stone …" width="300px" />
            {forms.data.length === 0 && (
              <Teach>No form is registered yet. Register the first life cast or stand on the right; it gets a code to write on its base.</Teach>
            )}
            {list.map((f) => (
              <FormRow key={f.code} form={f} />
            ))}
            {forms.data.length > 0 && list.length === 0 && (
              <Box color="muted" py="12px">
                No form has that in it.
              </Box>
            )}
          </Box>
          <Box>
            <NewForm />
            <Box mt="22px">
              <Heading>Pieces that stand here</Heading>
              <Standing
                empty={<Box color="muted">None just now. Every piece has its scans, wherever it stands.</Box>}
                items={here.map((p) => ({ code: p.code, text: p.name, to: `/form/${p.code}` }))}
              />
            </Box>
          </Box>
        </Grid>
      )}
    </Box>
  );
}

function FormRow({ form: f }: { form: Schemas["Form"] }) {
  return (
    <Flex gap="16px" py="9px" borderBottomWidth="1px" borderColor="line" align="center">
      <Tag code={f.code} to={`/form/${f.code}`} />
      <Box flex="1">
        <b>{f.performer ?? "general"}</b>, {words(f.region)}, {f.material}
        <Box layerStyle="note">
          {f.kind}, made {day(f.made_on)}
          {f.state && `, ${f.state}`}
          {f.moulds && ` · core of ${f.moulds}`}
          {f.pieces && ` · built on it: ${f.pieces}`}
        </Box>
      </Box>
      <Box color="muted" w="64px">
        {f.scans === 1 ? "1 scan" : f.scans > 1 ? `${f.scans} scans` : "no scan"}
      </Box>
      <Box color="muted" w="120px" textAlign="end">
        {f.place}
      </Box>
    </Flex>
  );
}

const kinds = ["life cast", "general form", "core", "stand"] as const;

function NewForm() {
  const regions = useRegions();
  const pieces = usePieces();
  const clock = useClock();
  const [kind, setKind] = useState<(typeof kinds)[number]>("life cast");
  const [performer, setPerformer] = useState("");
  const [region, setRegion] = useState("face");
  const [material, setMaterial] = useState("");
  const [place, setPlace] = useState("");
  const [how, setHow] = useState("");
  const [made, setMade] = useState("");
  const today = clock.data ? isoDay(new Date(clock.data.now)) : "";
  const names = [...new Set(pieces.data?.map((p) => p.performer).filter((n): n is string => !!n))];
  const add = useAct(async () => {
    await ask(api.POST("/api/forms", { body: { performer, kind, region, material, place, taken_how: how, made_on: made || today } }));
    setMaterial("");
    setPlace("");
    setHow("");
  });
  return (
    <Flex direction="column" gap="9px">
      <Heading>Register a form</Heading>
      <Choose label="It is a" name="kind" value={kind} set={(k) => setKind(k as typeof kind)} problem={add.problem}>
        {kinds.map((k) => (
          <option key={k}>{k}</option>
        ))}
      </Choose>
      <Grid templateColumns="1fr 1fr" gap="8px">
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
      </Grid>
      <Entry label="How it was taken" name="taken_how" value={how} set={setHow} problem={add.problem} placeholder="alginate, bandage jacket" />
      <Entry label="Made on" name="made_on" type="date" value={made || today} set={setMade} problem={add.problem} />
      <Flex>
        <Go act={() => void add.run()} disabled={add.busy}>
          Register it
        </Go>
      </Flex>
      <Refusal problem={add.problem} />
    </Flex>
  );
}
