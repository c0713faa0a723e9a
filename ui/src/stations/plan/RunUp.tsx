import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMe } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day, dayTime, duration } from "../../parts/format";
import { long } from "../../parts/long";
import { Notice } from "../../parts/Notice";
import { columns } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { ByHand, type Held, Other, Pins } from "./ByHand";
import type { Block } from "./blocks";
import { Picture } from "./Picture";
import { Weeks } from "./Weeks";

const DAY = 86_400_000;

/** What can be said of the plan as a whole, and how sure that is. */
function whole(r: Schemas["PlanRunUp"]): string {
  if (r.late_min === 0) return "every day is met";
  const late = `late by ${long(r.late_min)} in all`;
  if (r.proven) return `${late}; with what there is nobody can do better: proven`;
  return r.least_late_min > 0
    ? `${late}; at least ${long(r.least_late_min)} whatever is done: proven`
    : `${late}; it is not proven that this is the least`;
}

/** The run-up as it is planned, why a day is late, what would mend it, and who is in. */
export function RunUp() {
  const plan = useRead({ queryKey: ["run-up"], queryFn: () => ask(api.GET("/api/plan/run-up")) });
  const [all, setAll] = useState(false);
  // Looking is everybody's; the plan is changed by whoever answers for work.
  const skilled = useMe().data?.person?.role !== "apprentice";
  const [held, setHeld] = useState<Held>();
  const [block, setBlock] = useState<Block>();
  const take = useAct(() => ask(api.POST("/api/plan/take")));
  if (plan.error && !plan.data) return <Refusal problem={plan.error as never} />;
  const r = plan.data;
  if (!r) return <Box color="muted">Working out who does what…</Box>;
  if (r.bar)
    return (
      <Notice tone="stop" mb="14px">
        There is no plan: {r.bar}
      </Notice>
    );
  if (r.steps === 0) return null;
  const until = all ? Date.parse(r.ends) : Math.min(Date.parse(r.ends), Date.parse(r.origin) + 14 * DAY);
  return (
    <Box mb="26px">
      <Flex gap="14px" align="center" wrap="wrap" mb="8px">
        <Box flex="1 1 280px" color={r.late_min > 0 ? "rust" : "ink"} fontWeight="600">
          {whole(r)}
          <Box as="span" layerStyle="small" fontWeight="400">
            {" "}
            · {r.steps} steps, {r.tried} {r.tried === 1 ? "plan" : "plans"} tried{r.overtime_min > 0 && `, ${long(r.overtime_min)} overtime`}
            {r.taken_at ? ` · the plan in force was taken ${dayTime(r.taken_at)} by ${r.taken_by}` : " · no plan was taken yet"}
          </Box>
        </Box>
        <Plain onClick={() => setAll(!all)}>{all ? "Two weeks" : "To the last day"}</Plain>
        {skilled && (
          <Plain disabled={take.busy} onClick={() => void take.run()}>
            Take this plan
          </Plain>
        )}
      </Flex>
      <Refusal problem={take.problem} />
      <Box overflowX="auto">
        <Picture
          r={r}
          until={until}
          hold={
            skilled
              ? (b, person, start) => {
                  setBlock(b);
                  setHeld({ step: b.steps[0].step, text: b.steps[0].text, person, start });
                }
              : undefined
          }
        />
      </Box>
      {held && block && block.steps.length > 1 && (
        <Flex gap="8px" wrap="wrap" mt="8px" align="center">
          <Box color="muted">Which of it?</Box>
          {block.steps.map((b) => (
            <Plain
              key={b.step}
              h="30px"
              px="12px"
              bg={b.step === held.step ? "deep" : "transparent"}
              onClick={() => setHeld({ step: b.step, text: b.text, person: b.lane, start: Date.parse(b.from) })}
            >
              {b.text}
            </Plain>
          ))}
        </Flex>
      )}
      {held && <ByHand r={r} held={held} set={setHeld} />}
      <Box layerStyle="small" mb="12px">
        Grey: nobody is in; what waits lies there, and nothing hot runs there alone. Rust: what makes a day late. Green before a day: what is in hand.
        Hands and waits are worked out from sections, runs, moulds and hours as they stand; times of ours stand where none was learned. What is not
        begun waits at {r.air.temp_c} °C and {Math.round(100 * r.air.rh)} % RH:{" "}
        {r.air.forecast ? "the room with the weather of the week to come" : "the room as it is now"}. A step is taken up with the pointer, or with Tab
        and Enter. <a href="/api/plan/week.pdf">the week, to print</a> · <a href="/api/plan/run-up.ics">iCalendar</a> ·{" "}
        <a href="/api/plan/run-up.csv">table</a> · <a href="/api/plan/run-up.json">documents</a>
      </Box>
      <Grid templateColumns={columns("minmax(0,1fr) minmax(0,1fr)")} gap="32px">
        <Flex direction="column" gap="16px">
          {r.late.map((l) => (
            <Why key={l.job} l={l} />
          ))}
          <Slack r={r} />
          {r.moved.length > 0 && <Moved r={r} />}
          {r.lacking.length > 0 && (
            <Box data-testid="lacking">
              <Heading>Not in the stores</Heading>
              {r.lacking.map((l) => (
                <Flex key={l.piece} gap="10px" align="center" py="2px">
                  <Tag code={l.piece} to="/stores" />
                  <Box flex="1">
                    {l.what}
                    {l.enough > 0 && `, after ${l.enough} ${l.enough === 1 ? "copy" : "copies"}`}:{" "}
                    {l.by
                      ? `ordered now it is here ${day(l.by)}, and the plan waits for it`
                      : "nobody wrote down how long it takes to come; the plan does not wait"}
                  </Box>
                </Flex>
              ))}
            </Box>
          )}
          {r.unplanned.length > 0 && (
            <Box>
              <Heading>Not in the plan</Heading>
              {r.unplanned.map((u) => (
                <Flex key={u.piece + u.why} gap="10px" align="center" py="2px">
                  <Tag code={u.piece} to={u.link} /> {u.why}
                </Flex>
              ))}
            </Box>
          )}
        </Flex>
        <Flex direction="column" gap="16px">
          {r.late.length > 0 && <Mend />}
          <Other r={r} />
          {r.moulds.length > 0 && <Moulds r={r} />}
          <Pins r={r} />
          <Hours r={r} />
          {r.enough.length > 0 && <Enough r={r} />}
        </Flex>
      </Grid>
      <Box as="details" mt="12px">
        <summary>The same as a list, by person</summary>
        <List r={r} />
      </Box>
    </Box>
  );
}

