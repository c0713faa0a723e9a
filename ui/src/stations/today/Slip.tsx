import { Box, Checkbox, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { Entry, Go, Plain, Refusal } from "../../parts/controls";
import { clockTime, dayTime } from "../../parts/format";
import { long } from "../../parts/long";

type Task = Schemas["TodayTask"];

/** Begins the clock on a task, and opens the room where it is done. */
export function useBegin() {
  const navigate = useNavigate();
  return useAct(async (t: Task) => {
    await ask(
      api.POST("/api/work", {
        body: {
          act: t.act || "other work",
          code: t.code,
          title: t.title,
          step: t.step,
          piece: t.piece,
          units: t.copies || 1,
          planned_min: t.minutes || undefined,
          key: crypto.randomUUID(),
        },
      }),
    );
    if (t.link) navigate(t.link);
  });
}

const sheet = {
  bg: "sheet",
  borderWidth: "1.5px",
  borderColor: "ink",
  borderRadius: "3px 22px 22px 3px",
  p: "18px",
  ps: "36px",
  position: "relative",
} as const;

const Hole = () => (
  <Box position="absolute" left="12px" top="24px" w="12px" h="12px" borderRadius="full" borderWidth="1.5px" borderColor="ink" bg="ground" />
);

/** What hands do next: what it takes, what it frees, what follows, and why it is first. */
export function NowSlip({ task, own }: { task: Task; own: boolean }) {
  const begin = useBegin();
  const facts = [
    task.minutes ? `about ${long(task.minutes)}` : "",
    task.with ?? "",
    task.frees ? `frees ${task.frees}` : "",
    task.follows ?? "",
  ].filter(Boolean);
  return (
    <Box {...sheet} data-testid="now">
      <Hole />
      <Box color="muted">{[task.piece, task.about].filter(Boolean).join(" · ")}</Box>
      <Box fontSize="26px" fontWeight="700" lineHeight="1.15" mb="6px">
        {task.title}
      </Box>
      {facts.length > 0 && <Box mb="6px">{facts.join(", ")}</Box>}
      <Box mb="14px" color={task.binds ? "rust" : "ink"}>
        {task.why}
      </Box>
      {own ? (
        <Go act={() => void begin.run(task)} disabled={begin.busy}>
          Start
        </Go>
      ) : (
        <Box color="muted">Only they start it.</Box>
      )}
      <Refusal problem={begin.problem} />
    </Box>
  );
}

/** A time of day, such as 14:30, on the day of another moment. */
export function onDay(of: string, time: string): string {
  const d = new Date(of);
  const [h, min] = time.split(":").map(Number);
  d.setHours(h, min, 0, 0);
  return d.toISOString();
}

/** What somebody is at: how long, and one tap when it is done. */
export function DoingSlip({ m, own, now }: { m: Schemas["TodayMine"]; own: boolean; now: Date }) {
  const w = m.doing as Schemas["WorkSpan"];
  const navigate = useNavigate();
  const [note, setNote] = useState(w.note);
  const [interrupted, setInterrupted] = useState(w.interrupted);
  const [ended, setEnded] = useState("");
  const began = new Date(w.began_at);
  const minutes = Math.max(0, Math.round((now.getTime() - began.getTime()) / 60_000));
  const stop = useAct(async () => {
    const at = m.open && ended ? onDay(w.began_at, ended) : undefined;
    await ask(
      api.POST("/api/work/{id}/stop", { params: { path: { id: w.id } }, body: { ended_at: at, interrupted, note: note.trim() || undefined } }),
    );
    if (w.act === "other work" && w.step.startsWith("other "))
      await ask(api.POST("/api/plan/other/{id}/done", { params: { path: { id: Number(w.step.split(/[ .]/)[1]) } } }));
  });
  const back = useAct(() => ask(api.DELETE("/api/work/{id}", { params: { path: { id: w.id } } })));
  const link = [...m.then, ...(m.now ? [m.now] : [])].find((t) => t.step && t.step === w.step)?.link;
  return (
    <Box {...sheet} data-testid="doing" borderColor="heather" boxShadow="inset 6px 0 0 var(--chakra-colors-heather)">
      <Hole />
      <Box color="muted">{m.open ? `Begun ${dayTime(w.began_at)}, and never ended` : `At it since ${clockTime(w.began_at)}`}</Box>
      <Box fontSize="26px" fontWeight="700" lineHeight="1.15" mb="6px">
        {w.title}
      </Box>
      {!m.open && (
        <Box mb="10px" data-testid="minutes">
          {long(minutes)}
          {w.planned_min ? ` of about ${long(w.planned_min)}` : ""}
        </Box>
      )}
      {own && (
        <>
          {m.open && <Entry label="When did it end?" name="ended_at" type="time" value={ended} set={setEnded} problem={stop.problem} width="140px" />}
          <Entry label="A word on it" name="note" value={note} set={setNote} problem={stop.problem} />
          <Checkbox.Root checked={interrupted} onCheckedChange={(e) => setInterrupted(!!e.checked)} my="8px">
            <Checkbox.HiddenInput />
            <Checkbox.Control borderColor="ink" />
            <Checkbox.Label>I was called away meanwhile: do not learn from its minutes</Checkbox.Label>
          </Checkbox.Root>
          <Flex gap="10px" wrap="wrap" align="center">
            <Go act={() => void stop.run()} disabled={stop.busy || (m.open && !ended)}>
              It is done
            </Go>
            {link && <Plain onClick={() => navigate(link)}>Go there</Plain>}
            <Plain onClick={() => void back.run()} disabled={back.busy}>
              Begun by mistake
            </Plain>
          </Flex>
          <Refusal problem={stop.problem ?? back.problem} />
        </>
      )}
    </Box>
  );
}
