import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { long } from "../../parts/long";

const SLOT = 15 * 60_000;

/** A step in hand: which one, who, and when. */
export interface Held {
  step: string;
  text: string;
  person: string;
  start: number;
}

/** A moment as the fields of a form have it. */
const local = (t: number) => {
  const d = new Date(t - new Date(t).getTimezoneOffset() * 60_000);
  return d.toISOString().slice(0, 16);
};

/** Moves a step by keys or by typing: the checker says at once what breaks, and whether the rest can make way. */
export function ByHand({ r, held, set }: { r: Schemas["PlanRunUp"]; held: Held; set: (h: Held | undefined) => void }) {
  const people = r.lanes.filter((l) => l.kind === "person").map((l) => l.id);
  const [told, setTold] = useState<Schemas["PlanBreaks"]>();
  const pinned = r.pins.find((p) => p.step === held.step);
  const look = useAct((h: Held) =>
    ask(api.POST("/api/plan/try", { body: { step: h.step, person: h.person, start_at: new Date(h.start).toISOString() } })).then(setTold),
  );
  const pin = useAct(async () => {
    await ask(api.POST("/api/plan/pins", { body: { step: held.step, person: held.person, start_at: new Date(held.start).toISOString() } }));
    set(undefined);
  });
  const free = useAct(async (id: number) => {
    await ask(api.DELETE("/api/plan/pins/{id}", { params: { path: { id } } }));
    set(undefined);
  });
  const { run } = look;
  useEffect(() => {
    setTold(undefined);
    // Keys are pressed faster than plans are made: the last one is asked.
    const later = setTimeout(() => void run(held), 250);
    return () => clearTimeout(later);
  }, [held, run]);
  const key = (e: React.KeyboardEvent) => {
    if (e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement) return;
    const i = people.indexOf(held.person);
    if (e.key === "ArrowRight") set({ ...held, start: held.start + SLOT });
    else if (e.key === "ArrowLeft") set({ ...held, start: held.start - SLOT });
    else if (e.key === "ArrowDown") set({ ...held, person: people[(i + 1) % people.length] });
    else if (e.key === "ArrowUp") set({ ...held, person: people[(i + people.length - 1) % people.length] });
    else if (e.key === "Escape") set(undefined);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <Box
      layerStyle="sheet"
      bg="sheet"
      borderWidth="1.5px"
      borderColor="ink"
      borderRadius="3px 18px 18px 3px"
      p="14px"
      my="10px"
      tabIndex={0}
      ref={(e: HTMLDivElement | null) => {
        if (e && !e.contains(document.activeElement)) e.focus();
      }}
      onKeyDown={key}
      role="group"
      aria-label={`${held.text} in hand`}
      data-testid="by-hand"
    >
      <Heading aside="arrow keys move it by a quarter of an hour, or to somebody else">{held.text}</Heading>
      <Flex gap="12px" align="end" wrap="wrap">
        <Choose label="Who" name="person" value={held.person} set={(person) => set({ ...held, person })} problem={pin.problem} width="170px">
          {people.map((p) => (
            <option key={p}>{p}</option>
          ))}
        </Choose>
        <Entry
          label="From"
          name="start_at"
          type="datetime-local"
          value={local(held.start)}
          set={(v) => v && set({ ...held, start: new Date(v).getTime() })}
          problem={pin.problem ?? look.problem}
          width="220px"
        />
        <Plain disabled={pin.busy || !told?.fits} onClick={() => void pin.run()}>
          Put it there, to stay
        </Plain>
        {pinned && (
          <Plain disabled={free.busy} onClick={() => void free.run(pinned.id)}>
            Let it go
          </Plain>
        )}
        <Plain onClick={() => set(undefined)}>Leave it</Plain>
      </Flex>
      <Box mt="8px" aria-live="polite" data-testid="breaks">
        {!told && !look.problem && <Box color="muted">Asking the checker…</Box>}
        {told && told.broken.length === 0 && <Box color="yew">Nothing breaks with everything else where it is.</Box>}
        {told && told.broken.length > 0 && (
          <>
            <Box fontWeight="600">With everything else where it is, it breaks:</Box>
            {told.broken.slice(0, 5).map((b) => (
              <Box key={b} color="rust">
                {b}
              </Box>
            ))}
            {told.broken.length > 5 && <Box color="muted">and {told.broken.length - 5} more</Box>}
          </>
        )}
        {told && !told.fits && <Box color="rust">There is no plan with it: {told.why}</Box>}
        {told?.fits && (
          <Box>
            The rest makes way: {told.moved === 0 ? "nothing else moves" : `${told.moved} steps move`},{" "}
            {told.late_min > told.was_late_min
              ? `${long(told.late_min - told.was_late_min)} more lateness in all`
              : told.late_min < told.was_late_min
                ? `${long(told.was_late_min - told.late_min)} less lateness in all`
                : "as late as before"}
            . It ends {dayTime(told.end_at)}.
          </Box>
        )}
      </Box>
      <Refusal problem={pin.problem ?? free.problem ?? look.problem} />
    </Box>
  );
}

