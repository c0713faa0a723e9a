import { Box, Flex, Grid } from "@chakra-ui/react";
import { useNavigate } from "react-router";
import { api, ask, type Schemas } from "../../app/api";
import { AskEquipment } from "../../app/Equipment";
import { useRead } from "../../app/read";
import { useClock, usePots } from "../../app/reads";
import { Go, Heading, Teach } from "../../parts/controls";
import { clockTime, duration } from "../../parts/format";
import { columns } from "../../parts/Room";
import { Ripening } from "./Ripening";
import { RunUp } from "./RunUp";

/** What hands do next and why that first; what ripens; which day is at risk. */
export default function Today() {
  const today = useRead({ queryKey: ["today"], queryFn: () => ask(api.GET("/api/today")), refetchInterval: 15_000 });
  const plan = useRead({ queryKey: ["plan"], queryFn: () => ask(api.GET("/api/plan")) });
  const pots = usePots();
  const clock = useClock();
  if (!today.data || !clock.data) return null;
  const now = new Date(clock.data.now);
  return (
    <Grid templateColumns={columns("minmax(0,430px) minmax(0,1fr)")} gap="28px" h="100%">
      <Box minH="0" overflowY="auto">
        <AskEquipment />
        <Box color="muted" fontWeight="600" fontSize="14.5px" mb="8px">
          Hands now · {clockTime(clock.data.now)}
        </Box>
        {today.data.now ? <NowSlip task={today.data.now} /> : <Teach>Nothing waits for a hand. Begin a piece with 1, or look what ripens.</Teach>}
        <Box mt="18px">
          <Heading>Then</Heading>
          {today.data.then.map((t) => (
            <ThenLine key={`${t.title} ${t.link}`} task={t} now={now} />
          ))}
        </Box>
      </Box>
      <Flex direction="column" minW="0" minH="0" gap="16px" overflowY="auto">
        <Box>
          <Heading>What ripens</Heading>
          <Ripening pots={pots.data?.pots ?? []} now={now} />
        </Box>
        <RunUp days={plan.data ?? []} now={now} />
        <Box>
          <Heading>Done last</Heading>
          {today.data.notes.slice(0, 4).map((n) => (
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

function NowSlip({ task }: { task: Schemas["TodayTask"] }) {
  const navigate = useNavigate();
  return (
    <Box bg="sheet" borderWidth="1.5px" borderColor="ink" borderRadius="3px 22px 22px 3px" p="18px" ps="36px" position="relative">
      <Box position="absolute" left="12px" top="24px" w="12px" h="12px" borderRadius="full" borderWidth="1.5px" borderColor="ink" bg="ground" />
      <Box color="muted">{[task.piece, task.about].filter(Boolean).join(" · ")}</Box>
      <Box fontSize="26px" fontWeight="700" lineHeight="1.15" mb="6px">
        {task.title}
      </Box>
      <Box mb="14px">{task.why}</Box>
      <Go act={() => navigate(task.link)}>Start</Go>
    </Box>
  );
}

function ThenLine({ task, now }: { task: Schemas["TodayTask"]; now: Date }) {
  const navigate = useNavigate();
  const at = task.in_s > 0 ? clockTime(new Date(now.getTime() + task.in_s * 1000).toISOString()) : "now";
  return (
    <Flex
      as="button"
      w="100%"
      textAlign="left"
      gap="18px"
      py="6px"
      borderBottomWidth="1px"
      borderColor="line"
      onClick={() => navigate(task.link)}
      title={task.in_s > 0 ? `in about ${duration(task.in_s)}` : undefined}
    >
      <Box w="48px" fontWeight="600" color={task.in_s > 0 ? "muted" : "ink"}>
        {at}
      </Box>
      <Box flex="1">
        <Box fontWeight="600" lineHeight="1.25">
          {task.title}
        </Box>
        <Box layerStyle="note" lineHeight="1.25">
          {task.about ? `${task.about}. ` : ""}
          {task.why}
        </Box>
      </Box>
    </Flex>
  );
}
