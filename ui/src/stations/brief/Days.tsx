import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useDevice } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day, isoDay } from "../../parts/format";
import { fields } from "../../parts/Room";

type Day = Schemas["ProductionDay"];
type Sky = "dry" | "sun" | "rain";

const skyOf = (d: { sun: boolean; rain: boolean }): Sky => (d.rain ? "rain" : d.sun ? "sun" : "dry");

/** On which shooting days the piece is worn, and in what air. */
export function Days({ piece }: { piece: Schemas["PieceView"] }) {
  const [open, setOpen] = useState<number | "new">();
  const set = useAct((day_ids: number[]) => ask(api.PUT("/api/pieces/{code}/days", { params: { path: { code: piece.code } }, body: { day_ids } })));
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(open === "new" ? undefined : "new")}>
            add a day
          </Box>
        }
      >
        Worn on
      </Heading>
      {open === "new" && <DayForm production={piece.production_id} close={() => setOpen(undefined)} />}
      {piece.days.length === 0 && open !== "new" && <Box color="muted">No shooting day is known yet. Add the first one.</Box>}
      <Grid templateColumns="1fr 1fr" gap="2px 18px">
        {piece.days.map((d) =>
          open === d.id ? (
            <Box key={d.id} gridColumn="span 2">
              <DayForm production={piece.production_id} day={d} close={() => setOpen(undefined)} />
            </Box>
          ) : (
            <Flex key={d.id} align="baseline" gap="8px">
              <Checkbox.Root
                size="sm"
                flex="1"
                checked={piece.day_ids.includes(d.id)}
                onCheckedChange={(e) => void set.run(e.checked ? [...piece.day_ids, d.id] : piece.day_ids.filter((x) => x !== d.id))}
              >
                <Checkbox.HiddenInput />
                <Checkbox.Control borderColor="ink" />
                <Checkbox.Label>
                  {day(d.day)}{" "}
                  <Box as="span" color="muted">
                    {d.place}, {d.temp_c} °C, {Math.round(d.rh * 100)} %{d.rain ? ", rain" : d.sun ? ", sun" : ""}, {d.light}
                  </Box>
                </Checkbox.Label>
              </Checkbox.Root>
              <Box
                as="button"
                color="muted"
                fontSize="13px"
                textDecoration="underline"
                aria-label={`${d.source === "forecast" ? "forecast" : "change"} ${day(d.day)}`}
                onClick={() => setOpen(d.id)}
              >
                {d.source === "forecast" ? "forecast" : "change"}
              </Box>
            </Flex>
          ),
        )}
      </Grid>
      <Refusal problem={set.problem} />
    </Box>
  );
}

function DayForm({ production, day: d, close }: { production: number; day?: Day; close: () => void }) {
  const [date, setDate] = useState(d ? isoDay(new Date(d.day)) : "");
  const [place, setPlace] = useState(d?.place ?? "");
  const [temp, setTemp] = useState(d ? String(d.temp_c) : "18");
  const [rh, setRh] = useState(d ? String(Math.round(d.rh * 100)) : "50");
  const [light, setLight] = useState(d?.light ?? "daylight");
  const [sky, setSky] = useState<Sky>(d ? skyOf(d) : "dry");
  const [source, setSource] = useState<"typed" | "forecast">(d?.source ?? "typed");
  const [version] = useState(d?.version ?? 0); // the one that was seen
  // What a hand overwrites is no forecast any more.
  const typed =
    <T,>(set: (v: T) => void) =>
    (v: T) => {
      set(v);
      setSource("typed");
    };
  const told = useDevice("forecast");
  const forecast = useAct(async () => {
    const w = await ask(api.GET("/api/forecast", { params: { query: { place, day: date } } }));
    setTemp(String(w.temp_c));
    setRh(String(Math.round(w.rh * 100)));
    setSky(skyOf(w));
    setSource("forecast");
  });
  const keep = useAct(async () => {
    const body = { day: date, place, temp_c: Number(temp), rh: Number(rh) / 100, light, sun: sky === "sun", rain: sky === "rain", source };
    if (d) await ask(api.PUT("/api/days/{id}", { params: { path: { id: d.id } }, body: { ...body, version } }));
    else await ask(api.POST("/api/productions/{id}/days", { params: { path: { id: production } }, body }));
    close();
  });
  const remove = useAct(async (id: number) => {
    await ask(api.DELETE("/api/days/{id}", { params: { path: { id } } }));
    close();
  });
  const problem = keep.problem ?? forecast.problem ?? remove.problem;
  return (
    <Box mb="10px" p="10px" bg="deep" borderRadius="4px 14px 14px 14px">
      <Grid templateColumns={fields("1.3fr 1.3fr 0.7fr 0.7fr 0.9fr 1fr")} gap="8px">
        <Entry label="Day" name="day" type="date" value={date} set={setDate} problem={problem} />
        <Entry label="Place" name="place" value={place} set={setPlace} problem={problem} />
        <Entry label="°C" name="temp_c" value={temp} set={typed(setTemp)} problem={problem} />
        <Entry label="% RH" name="rh" value={rh} set={typed(setRh)} problem={problem} />
        <Choose label="Sky" name="sky" value={sky} set={(s) => typed(setSky)(s as Sky)} problem={problem}>
          <option value="dry">dry</option>
          <option value="sun">in the sun</option>
          <option value="rain">rain</option>
        </Choose>
        <Entry
          label="Light"
          name="light"
          value={light}
          set={setLight}
          problem={problem}
          suggestions={["daylight", "tungsten", "LED", "the set's own"]}
        />
      </Grid>
      <Flex gap="10px" mt="8px" align="center" wrap="wrap">
        <Plain disabled={keep.busy} onClick={() => void keep.run()}>
          {d ? "Keep the day" : "Add the day"}
        </Plain>
        {told && (
          <Plain disabled={forecast.busy || !date || !place} onClick={() => void forecast.run()}>
            Ask the forecast
          </Plain>
        )}
        <Plain onClick={close}>Leave it</Plain>
        {d && (
          <Plain disabled={remove.busy} onClick={() => void remove.run(d.id)}>
            Take the day out
          </Plain>
        )}
        <Box layerStyle="small">{source === "forecast" ? "as forecast; type over it where you know better" : ""}</Box>
        <Refusal problem={problem} />
      </Flex>
    </Box>
  );
}
