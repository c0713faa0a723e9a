import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useClock, useMaterials, useMe } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day, isoDay } from "../../parts/format";
import { Bears, Consents, Exposures } from "./Bears";

type Performer = Schemas["PeoplePerformer"];

const tone: Record<string, string> = { allergic: "rust", sensitive: "gorse", clear: "ink", positive: "rust", open: "gorse" };

/** What is known of the wearer's skin: sensitivities and patch tests. */
export function Wearer({ id }: { id?: number }) {
  const performer = useRead({
    queryKey: ["performer", id],
    enabled: !!id,
    queryFn: () => ask(api.GET("/api/performers/{id}", { params: { path: { id: id ?? 0 } } })),
  });
  const clock = useClock();
  if (!id) {
    return (
      <Box>
        <Heading>The wearer</Heading>
        <Box color="muted">
          Nobody is named yet. Begin the next piece of this character with the performer's name, and what touches their skin is checked from then on.
        </Box>
      </Box>
    );
  }
  if (performer.error && !performer.data) {
    return (
      <Box>
        <Heading>The wearer</Heading>
        <Box color="muted">
          What is known of the wearer's skin is seen by leads and fabricators. What follows from it stands on the section, for everybody.
        </Box>
      </Box>
    );
  }
  if (!performer.data || !clock.data) return null;
  const p = performer.data;
  const today = isoDay(new Date(clock.data.now));
  return (
    <Flex direction="column" gap="16px">
      <Health performer={p} />
      <Patches performer={p} today={today} />
      <Exposures performer={p} />
      <Limits performer={p} />
      <Bears performer={p} />
      <Consents performer={p} today={today} />
      <Box layerStyle="small">Whose skin takes what is for licensed medical advice to say. This page only remembers.</Box>
    </Flex>
  );
}

function Health({ performer }: { performer: Performer }) {
  const me = useMe();
  const [substance, setSubstance] = useState("");
  const [status, setStatus] = useState<"allergic" | "sensitive" | "clear">("allergic");
  const [note, setNote] = useState("");
  const [open, setOpen] = useState(false);
  const path = { path: { id: performer.id } };
  const record = useAct(async () => {
    await ask(api.POST("/api/performers/{id}/health", { params: path, body: { substance, status, note } }));
    setSubstance("");
    setNote("");
    setOpen(false);
  });
  const erase = useAct((fact: number) => ask(api.DELETE("/api/performers/{id}/health/{fact}", { params: { path: { id: performer.id, fact } } })));
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            record
          </Box>
        }
      >
        {performer.name}
      </Heading>
      {performer.health.length === 0 && !open && <Box color="muted">No sensitivity is recorded. Ask before the first touch.</Box>}
      {performer.health.map((h) => (
        <Flex key={h.id} gap="10px" py="2px" align="baseline">
          <Box w="88px">{h.substance}</Box>
          <Box flex="1" color={tone[h.status]} fontWeight="600">
            {h.status}
            <Box as="span" color="muted" fontWeight="400">
              {h.note && `, ${h.note}`}
            </Box>
          </Box>
          {me.data?.person?.role === "lead" && (
            <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => void erase.run(h.id)}>
              erase
            </Box>
          )}
        </Flex>
      ))}
      {open && (
        <Box mt="8px">
          <Grid templateColumns="1fr 1fr" gap="8px">
            <Entry
              label="To what"
              name="substance"
              value={substance}
              set={setSubstance}
              problem={record.problem}
              placeholder="latex"
              suggestions={["latex"]}
            />
            <Choose label="It is" name="status" value={status} set={(s) => setStatus(s as typeof status)} problem={record.problem}>
              <option value="allergic">allergic</option>
              <option value="sensitive">sensitive, cause unclear</option>
              <option value="clear">clear</option>
            </Choose>
          </Grid>
          <Box h="6px" />
          <Entry label="Note" name="note" value={note} set={setNote} problem={record.problem} />
          <Flex mt="8px">
            <Plain disabled={record.busy} onClick={() => void record.run()}>
              Record it
            </Plain>
          </Flex>
        </Box>
      )}
      <Refusal problem={record.problem ?? erase.problem} />
    </Box>
  );
}