function Why({ l }: { l: Schemas["PlanLateDay"] }) {
  return (
    <Box data-late={l.piece}>
      <Heading>
        <Box as="span" color="rust">
          {l.piece} is {long(l.late_min)} late for the {l.place}
        </Box>
      </Heading>
      <Box>{l.words}.</Box>
      <Box layerStyle="small" mt="4px">
        On its way hands take {long(l.hands_min)}, drying, baking and setting {long(l.waits_min)}, nights and days off {long(l.nights_min)}
        {l.by.length > 0 && `; it waits for ${l.by.map((b) => `${b.id} ${duration(b.minutes * 60)}`).join(", ")}`}.
      </Box>
    </Box>
  );
}

/** Moulds that were decided beside those that there are: the plan counts on them. */
function Moulds({ r }: { r: Schemas["PlanRunUp"] }) {
  const back = useAct((id: number) => ask(api.DELETE("/api/plan/moulds/{id}", { params: { path: { id } } })));
  const skilled = useMe().data?.person?.role !== "apprentice";
  return (
    <Box data-testid="moulds">
      <Heading>To be built beside those that there are</Heading>
      {r.moulds.map((m) => (
        <Flex key={m.id} gap="10px" align="center" py="2px">
          <Tag code={m.piece} to={`/mould?piece=${m.piece}`} />
          <Box flex="1">
            a further mould, dry by {day(m.dry_at)}{" "}
            <Box as="span" color="muted">
              ({m.by})
            </Box>
          </Box>
          {skilled && (
            <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => void back.run(m.id)}>
              take back
            </Box>
          )}
        </Flex>
      ))}
      <Refusal problem={back.problem} />
    </Box>
  );
}

