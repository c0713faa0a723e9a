import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useClock, usePieces, useRegions } from "../../app/reads";
import { Choose, Entry, Figure, Go, Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { clockTime, countdown, day, duration, grams, words } from "../../parts/format";
import { Tag } from "../../parts/Tag";

type LifeCast = Schemas["FormLifeCast"];
type Event = Schemas["FormNewEvent"]["kind"];

/** Life casts: planned, checked, taken by the clock, written down. */
export function LifeCasts() {
  const casts = useRead({ queryKey: ["life casts"], queryFn: () => ask(api.GET("/api/life-casts")) });
  const [held, setHeld] = useState<number>();
  if (!casts.data) return null;
  const cast = casts.data.find((c) => c.id === held) ?? casts.data.find((c) => !c.ended_at);
  return (
    <Grid templateColumns={{ base: "1fr", lg: "300px minmax(0,1fr)" }} gap="32px" mt="12px">
      <Flex direction="column" gap="18px">
        <Box>
          <Heading>Planned and taken</Heading>
          {casts.data.length === 0 && <Box color="muted">None yet.</Box>}
          {casts.data.map((c) => (
            <Box
              as="button"
              key={c.id}
              display="block"
              w="100%"
              textAlign="start"
              py="6px"
              px="8px"
              bg={cast?.id === c.id ? "heatherSoft" : "transparent"}
              aria-pressed={cast?.id === c.id}
              onClick={() => setHeld(c.id)}
            >
              <b>{c.performer}</b>, {words(c.region)}
              <Box layerStyle="small">
                {c.plan.way} ·{" "}
                {c.ended_at ? `taken ${day(c.began_at ?? c.planned_at)}` : c.began_at ? "on the body now" : `planned ${day(c.planned_at)}`}
              </Box>
            </Box>
          ))}
        </Box>
        <NewCast done={setHeld} />
      </Flex>
      {cast ? (
        <One key={cast.id} cast={cast} />
      ) : (
        <Teach>Plan a life cast on the left: how much to weigh out, how long it may take, and what has to be seen before the clock starts.</Teach>
      )}
    </Grid>
  );
}

const ways = ["alginate", "skin silicone", "two silicones"] as const;

function NewCast({ done }: { done: (id: number) => void }) {
  const pieces = usePieces();
  const regions = useRegions();
  const names = [...new Set(pieces.data?.map((p) => p.performer).filter((n): n is string => !!n))];
  const [who, setWho] = useState("");
  const [region, setRegion] = useState("face");
  const [way, setWay] = useState<(typeof ways)[number]>("alginate");
  const [area, setArea] = useState("");
  const [water, setWater] = useState("20");
  const [hair, setHair] = useState("");
  const plan = useAct(async () => {
    const made = await ask(
      api.POST("/api/life-casts", {
        body: {
          performer: who || names[0] || "",
          region,
          plan: { way, face: false, area_cm2: Number(area) || 0, water_c: Number(water) || 0, hair },
        },
      }),
    );
    done(made.id);
  });
  return (
    <Flex direction="column" gap="8px">
      <Heading>Plan one</Heading>
      <Choose label="Whose" name="performer" value={who || names[0] || ""} set={setWho} problem={plan.problem}>
        {names.map((n) => (
          <option key={n}>{n}</option>
        ))}
      </Choose>
      <Choose label="What is cast" name="region" value={region} set={setRegion} problem={plan.problem}>
        {regions.data?.map((r) => (
          <option key={r.name} value={r.name}>
            {r.text}
          </option>
        ))}
      </Choose>
      <Choose label="Taken with" name="way" value={way} set={(w) => setWay(w as typeof way)} problem={plan.problem}>
        {ways.map((w) => (
          <option key={w}>{w}</option>
        ))}
      </Choose>
      <Entry label="Area, cm²" name="area_cm2" value={area} set={setArea} problem={plan.problem} placeholder="usual for the region" />
      {way === "alginate" && <Entry label="Water, °C" name="water_c" value={water} set={setWater} problem={plan.problem} />}
      <Entry label="Hair kept free by" name="hair" value={hair} set={setHair} problem={plan.problem} placeholder="cap, release cream" />
      <Flex>
        <Plain disabled={plan.busy} onClick={() => void plan.run()}>
          Plan it
        </Plain>
      </Flex>
      <Refusal problem={plan.problem} />
    </Flex>
  );
}

const happened: Event[] = [
  "mixed",
  "on the skin",
  "sagged",
  "air trapped",
  "jacket on",
  "off the skin",
  "cast poured",
  "corrected",
  "stopped",
  "note",
];

function One({ cast: c }: { cast: LifeCast }) {
  const clock = useClock();
  const untick = useAct((item: string) => ask(api.POST("/api/life-casts/{id}/ticks/back", { params: { path: { id: c.id } }, body: { item } })));
  const tick = useAct((item: string) => ask(api.POST("/api/life-casts/{id}/ticks", { params: { path: { id: c.id } }, body: { item } })));
  const begin = useAct(() => ask(api.POST("/api/life-casts/{id}/begin", { params: { path: { id: c.id } } })));
  const [note, setNote] = useState("");
  // The same key until the server has it, so that a lost answer writes nothing twice.
  const key = useRef(crypto.randomUUID());
  const event = useAct(async (kind: Event) => {
    await ask(api.POST("/api/life-casts/{id}/events", { params: { path: { id: c.id } }, body: { kind, words: note, key: key.current } }));
    key.current = crypto.randomUUID();
    setNote("");
  });
  const now = useBench(clock.data?.now);
  const passed = c.began_at && now ? (now - new Date(c.began_at).getTime()) / 1000 : 0;
  const next = c.plan.checks.find((k) => !c.ticks.some((t) => t.item === k.key));
  const over = passed > c.plan.working_s;
  return (
    <Grid templateColumns={{ base: "1fr", xl: "minmax(0,1fr) 330px" }} gap="28px">
      <Flex direction="column" gap="14px">
        {c.began_at && !c.ended_at ? (
          <Box borderWidth="1.5px" borderColor="ink" borderRadius="3px 18px 18px 3px" p="12px 18px" bg={over ? "gorseSoft" : "sheet"}>
            <Box fontSize="14px" color="muted">
              {over ? "working time is over: do not move it any more" : "may still be moved for"}
            </Box>
            <Box fontSize="64px" fontWeight="700" lineHeight="1" role="timer" aria-live="off">
              {countdown(over ? passed : c.plan.working_s - passed)}
            </Box>
            <Box fontSize="14px">
              set in about {duration(Math.max(0, c.plan.set_s - passed))} · off the body {duration(Math.max(0, c.plan.on_body_s - passed))} from now
              at the latest
            </Box>
          </Box>
        ) : (
          <Box>
            <Heading aside={c.ended_at ? "taken" : `${c.missing.length} of ${c.plan.checks.length} left`}>Seen before the clock starts</Heading>
            {c.plan.checks.map((k) => {
              const t = c.ticks.find((x) => x.item === k.key);
              return (
                <Flex key={k.key} gap="10px" py="4px" align="start">
                  <input
                    type="checkbox"
                    id={`k${k.key}`}
                    checked={!!t}
                    disabled={(!!t && !!c.began_at) || !!c.ended_at || tick.busy || untick.busy}
                    onChange={() => void (t ? untick : tick).run(k.key)}
                    style={{ marginTop: 4 }}
                  />
                  <label htmlFor={`k${k.key}`}>
                    {k.text}{" "}
                    <Box as="span" layerStyle="small">
                      {t ? `${t.who}, ${clockTime(t.at)}` : k.why}
                    </Box>
                  </label>
                </Flex>
              );
            })}
            <Refusal problem={tick.problem ?? untick.problem} />
            {!c.ended_at && (
              <Flex gap="12px" mt="8px" align="center">
                {next ? (
                  <Go act={() => void tick.run(next.key)} disabled={tick.busy}>
                    Seen
                  </Go>
                ) : (
                  <Go act={() => void begin.run()} disabled={begin.busy}>
                    Start the clock
                  </Go>
                )}
                <Box layerStyle="note">{next ? next.text : "Everything was seen. The clock runs from the first water."}</Box>
              </Flex>
            )}
            <Refusal problem={begin.problem} />
          </Box>
        )}
        {(c.began_at || c.events.length > 0) && (
          <Box>
            <Heading>As it went</Heading>
            {c.events.map((e) => (
              <Flex key={e.id} gap="10px" fontSize="14.5px">
                <Box w="52px" color="muted">
                  {clockTime(e.at)}
                </Box>
                <Box flex="1">
                  <b>{e.kind}</b> {e.words}
                </Box>
                <Box color="muted">{e.who}</Box>
              </Flex>
            ))}
            {!c.ended_at && (
              <>
                <Entry
                  label="In a few words"
                  name="words"
                  value={note}
                  set={setNote}
                  problem={event.problem}
                  placeholder="left cheek, near the jaw"
                />
                <Flex gap="6px" wrap="wrap" mt="6px">
                  {happened.map((k) => (
                    <Plain key={k} h="38px" px="13px" disabled={event.busy} onClick={() => void event.run(k)}>
                      {k}
                    </Plain>
                  ))}
                </Flex>
                <Refusal problem={event.problem} />
                <End cast={c} />
              </>
            )}
          </Box>
        )}
        {c.ended_at && (
          <Figure label="How it came out">
            {c.verdict || "nothing said"} {c.form && <Tag code={c.form} to={`/form/${c.form}`} />}
          </Figure>
        )}
      </Flex>
      <Flex direction="column" gap="14px">
        <Box>
          <Heading aside={c.plan.way}>Weigh out</Heading>
          {c.plan.lines.map((l) => (
            <Figure key={l.what} label={l.what} why={l.rule}>
              {grams(l.order_g)}
            </Figure>
          ))}
          <Figure label="Over" why="area and layer">
            {c.plan.area_cm2.toFixed(0)} cm², {c.plan.thickness_mm} mm
          </Figure>
        </Box>
        <Box>
          <Heading>Time</Heading>
          <Figure label="Can be worked" why="by the water; a spoonful tried first replaces it">
            {duration(c.plan.working_low_s)} to {duration(c.plan.working_s)}
          </Figure>
          <Figure label="Set">{duration(c.plan.set_s)}</Figure>
          <Figure label="On the body">{duration(c.plan.on_body_s)}</Figure>
        </Box>
        <Box>
          <Heading>From the skin outwards</Heading>
          {c.plan.stack.map((l) => (
            <Box key={l.what} mb="4px" lineHeight="1.3">
              {l.what}
              <Box layerStyle="small">{l.role}</Box>
            </Box>
          ))}
        </Box>
        <Box color="rust" fontSize="13.5px">
          {c.plan.cautions.map((t) => (
            <Box key={t} mb="3px">
              {t}
            </Box>
          ))}
        </Box>
      </Flex>
    </Grid>
  );
}

/** The bench clock, going on between two readings of it. */
function useBench(said: string | undefined): number | undefined {
  const base = useRef<{ said: number; at: number }>(undefined);
  const [now, setNow] = useState<number>();
  useEffect(() => {
    if (said) base.current = { said: new Date(said).getTime(), at: performance.now() };
  }, [said]);
  useEffect(() => {
    const t = window.setInterval(() => base.current && setNow(base.current.said + performance.now() - base.current.at), 500);
    return () => window.clearInterval(t);
  }, []);
  return now;
}

function End({ cast: c }: { cast: LifeCast }) {
  const [verdict, setVerdict] = useState("");
  const [material, setMaterial] = useState("hard stone");
  const [place, setPlace] = useState("");
  const end = useAct((register: boolean) =>
    ask(api.POST("/api/life-casts/{id}/end", { params: { path: { id: c.id } }, body: { verdict, register, material, place } })),
  );
  if (!c.began_at) return null;
  return (
    <Box mt="14px">
      <Heading>When it is off</Heading>
      <Grid templateColumns="2fr 1fr 1fr" gap="8px">
        <Entry
          label="How it came out"
          name="verdict"
          value={verdict}
          set={setVerdict}
          problem={end.problem}
          placeholder="good, bubble at the lobe filled"
        />
        <Entry label="The form is of" name="material" value={material} set={setMaterial} problem={end.problem} />
        <Entry label="and stands" name="place" value={place} set={setPlace} problem={end.problem} placeholder="rack 2" />
      </Grid>
      <Flex gap="8px" mt="8px">
        <Plain disabled={end.busy} onClick={() => void end.run(true)}>
          Register the form
        </Plain>
        <Plain disabled={end.busy} onClick={() => void end.run(false)}>
          Nothing came of it
        </Plain>
      </Flex>
      <Refusal problem={end.problem} />
    </Box>
  );
}
