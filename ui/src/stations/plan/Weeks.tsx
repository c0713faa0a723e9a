import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useMe } from "../../app/reads";
import { Entry, Plain, Refusal } from "../../parts/controls";

const days = ["Mo", "Tu", "We", "Th", "Fr", "Sa", "Su"];

type Craft = Schemas["PlanWeek"]["crafts"][number];
const crafts: [Craft, string][] = [
  ["sculpt", "sculpts"],
  ["mould", "moulds"],
  ["make", "makes"],
  ["finish", "finishes"],
];

/** A craft more, or less; all of them is none set, and so is none. */
function turned(own: Craft[], c: Craft): Craft[] {
  const all = crafts.map(([name]) => name);
  const had = own.length === 0 ? all : own;
  const now = had.includes(c) ? had.filter((x) => x !== c) : [...had, c];
  return now.length === all.length ? [] : now;
}

const clock = (min: number) => `${String(Math.floor(min / 60)).padStart(2, "0")}:${String(min % 60).padStart(2, "0")}`;
const minutes = (text: string) => {
  const [h, m] = text.split(":").map(Number);
  return h * 60 + (m || 0);
};

/** Who is in when, week by week: their own, or, for a lead, anybody's. */
export function Weeks({ r }: { r: Schemas["PlanRunUp"] }) {
  return (
    <Box as="details" mt="8px" data-testid="weeks">
      <summary>The week of each</summary>
      {r.weeks.map((w) => (
        <OneWeek key={`${w.person} ${w.days} ${w.from_min} ${w.to_min} ${w.late_min}`} w={w} />
      ))}
    </Box>
  );
}

/** One of several that are on or off. */
function Toggle({ text, on, may, turn }: { text: string; on: boolean; may: boolean; turn: () => void }) {
  return (
    <Box
      as="button"
      aria-pressed={on}
      minW="34px"
      px="8px"
      h="32px"
      borderWidth="1.5px"
      borderColor={on ? "ink" : "line"}
      borderRadius="8px"
      bg={on ? "sheet" : "transparent"}
      color={on ? "ink" : "muted"}
      pointerEvents={may ? undefined : "none"}
      onClick={turn}
    >
      {text}
    </Box>
  );
}

function OneWeek({ w }: { w: Schemas["PlanWeek"] }) {
  const me = useMe().data?.person;
  const may = me?.name === w.person || me?.role === "lead";
  const [own, setOwn] = useState(w);
  const keep = useAct(() => ask(api.PUT("/api/plan/week", { body: own })));
  const changed = JSON.stringify(own) !== JSON.stringify(w);
  return (
    <Box py="6px" borderBottomWidth="1px" borderColor="line">
      <Flex gap="8px" align="end" wrap="wrap">
        <Box w="100%" fontWeight="600">
          {w.person.split(" ")[0]}
        </Box>
        <Flex gap="2px" role="group" aria-label={`Days of ${w.person}`} pb="4px">
          {days.map((d, i) => (
            <Toggle key={d} text={d} on={(own.days & (1 << i)) !== 0} may={may} turn={() => setOwn({ ...own, days: own.days ^ (1 << i) })} />
          ))}
        </Flex>
        <Entry
          label="From"
          name="from_min"
          type="time"
          value={clock(own.from_min)}
          set={(t) => t && setOwn({ ...own, from_min: minutes(t) })}
          problem={keep.problem}
          width="136px"
        />
        <Entry
          label="Until"
          name="to_min"
          type="time"
          value={clock(own.to_min)}
          set={(t) => t && setOwn({ ...own, to_min: minutes(t) })}
          problem={keep.problem}
          width="136px"
        />
        <Entry
          label="At most"
          name="late_min"
          type="time"
          value={clock(own.late_min)}
          set={(t) => t && setOwn({ ...own, late_min: minutes(t) })}
          problem={keep.problem}
          width="136px"
        />
        <Flex gap="2px" role="group" aria-label={`What ${w.person} does`} pb="4px">
          {crafts.map(([c, text]) => (
            <Toggle
              key={c}
              text={text}
              on={own.crafts.length === 0 || own.crafts.includes(c)}
              may={may}
              turn={() => setOwn({ ...own, crafts: turned(own.crafts, c) })}
            />
          ))}
        </Flex>
        {may && changed && (
          <Plain h="40px" disabled={keep.busy} onClick={() => void keep.run()}>
            Keep
          </Plain>
        )}
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}