function Patches({ performer, today }: { performer: Performer; today: string }) {
  const materials = useMaterials();
  const [open, setOpen] = useState(false);
  const [material, setMaterial] = useState("adhesive-acrylic");
  const [result, setResult] = useState<"open" | "clear" | "positive">("clear");
  const [tested, setTested] = useState(today);
  const [expires, setExpires] = useState("");
  useEffect(() => {
    const d = new Date(`${tested}T00:00:00Z`);
    if (!Number.isNaN(d.getTime())) setExpires(isoDay(new Date(d.getTime() + 60 * 86_400_000)));
  }, [tested]);
  const record = useAct(async () => {
    await ask(
      api.POST("/api/performers/{id}/patch-tests", {
        params: { path: { id: performer.id } },
        body: { material, result, tested_on: tested, expires_on: expires },
      }),
    );
    setOpen(false);
  });
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            add
          </Box>
        }
      >
        Patch tests
      </Heading>
      {performer.patch_tests.length === 0 && !open && <Box color="muted">None yet. Test adhesive, latex, colour and remover a day or two ahead.</Box>}
      {performer.patch_tests.map((t) => {
        const over = t.expires_on.slice(0, 10) < today;
        return (
          <Flex key={t.id} gap="10px" py="2px" lineHeight="1.25">
            <Box flex="1">{t.material_name}</Box>
            <Box w="118px" color={over ? "rust" : tone[t.result]} fontWeight={t.result === "clear" && !over ? 400 : 600}>
              {over ? "run out" : t.result === "open" ? "open" : t.result}
              <Box as="span" color="muted" fontWeight="400">
                , to {day(t.expires_on).slice(4)}
              </Box>
            </Box>
          </Flex>
        );
      })}
      {open && (
        <Box mt="8px">
          <Grid templateColumns="1fr 1fr" gap="8px">
            <Choose label="What" name="material" value={material} set={setMaterial} problem={record.problem}>
              {materials.data
                ?.filter((m) => /^(adhesive|latex|paint|remover|barrier|silicone|gelatin)/.test(m.family))
                .map((m) => (
                  <option key={m.slug} value={m.slug}>
                    {m.name}
                  </option>
                ))}
            </Choose>
            <Choose label="Result" name="result" value={result} set={(s) => setResult(s as typeof result)} problem={record.problem}>
              <option value="clear">clear</option>
              <option value="open">still open</option>
              <option value="positive">positive</option>
            </Choose>
            <Entry label="Tested on" name="tested_on" type="date" value={tested} set={setTested} problem={record.problem} />
            <Entry label="Good until" name="expires_on" type="date" value={expires} set={setExpires} problem={record.problem} />
          </Grid>
          <Flex mt="8px">
            <Plain disabled={record.busy} onClick={() => void record.run()}>
              Add the test
            </Plain>
          </Flex>
        </Box>
      )}
      <Refusal problem={record.problem} />
    </Box>
  );
}

function Limits({ performer }: { performer: Performer }) {
  const [keeps, setKeeps] = useState(performer.keeps);
  const [animal, setAnimal] = useState(performer.excludes_animal);
  const set = useAct((excludes_animal: boolean) =>
    ask(api.PUT("/api/performers/{id}", { params: { path: { id: performer.id } }, body: { excludes_animal, keeps } })),
  );
  return (
    <Box>
      <Heading>Keeps and excludes</Heading>
      <Entry label="Beard or hair that stays" name="keeps" value={keeps} set={setKeeps} problem={set.problem} />
      <Flex gap="10px" mt="8px" align="center">
        <Box asChild>
          <label>
            <input
              type="checkbox"
              checked={animal}
              onChange={(e) => {
                setAnimal(e.target.checked);
                void set.run(e.target.checked);
              }}
            />{" "}
            nothing animal-derived
          </label>
        </Box>
        {keeps !== performer.keeps && (
          <Plain h="34px" onClick={() => void set.run(animal)}>
            Keep
          </Plain>
        )}
      </Flex>
      <Refusal problem={set.problem} />
    </Box>
  );
}