/** What keeps a mix from being larger. */
const limits: Record<Schemas["PlanEnough"]["limit"], string> = {
  bowl: "the largest bowl holds no more",
  pot_life: "no more is poured in time",
  moulds: "so many moulds are free",
  none: "",
  "": "",
};

/** How many to begin so that enough are good: not every copy is. */
function Enough({ r }: { r: Schemas["PlanRunUp"] }) {
  return (
    <Box data-testid="enough">
      <Heading>To have enough good ones</Heading>
      {r.enough.map((e) => (
        <Flex key={e.piece} gap="10px" py="2px" align="center">
          <Tag code={e.piece} to={`/build?piece=${e.piece}`} />
          <Box flex="1">
            {e.missing} missing:{" "}
            {e.begin > 0 && !e.test ? (
              <>
                begin <b>{e.begin}</b>
                {e.runs > 0 && ` in ${e.runs} ${e.runs === 1 ? "session" : "sessions"}`}, enough in {Math.round(100 * e.chance)} of 100
                {e.mixes > 0 && (
                  <>
                    {"; "}
                    <Link to={`/mix?piece=${e.piece}`}>
                      <u>
                        {e.mixes} {e.mixes === 1 ? "mix" : "mixes"}
                      </u>
                    </Link>
                    {e.mixes > 1 && ` of ${e.per_mix} at most, ${limits[e.limit]}`}
                  </>
                )}
                {e.mix_bar && `; ${e.mix_bar}`}
              </>
            ) : (
              "so little is known of its material here that nothing can be promised: make one as a test first"
            )}
          </Box>
          <Box color="muted">{e.judged > 0 ? `${e.good} of ${e.judged} were good` : "none judged yet"}</Box>
        </Flex>
      ))}
      <Box layerStyle="small">
        {r.sure > 0
          ? `The plan begins so many that enough are good in ${Math.round(100 * r.sure)} of 100 by each day. `
          : "The plan takes each copy for good; what is scrapped is missing again, and planned anew. "}
        <Link to="/plan?leaf=What+if">
          <u>See it otherwise beside the plan</u>
        </Link>
      </Box>
    </Box>
  );
}

/** Of every day how much is in hand, and how often it is met when things take as long as they usually do. */
function Slack({ r }: { r: Schemas["PlanRunUp"] }) {
  return (
    <Box data-testid="days">
      <Heading aside={`${r.days[0]?.n ?? 0} times over`}>How sure each day is</Heading>
      {r.days.slice(0, 8).map((d) => (
        <Flex key={d.id} gap="10px" py="1px">
          <Box flex="1">
            {day(d.out)}, {d.place}
          </Box>
          <Box color={d.slack_min < 0 ? "rust" : "muted"}>{d.slack_min < 0 ? `${long(d.late_min)} late` : `${long(d.slack_min)} in hand`}</Box>
          <Box w="150px" textAlign="right">
            <b>{Math.round(100 * d.met)} of 100</b>{" "}
            <Box as="span" color="muted">
              {Math.round(100 * d.met_low)}–{Math.round(100 * d.met_high)}
            </Box>
          </Box>
        </Flex>
      ))}
      <Box layerStyle="small">
        Hands and waits drawn as far off as they usually are. Who does what stays; whoever waits for one thing does what is ready meanwhile. Nothing
        is planned anew: with that it is mostly better.
      </Box>
    </Box>
  );
}

/** The change that helps most; the others stand beside each other on the leaf of changes. */
function Mend() {
  const list = useRead({ queryKey: ["mends"], queryFn: () => ask(api.GET("/api/plan/mends")) });
  const best = list.data?.find((m) => m.gains_min > 0);
  return (
    <Box data-testid="mend">
      <Heading>What would mend it</Heading>
      {!list.data && !list.error && <Box color="muted">Trying what could be changed…</Box>}
      {list.data && !best && <Box>Nothing that was tried changes it.</Box>}
      {best && (
        <Box>
          {best.text}: <b>{best.late_min === 0 ? "every day is met" : `${long(best.gains_min)} less late`}</b>
          {best.overtime_min > 0 && `, with ${long(best.overtime_min)} overtime`}.
        </Box>
      )}
      <Link to="/plan?leaf=What+if">
        <u>See {list.data && list.data.length > 1 ? `all ${list.data.length} changes` : "changes"} beside today's plan</u>
      </Link>
      <Refusal problem={list.error as never} />
    </Box>
  );
}

