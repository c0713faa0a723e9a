import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { colour as v } from "../../parts/colour";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { clockTime, day } from "../../parts/format";
import { long } from "../../parts/long";
import { onDay } from "./Slip";

/** What somebody was at today, and working time of yesterday and today in which nothing was noted: to be completed. */
export function MyDay({ m, own, now }: { m: Schemas["TodayMine"]; own: boolean; now: Date }) {
  const spans = m.did.filter((w) => w.ended_at);
  return (
    <Box data-testid="my-day">
      <Heading>{own ? "My day so far" : `${m.person}'s day so far`}</Heading>
      <Strip m={m} now={now} />
      {spans.length === 0 && <Box color="muted">Nothing is noted yet. Start and end what you do with one tap, and its minutes teach the plan.</Box>}
      {spans.map((w) => (
        <Span key={w.id} w={w} own={own} />
      ))}
      {m.gaps.map((g) => (
        <GapLine key={g.from} g={g} own={own} />
      ))}
    </Box>
  );
}

/** The hours of the day: what was noted is dark, what is missing is open. */
function Strip({ m, now }: { m: Schemas["TodayMine"]; now: Date }) {
  const midnight = new Date(now);
  midnight.setHours(0, 0, 0, 0);
  const from = midnight.getTime() + 8 * 3_600_000;
  const span = 12 * 3_600_000;
  const x = (iso: string | Date) => Math.max(0, Math.min(1, (new Date(iso).getTime() - from) / span)) * 740 + 10;
  const gaps = m.gaps.filter((g) => new Date(g.from) >= midnight);
  return (
    <svg viewBox="0 0 760 40" width="100%" role="img">
      <title>{m.did.map((w) => `${clockTime(w.began_at)} ${w.title}`).join("; ") || "nothing noted"}</title>
      {[8, 10, 12, 14, 16, 18, 20].map((h) => (
        <text key={h} x={x(new Date(midnight.getTime() + h * 3_600_000))} y="38" textAnchor="middle" fontSize="11" fill={v("muted")}>
          {h}
        </text>
      ))}
      {gaps.map((g) => (
        <rect key={g.from} x={x(g.from)} y="6" width={x(g.to) - x(g.from)} height="18" fill="none" stroke={v("rust")} strokeDasharray="3 3">
          <title>nothing noted</title>
        </rect>
      ))}
      {m.did.map((w) => (
        <rect
          key={w.id}
          x={x(w.began_at)}
          y="4"
          width={Math.max(2, x(w.ended_at ?? now) - x(w.began_at))}
          height="22"
          fill={w.ended_at ? v("yew") : v("heather")}
          stroke={v("ink")}
        >
          <title>{w.title}</title>
        </rect>
      ))}
      <path d={`M${x(now)} 0V28`} stroke={v("heather")} strokeWidth="2" />
    </svg>
  );
}

function Span({ w, own }: { w: Schemas["WorkSpan"]; own: boolean }) {
  const back = useAct(() => ask(api.DELETE("/api/work/{id}", { params: { path: { id: w.id } } })));
  const minutes = (new Date(w.ended_at as string).getTime() - new Date(w.began_at).getTime()) / 60_000;
  return (
    <Flex gap="12px" fontSize="14px" py="2px" align="baseline">
      <Box color="muted" w="92px" flexShrink="0">
        {clockTime(w.began_at)}–{clockTime(w.ended_at as string)}
      </Box>
      <Box flex="1">
        <b>{w.title}</b>
        {w.note && `, ${w.note}`}
        {w.interrupted && (
          <Box as="span" color="muted">
            {", interrupted"}
          </Box>
        )}
        {w.later && (
          <Box as="span" color="muted">
            {", noted later"}
          </Box>
        )}
      </Box>
      <Box color={w.planned_min && minutes > 1.5 * w.planned_min ? "rust" : "muted"} whiteSpace="nowrap">
        {long(minutes)}
        {w.planned_min ? ` of ${long(w.planned_min)}` : ""}
      </Box>
      {own && (
        <Box as="button" color="muted" textDecoration="underline" onClick={() => void back.run()}>
          take back
        </Box>
      )}
    </Flex>
  );
}

/** A stretch of working time without a word, and what the record has of it: said afterwards. */
function GapLine({ g, own }: { g: Schemas["TodayGap"]; own: boolean }) {
  const [open, setOpen] = useState(false);
  const [title, setTitle] = useState("");
  const [from, setFrom] = useState(clockTime(g.from));
  const [to, setTo] = useState(clockTime(g.to));
  const keep = useAct(async () => {
    await ask(
      api.POST("/api/work", {
        body: { act: "other work", title, began_at: onDay(g.from, from), ended_at: onDay(g.from, to), key: crypto.randomUUID() },
      }),
    );
    setOpen(false);
  });
  return (
    <Box py="4px" borderTopWidth="1px" borderColor="line" fontSize="14px" data-gap={clockTime(g.from)}>
      <Flex gap="4px 12px" align="baseline" wrap="wrap">
        <Box color="rust" fontWeight="600" w="170px" flexShrink="0">
          {day(g.from)} {clockTime(g.from)}–{clockTime(g.to)}
        </Box>
        <Box flex="1 1 200px">
          nothing noted
          {g.did.length > 0 && <Box as="span" color="muted">{`; the record has ${g.did.join(", ")}`}</Box>}
        </Box>
        {own && (
          <Plain h="30px" px="12px" fontSize="13.5px" onClick={() => setOpen(!open)}>
            {open ? "Leave it" : "Say what it was"}
          </Plain>
        )}
      </Flex>
      {open && (
        <Flex gap="10px" align="end" wrap="wrap" mt="4px">
          <Entry label="What it was" name="title" value={title} set={setTitle} problem={keep.problem} width="260px" />
          <Entry label="From" name="began_at" type="time" value={from} set={setFrom} problem={keep.problem} width="136px" />
          <Entry label="Until" name="ended_at" type="time" value={to} set={setTo} problem={keep.problem} width="136px" />
          <Plain disabled={keep.busy || title.trim() === ""} onClick={() => void keep.run()}>
            Note it
          </Plain>
        </Flex>
      )}
      <Refusal problem={keep.problem} />
    </Box>
  );
}
