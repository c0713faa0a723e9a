import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useAct, useEach } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useArtists } from "../../app/reads";
import { useRing } from "../../app/ring";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { Notice } from "../../parts/Notice";
import { columns, fields } from "../../parts/Room";
import { clockOf, minuteOf } from "./clock";
import { Strands } from "./Strands";

type View = Schemas["HandoverChairView"];
type Choices = Schemas["CraftOutingChoices"];

/** The run of the morning, counted back from being ready: who does what, when each glue grips, and what another order would cost. */
export function MorningLeaf({ code }: { code: string }) {
  const path = { params: { path: { code } } };
  const read = useRead({ queryKey: ["kit chair", code], queryFn: () => ask(api.GET("/api/kits/{code}/chair", path)), refetchInterval: 20_000 });
  const [tried, setTried] = useState<View>();
  const [chosen, setChosen] = useState<string>();
  const tick = useEach((step: string, act: "begin" | "done" | "missed" | "undo") =>
    ask(api.POST("/api/kits/{code}/chair/ticks", { ...path, body: { key: crypto.randomUUID(), step, act } })),
  );
  const ask10 = useEach((score: number) =>
    ask(api.POST("/api/kits/{code}/chair/ticks", { ...path, body: { key: crypto.randomUUID(), act: "comfort", score } })),
  );
  const v = tried ?? read.data;
  const rings = read.data?.live.rings_min;
  const soon = read.data && rings != null && rings - read.data.now_min <= 0.4;
  useRing(soon ? [{ id: 900_000, label: read.data?.live.ring_of ?? "", left: "now" }] : [], new Date().getHours());
  if (!v || !read.data) return null;
  const next = v.live.steps.find((s) => s.state === "missed" || s.state === "next");
  const id = chosen ?? next?.id;
  const step = v.run.steps.find((s) => s.id === id);
  const stand = v.live.steps.find((s) => s.id === id);
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 330px")} gap="28px">
      <Box>
        {v.bar ? (
          <Notice tone="stop">{v.bar}</Notice>
        ) : (
          <>
            <Box fontSize="25px" fontWeight="700" data-testid="begin-by">
              On set at {clockOf(v.run.ready_min)}, so begin by {clockOf(v.run.begin_min)}
            </Box>
            {tried && (
              <Notice mt="6px" mb="6px" data-testid="price">
                Tried, not chosen yet:{" "}
                <b>
                  {tried.price_min == null || Math.abs(tried.price_min) < 0.5
                    ? "it takes as long."
                    : tried.price_min > 0
                      ? `${Math.round(tried.price_min)} min dearer.`
                      : `${Math.round(-tried.price_min)} min cheaper.`}
                </b>
              </Notice>
            )}
            <Strands v={v} chosen={id} choose={setChosen} />
          </>
        )}
      </Box>
      <Flex direction="column" gap="18px">
        {step && !tried && (
          <Box>
            <Heading>{stand?.state === "done" ? "Done" : v.today ? `Now · ${clockOf(v.now_min)}` : "On the day"}</Heading>
            <Box
              bg="sheet"
              borderWidth="1.5px"
              borderColor={stand?.state === "missed" ? "rust" : "ink"}
              borderRadius="3px 18px 18px 3px"
              p="14px"
              data-testid="step-now"
            >
              <Box color="muted">
                {step.who.join(", ")} · {clockOf(stand?.start_min ?? step.start_min)} · {step.minutes} min
                {step.slack_min > 0.5 ? ` · ${Math.round(step.slack_min)} min in hand` : " · nothing in hand"}
              </Box>
              <Box fontSize="20px" fontWeight="700">
                {step.text}
              </Box>
              {step.how && step.how !== step.text && <Box>{step.how}</Box>}
              {step.twice && <Box>{step.twice}.</Box>}
              {step.marks.length > 0 && <Box>{step.marks.map((m, i) => `${i + 1} ${m}`).join(", ")}</Box>}
              {stand?.state === "missed" ? (
                <Box color="rust" fontWeight="600">
                  The glue let go{stand.until_min != null && ` at ${clockOf(stand.until_min)}`}. Clean it off and lay a new coat; a second pressing
                  does not hold.
                </Box>
              ) : (
                stand?.left_min != null && (
                  <Box color="heather" fontWeight="600">
                    grips from {clockOf(stand.from_min ?? 0)}; {Math.max(0, Math.round(stand.left_min))} min left
                  </Box>
                )
              )}
              <Flex gap="10px" mt="10px" wrap="wrap" display={v.today ? undefined : "none"}>
                {stand?.state === "missed" ? (
                  <Go act={() => void tick.run(step.id, "missed")}>New coat</Go>
                ) : stand?.state === "done" ? (
                  <Plain onClick={() => void tick.run(step.id, "undo")}>Not done after all</Plain>
                ) : (
                  <>
                    <Go disabled={!v.today} act={() => void tick.run(step.id, "done").then(() => setChosen(undefined))}>
                      {step.kind === "place" ? "It is on" : "Done"}
                    </Go>
                    {stand?.state !== "doing" && (
                      <Plain h="48px" onClick={() => void tick.run(step.id, "begin")}>
                        Begun
                      </Plain>
                    )}
                  </>
                )}
              </Flex>
              <Refusal problem={tick.problem} />
              <Box layerStyle="small" mt="6px">
                {step.why}
              </Box>
            </Box>
          </Box>
        )}
        {!v.bar && (
          <Box>
            <Heading>Ready in time?</Heading>
            <Box fontSize="30px" fontWeight="700">
              {Math.round(100 * v.live.chance)} in 100
            </Box>
            <Box layerStyle="note">
              {v.mornings === 0
                ? "By our own minutes; no morning was timed yet."
                : `${v.mornings} ${v.mornings === 1 ? "morning was" : "mornings were"} timed.`}{" "}
              The longest chain speaks for all: where several are nearly as long it is too hopeful.
            </Box>
            {v.alone_min != null && <Box>One artist alone: begin {clockOf(v.alone_min)}.</Box>}
            {v.live.late_min > 1 && <Box color="rust">{Math.round(v.live.late_min)} min late as it stands.</Box>}
            {v.run.chair.warnings.includes("break_due") && (
              <Box color="gorse">Nobody sits longer than two hours: this order has no room for a break.</Box>
            )}
          </Box>
        )}
        <Box>
          <Heading>For {v.wearer || "the wearer"}</Heading>
          {v.told.map((t) => (
            <Box key={t.text + t.from_min}>
              {clockOf(t.from_min)} to {clockOf(t.until_min)}: {t.text}
            </Box>
          ))}
          <Box>Asked every {v.ask_min} minutes how it is, 0 to 10.</Box>
          {v.today && (
            <Flex gap="4px" wrap="wrap" my="4px">
              {[0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10].map((n) => (
                <Plain key={n} h="34px" px="9px" minW="0" aria-label={`It is ${n} of 10`} onClick={() => void ask10.run(n)}>
                  {n}
                </Plain>
              ))}
            </Flex>
          )}
          <Refusal problem={ask10.problem} />
          {v.comfort.slice(0, 5).map((c) => (
            <Box key={c.at} color={c.score <= 3 ? "rust" : "muted"}>
              {clockOf((new Date(c.at).getUTCHours() * 60 + new Date(c.at).getUTCMinutes()) % 1440)}: {c.score} of 10 {c.words}
            </Box>
          ))}
        </Box>
        <ChoicesForm key={read.data.version} code={code} v={read.data} tried={tried} setTried={setTried} picked={step?.id} />
      </Flex>
    </Grid>
  );
}