/** What the plan has elsewhere than the one that was taken, by person. */
function Moved({ r }: { r: Schemas["PlanRunUp"] }) {
  return (
    <Box data-testid="moved">
      <Heading>Moved since the plan was taken</Heading>
      {r.moved.slice(0, 14).map((m) => (
        <Flex key={m.step} gap="10px" py="2px">
          <Box w="70px" fontWeight="600">
            {m.who.split(" ")[0]}
          </Box>
          <Box flex="1">
            {m.text}
            {m.had !== m.who && `, was ${m.had.split(" ")[0]}'s`}
          </Box>
          <Box color="muted">
            {dayTime(m.was)} → <b>{dayTime(m.is)}</b>
          </Box>
        </Flex>
      ))}
      {r.moved.length > 14 && <Box color="muted">and {r.moved.length - 14} more</Box>}
    </Box>
  );
}

const kinds = { away: "away", extra: "open beside the hours", night: "the oven may run while nobody is in" } as const;

/** Who is away, and when the shop is open beside its week; the plan follows at once. */
function Hours({ r }: { r: Schemas["PlanRunUp"] }) {
  const [who, setWho] = useState("");
  const [on, setOn] = useState("");
  const people = r.lanes.filter((l) => l.kind === "person");
  const keep = useAct(() =>
    ask(api.POST("/api/plan/hours", { body: { kind: "away", person: who || people[0]?.id, day: `${on}T00:00:00Z`, from_min: 0, to_min: 1440 } })),
  );
  const back = useAct((id: number) => ask(api.DELETE("/api/plan/hours/{id}", { params: { path: { id } } })));
  return (
    <Box>
      <Heading>Who is in</Heading>
      {r.changes.map((c) => (
        <Flex key={c.id} gap="10px" py="3px" data-change={c.kind}>
          <Box flex="1">
            {c.kind !== "night" && `${day(c.day)}: `}
            {c.person && `${c.person} `}
            {kinds[c.kind as keyof typeof kinds]}
            {c.words && `, ${c.words}`}{" "}
            <Box as="span" color="muted">
              ({c.by})
            </Box>
          </Box>
          <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => void back.run(c.id)}>
            take back
          </Box>
        </Flex>
      ))}
      <Flex gap="10px" align="end" wrap="wrap" mt="6px">
        <Choose label="Somebody is away" name="person" value={who || (people[0]?.id ?? "")} set={setWho} problem={keep.problem} width="170px">
          {people.map((p) => (
            <option key={p.id}>{p.id}</option>
          ))}
        </Choose>
        <Entry label="On" name="day" type="date" value={on} set={setOn} problem={keep.problem} width="160px" />
        <Plain h="40px" disabled={!on || keep.busy} onClick={() => void keep.run()}>
          Plan without them
        </Plain>
      </Flex>
      <Refusal problem={keep.problem ?? back.problem} />
      <Weeks r={r} />
    </Box>
  );
}

function List({ r }: { r: Schemas["PlanRunUp"] }) {
  return (
    <Grid templateColumns={columns("repeat(3, minmax(0,1fr))")} gap="24px" mt="8px">
      {r.lanes
        .filter((l) => l.kind === "person")
        .map((l) => (
          <Box key={l.id}>
            <Heading>{l.id}</Heading>
            {r.bars
              .filter((b) => b.lane === l.id)
              .sort((a, b) => Date.parse(a.from) - Date.parse(b.from))
              .map((b) => (
                <Flex key={b.step} gap="8px" fontSize="14px">
                  <Box w="118px" color="muted">
                    {dayTime(b.from)}
                  </Box>
                  <Box flex="1" color={b.binds ? "rust" : "ink"}>
                    {b.text}
                    {b.overtime && ", overtime"}
                  </Box>
                </Flex>
              ))}
          </Box>
        ))}
    </Grid>
  );
}
