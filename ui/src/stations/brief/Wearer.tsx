import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useClock, useMe } from "../../app/reads";
import { Sensitivities } from "../../app/Sensitivities";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { isoDay } from "../../parts/format";
import { Age } from "./Age";
import { Bears, Consents, Exposures } from "./Bears";
import { Patches } from "./Patches";

type Performer = Schemas["PeoplePerformer"];

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
      <Patches performer={p} now={new Date(clock.data.now)} />
      <Exposures performer={p} />
      <Limits performer={p} />
      <Age performer={p} />
      <Bears performer={p} />
      <Consents performer={p} today={today} />
      <Box layerStyle="small">Whose skin takes what is for licensed medical advice to say. This page only remembers.</Box>
    </Flex>
  );
}

function Health({ performer }: { performer: Performer }) {
  const me = useMe();
  const [open, setOpen] = useState(false);
  const id = performer.id;
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
      <Sensitivities
        facts={performer.health}
        none="No sensitivity is recorded. Ask before the first touch."
        record={(body) => ask(api.POST("/api/performers/{id}/health", { params: { path: { id } }, body }))}
        erase={
          me.data?.person?.role === "lead"
            ? (fact) => ask(api.DELETE("/api/performers/{id}/health/{fact}", { params: { path: { id, fact } } }))
            : undefined
        }
        open={open}
        setOpen={setOpen}
      />
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