/** What stays where somebody put it. */
export function Pins({ r }: { r: Schemas["PlanRunUp"] }) {
  const free = useAct((id: number) => ask(api.DELETE("/api/plan/pins/{id}", { params: { path: { id } } })));
  if (r.pins.length === 0) return null;
  return (
    <Box data-testid="pins">
      <Heading>Stays where it was put</Heading>
      {r.pins.map((p) => (
        <Flex key={p.id} gap="10px" py="2px">
          <Box w="70px" fontWeight="600">
            {p.person.split(" ")[0]}
          </Box>
          <Box flex="1">
            {p.text}, {dayTime(p.start_at)}{" "}
            <Box as="span" color="muted">
              ({p.by})
            </Box>
          </Box>
          <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => void free.run(p.id)}>
            let it go
          </Box>
        </Flex>
      ))}
      <Refusal problem={free.problem} />
    </Box>
  );
}

/** Work that no piece asks for: a meeting, a repair. */
export function Other({ r }: { r: Schemas["PlanRunUp"] }) {
  const [text, setText] = useState("");
  const [person, setPerson] = useState("");
  const [minutes, setMinutes] = useState("60");
  const [from, setFrom] = useState("");
  const [by, setBy] = useState("");
  const people = r.lanes.filter((l) => l.kind === "person").map((l) => l.id);
  const at = (v: string) => (v ? new Date(v).toISOString() : undefined);
  const add = useAct(async () => {
    await ask(
      api.POST("/api/plan/other", { body: { text, person: person || undefined, minutes: Number(minutes) || 0, from_at: at(from), by_at: at(by) } }),
    );
    setText("");
  });
  const done = useAct((id: number) => ask(api.POST("/api/plan/other/{id}/done", { params: { path: { id } } })));
  const back = useAct((id: number) => ask(api.DELETE("/api/plan/other/{id}", { params: { path: { id } } })));
  return (
    <Box data-testid="other">
      <Heading>Other work</Heading>
      {r.other.map((o) => (
        <Flex key={o.id} gap="10px" py="2px" align="baseline">
          <Box flex="1">
            <b>{o.text}</b>, {long(o.minutes)}
            {o.person && `, ${o.person}`}
            {o.from_at && `, from ${dayTime(o.from_at)}`}
            {o.by_at && `, by ${dayTime(o.by_at)}`}
          </Box>
          <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => void done.run(o.id)}>
            done
          </Box>
          <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => void back.run(o.id)}>
            take back
          </Box>
        </Flex>
      ))}
      <Flex gap="10px" align="end" wrap="wrap" mt="4px">
        <Entry label="A meeting, a repair" name="text" value={text} set={setText} problem={add.problem} width="190px" />
        <Choose label="Who" name="person" value={person} set={setPerson} problem={add.problem} width="130px">
          <option value="">anybody</option>
          {people.map((p) => (
            <option key={p}>{p}</option>
          ))}
        </Choose>
        <Entry label="Minutes" name="minutes" value={minutes} set={setMinutes} problem={add.problem} width="80px" />
        <Entry label="Not before" name="from_at" type="datetime-local" value={from} set={setFrom} problem={add.problem} width="200px" />
        <Entry label="By" name="by_at" type="datetime-local" value={by} set={setBy} problem={add.problem} width="200px" />
        <Plain disabled={add.busy || text.trim() === ""} onClick={() => void add.run()}>
          Plan it in
        </Plain>
      </Flex>
      <Refusal problem={add.problem ?? done.problem ?? back.problem} />
    </Box>
  );
}
