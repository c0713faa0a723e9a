import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day } from "../../parts/format";

/** On which shooting days the piece is worn. */
export function Days({ piece }: { piece: Schemas["PieceView"] }) {
  const [open, setOpen] = useState(false);
  const [date, setDate] = useState("");
  const [place, setPlace] = useState("");
  const [temp, setTemp] = useState("18");
  const [rh, setRh] = useState("50");
  const [light, setLight] = useState("daylight");
  const set = useAct((day_ids: number[]) => ask(api.PUT("/api/pieces/{code}/days", { params: { path: { code: piece.code } }, body: { day_ids } })));
  const add = useAct(async () => {
    await ask(
      api.POST("/api/productions/{id}/days", {
        params: { path: { id: piece.production_id } },
        body: { day: date, place, temp_c: Number(temp), rh: Number(rh) / 100, light },
      }),
    );
    setDate("");
    setOpen(false);
  });
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            add a day
          </Box>
        }
      >
        Worn on
      </Heading>
      {open && (
        <Box mb="10px">
          <Grid templateColumns="1.3fr 1.3fr 0.7fr 0.7fr 1fr" gap="8px">
            <Entry label="Day" name="day" type="date" value={date} set={setDate} problem={add.problem} />
            <Entry label="Place" name="place" value={place} set={setPlace} problem={add.problem} />
            <Entry label="°C" name="temp_c" value={temp} set={setTemp} problem={add.problem} />
            <Entry label="% RH" name="rh" value={rh} set={setRh} problem={add.problem} />
            <Entry label="Light" name="light" value={light} set={setLight} problem={add.problem} suggestions={["daylight", "tungsten", "LED"]} />
          </Grid>
          <Flex gap="10px" mt="8px" align="center">
            <Plain disabled={add.busy} onClick={() => void add.run()}>
              Add the day
            </Plain>
            <Refusal problem={add.problem} fields={["day", "place", "temp_c", "rh", "light"]} />
          </Flex>
        </Box>
      )}
      {piece.days.length === 0 && !open && <Box color="muted">No shooting day is known yet. Add the first one.</Box>}
      <Grid templateColumns="repeat(auto-fill, minmax(190px, 1fr))" gap="4px 16px">
        {piece.days.map((d) => (
          <Checkbox.Root
            key={d.id}
            size="sm"
            checked={piece.day_ids.includes(d.id)}
            onCheckedChange={(e) => void set.run(e.checked ? [...piece.day_ids, d.id] : piece.day_ids.filter((x) => x !== d.id))}
          >
            <Checkbox.HiddenInput />
            <Checkbox.Control borderColor="ink" />
            <Checkbox.Label>
              {day(d.day)}{" "}
              <Box as="span" color="muted">
                {d.place}, {d.temp_c} °C
              </Box>
            </Checkbox.Label>
          </Checkbox.Root>
        ))}
      </Grid>
      <Refusal problem={set.problem} />
    </Box>
  );
}
