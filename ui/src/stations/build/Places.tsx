import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useDevice, useMe, usePlaces } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { clockTime } from "../../parts/format";

type Place = Schemas["BuildPlace"];

const kinds: Record<Place["kind"], string> = { rack: "rack", cold: "cold room", warm_box: "warm box", oven: "oven" };

/** Where things wait: what each place shows, what it is set to, and what stands in it. */
export function Places() {
  const places = usePlaces();
  const [open, setOpen] = useState<string>();
  if (!places.data) return null;
  return (
    <Box data-testid="places">
      <Heading>Places</Heading>
      {places.data.length === 0 && (
        <Box color="muted" mb="6px">
          Racks, cold rooms, warm boxes and ovens: write yours down, and pots that stand in them follow what they show.
        </Box>
      )}
      {places.data.map((p) => (
        <Box key={p.code} py="5px" borderBottomWidth="1px" borderColor="line" data-place-row={p.code}>
          <Flex gap="10px" align="baseline" wrap="wrap">
            <Box as="button" fontWeight="600" aria-expanded={open === p.code} onClick={() => setOpen(open === p.code ? undefined : p.code)}>
              {p.name}
            </Box>
            <Box flex="1" color="muted">
              {shows(p)}
            </Box>
          </Flex>
          {p.pots.length > 0 && <Box layerStyle="small">{p.pots.join(", ")}</Box>}
          {open === p.code && <OnePlace place={p} />}
        </Box>
      ))}
      <NewPlace />
    </Box>
  );
}

/** What a place shows, in a few words. */
export function shows(p: Place): string {
  const out: string[] = [];
  if (p.temp_c !== undefined) out.push(`${p.temp_c.toFixed(p.temp_c > 30 ? 0 : 1)} °C${p.rh ? ` · ${Math.round(100 * p.rh)} % RH` : ""}`);
  else out.push(p.kind === "rack" ? "as the room" : "not read");
  if (p.set_c !== undefined) out.push(`set to ${p.set_c} °C`);
  else if (p.kind === "oven" || p.kind === "warm_box") out.push("off");
  if (p.takes !== undefined) out.push(`takes ${p.takes} at once`);
  if (p.alone) out.push("may run alone");
  if (p.flame) out.push("a flame burns there");
  return out.join(", ");
}

function OnePlace({ place: p }: { place: Place }) {
  const probe = useDevice("probe");
  const me = useMe().data?.person;
  const [typed, setTyped] = useState("");
  const [leaving, setLeaving] = useState(false);
  const [read, setRead] = useState("");
  const path = { params: { path: { code: p.code } } };
  const number = (text: string) => Number(text.replace(",", "."));
  const set = useAct(async (c?: number) => {
    await ask(api.POST("/api/places/{code}/set", { ...path, body: { set_c: c, leaving: leaving || undefined } }));
    setTyped("");
  });
  const keep = useAct(async () => {
    await ask(api.POST("/api/places/{code}/reading", { ...path, body: { temp_c: number(read) } }));
    setRead("");
  });
  const [takes, setTakes] = useState("");
  const rule = useAct(async (body: { alone?: boolean; flame?: boolean; takes?: number }) => {
    await ask(api.POST("/api/places/{code}/rules", { ...path, body }));
    setTakes("");
  });
  const hot = p.kind === "oven" || p.kind === "warm_box";
  return (
    <Box py="8px">
      {p.kind !== "rack" && (
        <Flex gap="8px" align="end" wrap="wrap">
          <Entry label="Set it to, °C" name="set_c" value={typed} set={setTyped} problem={set.problem} width="120px" />
          <Plain h="44px" disabled={set.busy || !(number(typed) > 0)} onClick={() => void set.run(number(typed))}>
            Set it
          </Plain>
          {p.set_c !== undefined && (
            <Plain h="44px" disabled={set.busy} onClick={() => void set.run(undefined)}>
              It is off
            </Plain>
          )}
        </Flex>
      )}
      {hot && (
        <Flex as="label" gap="7px" align="center" minH="32px">
          <input type="checkbox" checked={leaving} onChange={(e) => setLeaving(e.target.checked)} />
          nobody stays beside it
        </Flex>
      )}
      {!probe && (
        <Flex gap="8px" align="end" mt="4px">
          <Entry label="Its thermometer shows, °C" name="temp_c" value={read} set={setRead} problem={keep.problem} width="180px" />
          <Plain h="44px" disabled={keep.busy || read.trim() === "" || !Number.isFinite(number(read))} onClick={() => void keep.run()}>
            Keep it
          </Plain>
        </Flex>
      )}
      {(p.kind === "rack" || p.kind === "oven") && me?.role !== "apprentice" && (
        <Flex gap="8px" align="end" mt="4px">
          <Entry
            label={p.kind === "rack" ? "Copies it takes at once" : "Moulds it takes at once"}
            name="takes"
            value={takes}
            set={setTakes}
            problem={rule.problem}
            placeholder={p.takes?.toString() ?? (p.kind === "rack" ? "as many as there are" : "4")}
            width="200px"
          />
          <Plain h="44px" disabled={rule.busy || takes.trim() === ""} onClick={() => void rule.run({ takes: number(takes) || 0 })}>
            Keep it
          </Plain>
        </Flex>
      )}
      <Flex gap="12px" wrap="wrap" mt="4px">
        {hot && me?.role === "lead" && (
          <Box as="button" textDecoration="underline" onClick={() => void rule.run({ alone: !p.alone })}>
            {p.alone ? "Somebody stays beside it from now on" : "Allow it to run alone"}
          </Box>
        )}
        {me?.role !== "apprentice" && (
          <Box as="button" textDecoration="underline" onClick={() => void rule.run({ flame: !p.flame })}>
            {p.flame ? "The flame is out" : "A flame burns there"}
          </Box>
        )}
      </Flex>
      {set.problem && set.problem.field !== "set_c" && <Refusal problem={set.problem} />}
      {rule.problem?.field !== "takes" && <Refusal problem={rule.problem} />}
      {p.read_at && <Box layerStyle="small">Read at {clockTime(p.read_at)}.</Box>}
    </Box>
  );
}

function NewPlace() {
  const me = useMe().data?.person;
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [kind, setKind] = useState<Place["kind"]>("rack");
  const add = useAct(async () => {
    await ask(api.POST("/api/places", { body: { name, kind } }));
    setName("");
    setOpen(false);
  });
  if (me?.role === "apprentice") return null;
  if (!open)
    return (
      <Box as="button" textDecoration="underline" mt="6px" onClick={() => setOpen(true)}>
        Write a place down
      </Box>
    );
  return (
    <Flex gap="8px" align="end" wrap="wrap" mt="6px">
      <Entry label="Name" name="name" value={name} set={setName} problem={add.problem} placeholder="cold 1" width="130px" />
      <Choose label="What it is" name="kind" value={kind} set={(k) => setKind(k as Place["kind"])} problem={add.problem} width="120px">
        {Object.entries(kinds).map(([k, text]) => (
          <option key={k} value={k}>
            {text}
          </option>
        ))}
      </Choose>
      <Plain h="44px" disabled={add.busy || name.trim() === ""} onClick={() => void add.run()}>
        Keep it
      </Plain>
    </Flex>
  );
}
