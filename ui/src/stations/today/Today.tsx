import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, type Schemas } from "../../app/api";
import { AskEquipment } from "../../app/Equipment";
import { useRead } from "../../app/read";
import { useClock, useMe, usePots, useStanding } from "../../app/reads";
import { Heading, Pick, Refusal, Teach } from "../../parts/controls";
import { clockTime, dayTime, duration } from "../../parts/format";
import { long } from "../../parts/long";
import { columns } from "../../parts/Room";
import { MyDay } from "./MyDay";
import { Ripening } from "./Ripening";
import { RunUp } from "./RunUp";
import { DoingSlip, NowSlip, useBegin } from "./Slip";

/** What stands there until the day is worked out. */
const noDay: Schemas["TodayMine"] = JSON.parse(
  '{"person": "", "people": [], "open": false, "soon": [], "then": [], "beside": [], "left": [], "moved": [], "gaps": [], "did": []}',
);

/** What hands do next and why that first; what ripens; which day is at risk. */
export default function Today() {
  const me = useMe().data?.person;
  const [person, setPerson] = useState("");
  const mine = useRead({
    queryKey: ["mine", person],
    queryFn: () => ask(api.GET("/api/today/mine", { params: { query: { person: person || undefined } } })),
    refetchInterval: 15_000,
  });
  const today = useRead({ queryKey: ["today"], queryFn: () => ask(api.GET("/api/today")), refetchInterval: 15_000 });
  const plan = useRead({ queryKey: ["plan"], queryFn: () => ask(api.GET("/api/plan")) });
  const standing = useStanding();
  const pots = usePots();
  const clock = useClock();
  if (!clock.data) return null;
  const m = mine.data ?? noDay;
  const now = new Date(clock.data.now);
  const own = m.person === "" || m.person === me?.name;
  return (
    <Grid templateColumns={columns("minmax(0,430px) minmax(0,1fr)")} gap="28px" h={{ base: "auto", lg: "100%" }}>
      <Box minH="0" overflowY={{ lg: "auto" }}>
        <AskEquipment />
        <Flex color="muted" fontWeight="600" fontSize="14.5px" mb="8px" align="center" gap="8px">
          <Box as="h1" flex="1">
            {own ? "Hands now" : `${m.person} now`} · {clockTime(clock.data.now)}
          </Box>
          {m.people.length > 1 && (
            <Pick label="Whose day" value={m.person} set={setPerson} width="160px">
              {m.people.map((p) => (
                <option key={p}>{p}</option>
              ))}
            </Pick>
          )}
        </Flex>
        {m.doing && <DoingSlip key={m.doing.id} m={m} own={own} now={now} />}
        {!m.doing && m.now && <NowSlip task={m.now} own={own} />}
        {!mine.data && !mine.error && <Box color="muted">Working out the day…</Box>}
        <Refusal problem={mine.error as never} />
        {mine.data && !m.doing && !m.now && <Teach>Nothing waits for a hand. Begin a piece with 1, or look what ripens.</Teach>}
        {m.doing && m.now && (
          <Box mt="14px">
            <Heading>Next</Heading>
            <Line task={m.now} now={now} own={own} />
          </Box>
        )}
        <Lines title="Waits for a hand" list={m.soon} now={now} own={own} />
        <Lines title="Left from before" list={m.left} now={now} own={own} />
        <Lines title="Then, by the plan" list={m.then} now={now} own={own} />
        <Lines title={m.then.length > 0 ? "And besides" : "Then"} list={m.beside} now={now} own={own} />
      </Box>
      <Flex direction="column" minW="0" minH="0" gap="16px" overflowY={{ lg: "auto" }}>
        <Box>
          <Heading>What ripens</Heading>
          <Ripening pots={pots.data?.pots ?? []} now={now} />
        </Box>
        <RunUp days={plan.data ?? []} standing={standing.data} now={now} />
        {m.moved.length > 0 && <Moved m={m} />}
        {mine.data && <MyDay m={m} own={own} now={now} />}
        <Box>
          <Heading>Done last</Heading>
          {today.data?.notes.slice(0, 4).map((n) => (
            <Flex key={n.id} gap="12px" fontSize="14px" py="1px">
              <Box color="muted" w="44px">
                {clockTime(n.at)}
              </Box>
              <Box flex="1">
                <b>{n.code}</b> {n.act === "step" ? n.words : `${n.act}${n.words ? `, ${n.words}` : ""}`}
              </Box>
              <Box color="muted">{n.who}</Box>
            </Flex>
          ))}
        </Box>
      </Flex>
    </Grid>
  );
}