const named = (v: View, id: string) => v.run.steps.find((s) => s.id === id)?.text ?? id;

function ChoicesForm({ code, v, tried, setTried, picked }: { code: string; v: View; tried?: View; setTried: (v?: View) => void; picked?: string }) {
  const path = { params: { path: { code } } };
  const artists = useArtists();
  const routines = useRead({ queryKey: ["hair routines"], staleTime: Number.POSITIVE_INFINITY, queryFn: () => ask(api.GET("/api/hair-routines")) });
  const [doc, setDoc] = useState<Choices>(v.doc);
  const [ready, setReady] = useState(clockOf(v.doc.ready_min));
  const [because, setBecause] = useState("");
  const [extra, setExtra] = useState({ text: "", minutes: "5", mouth: false });
  const [minutes, setMinutes] = useState("");
  const [wrong, setWrong] = useState("");
  const change = (c: Partial<Choices>) => setDoc({ ...doc, ...c });
  const whole = (): Choices | undefined => {
    const at = minuteOf(ready);
    setWrong(at === undefined ? "A time as 08:00." : "");
    return at === undefined ? undefined : { ...doc, ready_min: at };
  };
  const attempt = useAct(async (d: Choices) => setTried(await ask(api.POST("/api/kits/{code}/chair/try", { ...path, body: { doc: d } }))));
  const keep = useAct(async () => {
    const d = whole();
    if (!d) return;
    await ask(api.PUT("/api/kits/{code}/chair", { ...path, body: { doc: d, version: v.version } }));
    setTried(undefined);
  });
  useEffect(() => {
    if (JSON.stringify(doc) !== JSON.stringify(v.doc)) {
      const timer = window.setTimeout(() => void attempt.run(doc), 500);
      return () => window.clearTimeout(timer);
    }
  }, [doc, v.doc, attempt.run]);
  const second = doc.artists[1] ?? "";
  const order = doc.order ?? [];
  return (
    <Box>
      <Heading>How this morning runs</Heading>
      <Grid templateColumns={fields("1fr 1fr")} gap="10px">
        <Entry
          label="Camera-ready"
          name="doc.ready_min"
          value={ready}
          set={(t) => {
            setReady(t);
            const at = minuteOf(t);
            if (at !== undefined) change({ ready_min: at });
          }}
          hint={wrong || undefined}
        />
        <Entry
          label="Second artist"
          name="doc.artists[1]"
          value={second}
          set={(name) => change({ artists: name.trim() ? [doc.artists[0] ?? "", name] : [doc.artists[0] ?? ""] })}
          suggestions={artists.data?.map((a) => a.name)}
        />
        <Choose label="Lenses" name="doc.lenses" value={doc.lenses ?? ""} set={(l) => change({ lenses: l as Choices["lenses"] })}>
          <option value="">none</option>
          <option value="start">in at the start</option>
          <option value="end">in at the end</option>
        </Choose>
        <Choose label="Pieces" name="doc.sides" value={doc.sides ?? ""} set={(s) => change({ sides: s as Choices["sides"] })}>
          <option value="">the next while the first grips</option>
          <option value="one">one after the other</option>
        </Choose>
        <Choose label="Hair hidden by" name="doc.brow" value={doc.brow ?? ""} set={(b) => change({ brow: b })}>
          <option value="">nothing</option>
          {routines.data?.map((r) => (
            <option key={r.id} value={r.id}>
              {r.text}
            </option>
          ))}
        </Choose>
        <Entry
          label="Coats of it"
          name="doc.coats"
          value={doc.coats ? String(doc.coats) : ""}
          set={(n) => change({ coats: Number(n) || 0 })}
          placeholder="its own"
        />
        {[...new Set(v.run.steps.filter((s) => s.kind === "place").map((s) => s.piece))].map((p) => (
          <Choose
            key={p}
            label={`${p} is fitted`}
            name={`doc.fit.${p}`}
            value={doc.fit?.[p] ?? ""}
            set={(f) => change({ fit: { ...doc.fit, [p]: f } })}
          >
            <option value="">as its section says</option>
            <option value="wet">wet, to be shifted</option>
            <option value="clear">clear</option>
            <option value="tacky">tacky</option>
            <option value="dry">dry, as a tape</option>
          </Choose>
        ))}
        <Entry
          label="Air at the chair, °C"
          name="doc.room_c"
          value={doc.room_c ? String(doc.room_c) : ""}
          set={(n) => change({ room_c: Number(n) || 0 })}
          placeholder="21"
        />
        <Entry
          label="Its humidity, %"
          name="doc.room_rh"
          value={doc.room_rh ? String(Math.round(100 * doc.room_rh)) : ""}
          set={(n) => change({ room_rh: Math.min(0.95, (Number(n) || 0) / 100) })}
          placeholder="50"
        />
        <Entry
          label="Takes with blood"
          name="doc.takes"
          value={doc.takes ? String(doc.takes) : ""}
          set={(n) => change({ takes: Math.round(Number(n)) || 0 })}
          placeholder="1"
        />
        <Entry
          label="Put on in a day"
          name="doc.times"
          value={doc.times ? String(doc.times) : ""}
          set={(n) => change({ times: Math.round(Number(n)) || 0 })}
          placeholder="once"
        />
      </Grid>
      {picked && (
        <Box mt="10px">
          <Box layerStyle="note">The chosen step: {v.run.steps.find((s) => s.id === picked)?.text ?? picked}</Box>
          <Grid templateColumns={fields("1fr 1fr")} gap="10px">
            <Entry
              label="Takes here, minutes"
              name="minutes"
              value={minutes || (doc.minutes?.[picked] ? String(doc.minutes[picked]) : "")}
              set={(t) => {
                setMinutes(t);
                const n = Number(t.replace(",", "."));
                const rest = { ...doc.minutes };
                delete rest[picked];
                change({ minutes: n > 0 ? { ...rest, [picked]: n } : rest });
              }}
            />
            <Entry label="Why another order" name="because" value={because} set={setBecause} />
            <Choose
              label="Comes before"
              name="order"
              value=""
              set={(b) => {
                if (b && b !== picked) change({ order: [...order, { first: picked, next: b, why: because }] });
                setBecause("");
              }}
            >
              <option value="">as it is</option>
              {v.run.steps
                .filter((s) => s.id !== picked)
                .map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.text}
                  </option>
                ))}
            </Choose>
          </Grid>
        </Box>
      )}
      {order.map((o, i) => (
        <Flex key={`${o.first}>${o.next}`} layerStyle="note" gap="8px">
          <Box flex="1">
            {named(v, o.first)} before {named(v, o.next)}
            {o.why && `: ${o.why}`}
          </Box>
          <Box as="button" textDecoration="underline" onClick={() => change({ order: order.filter((_, n) => n !== i) })}>
            not so
          </Box>
        </Flex>
      ))}
      <Box mt="10px" layerStyle="note">
        Something that only this morning has: teeth, a wound, a costume
      </Box>
      <Grid templateColumns="1fr 80px" gap="10px">
        <Entry label="What" name="extra" value={extra.text} set={(text) => setExtra({ ...extra, text })} />
        <Entry label="Minutes" name="extra minutes" value={extra.minutes} set={(minutes) => setExtra({ ...extra, minutes })} />
      </Grid>
      <Flex gap="10px" mt="6px" align="center" wrap="wrap">
        <label>
          <input type="checkbox" checked={extra.mouth} onChange={(e) => setExtra({ ...extra, mouth: e.target.checked })} /> in the mouth: lips open
          until dry
        </label>
        <Plain
          h="36px"
          disabled={!extra.text.trim() || !(Number(extra.minutes) > 0)}
          onClick={() => {
            const id = `own ${extra.text.trim().toLowerCase()}`.slice(0, 40);
            change({
              extra: [
                ...(doc.extra ?? []).filter((x) => x.id !== id),
                { id, text: extra.text.trim(), minutes: Number(extra.minutes), mouth: extra.mouth, dry_min: extra.mouth ? 3 : 0, after: "skin" },
              ],
            });
            setExtra({ text: "", minutes: "5", mouth: false });
          }}
        >
          Add it
        </Plain>
      </Flex>
      {(doc.extra ?? []).map((x) => (
        <Flex key={x.id} layerStyle="note" gap="8px">
          <Box flex="1">
            {x.text}, {x.minutes} min
          </Box>
          <Box as="button" textDecoration="underline" onClick={() => change({ extra: (doc.extra ?? []).filter((y) => y.id !== x.id) })}>
            not today
          </Box>
        </Flex>
      ))}
      <Refusal problem={keep.problem ?? attempt.problem} />
      {(tried || keep.problem) && (
        <Flex gap="10px" mt="10px">
          <Plain h="44px" disabled={keep.busy || !!tried?.bar} onClick={() => void keep.run()}>
            Choose this morning
          </Plain>
          <Plain
            h="44px"
            onClick={() => {
              setDoc(v.doc);
              setReady(clockOf(v.doc.ready_min));
              setMinutes("");
              setTried(undefined);
            }}
          >
            As it was
          </Plain>
        </Flex>
      )}
    </Box>
  );
}