/** What of theirs is elsewhere than in the plan that was taken. */
function Moved({ m }: { m: Schemas["TodayMine"] }) {
  return (
    <Box data-testid="moved">
      <Heading>Moved since the plan was taken</Heading>
      {m.moved.slice(0, 6).map((x) => (
        <Flex key={`${x.text} ${x.was}`} gap="10px" fontSize="14px" py="1px">
          <Box flex="1">
            {x.text}
            {x.who !== x.had && (x.who === m.person ? `, was ${x.had.split(" ")[0]}'s` : `, ${x.who.split(" ")[0]}'s now`)}
          </Box>
          <Box color="muted">
            {dayTime(x.was)} → <b>{dayTime(x.is)}</b>
          </Box>
        </Flex>
      ))}
      {m.moved.length > 6 && <Box color="muted">and {m.moved.length - 6} more</Box>}
    </Box>
  );
}

function Lines({ title, list, now, own }: { title: string; list: Schemas["TodayTask"][]; now: Date; own: boolean }) {
  if (list.length === 0) return null;
  return (
    <Box mt="18px" data-list={title}>
      <Heading>{title}</Heading>
      {list.map((t) => (
        <Line key={`${t.step ?? ""} ${t.title} ${t.link}`} task={t} now={now} own={own} />
      ))}
    </Box>
  );
}

/** A task in its time: pressed it opens its room; what may be done now is begun with its clock. */
function Line({ task, now, own }: { task: Schemas["TodayTask"]; now: Date; own: boolean }) {
  const navigate = useNavigate();
  const begin = useBegin();
  const at =
    task.at && task.in_s > 0 ? clockTime(task.at) : task.in_s > 0 ? clockTime(new Date(now.getTime() + task.in_s * 1000).toISOString()) : "now";
  const facts = [task.minutes ? long(task.minutes) : "", task.with ?? "", task.frees ? `frees ${task.frees}` : "", task.follows ?? ""].filter(
    Boolean,
  );
  return (
    <Flex w="100%" gap="14px" py="6px" borderBottomWidth="1px" borderColor="line" align="start">
      <Box w="48px" flexShrink="0" fontWeight="600" color={task.in_s > 0 ? "muted" : "ink"}>
        {at}
      </Box>
      <Box
        as="button"
        flex="1"
        textAlign="left"
        onClick={() => task.link && navigate(task.link)}
        title={task.in_s > 0 ? `in about ${duration(task.in_s)}` : undefined}
      >
        <Box fontWeight="600" lineHeight="1.25" color={task.binds ? "rust" : "ink"}>
          {task.title}
        </Box>
        <Box layerStyle="note" lineHeight="1.25">
          {facts.length > 0 ? facts.join(", ") : `${task.about ? `${task.about}. ` : ""}${task.why}`}
        </Box>
        {task.bar && (
          <Box color="rust" fontSize="13.5px" lineHeight="1.25">
            Not now: {task.bar}
          </Box>
        )}
      </Box>
      {own && task.step && !task.bar && (
        <Box as="button" layerStyle="small" textDecoration="underline" data-start={task.step} onClick={() => void begin.run(task)}>
          start
        </Box>
      )}
    </Flex>
  );
}
