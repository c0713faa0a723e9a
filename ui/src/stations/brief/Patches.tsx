import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useMaterials } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day, dayTime, isoDay } from "../../parts/format";

type Performer = Schemas["PeoplePerformer"];
type Patch = Performer["patch_tests"][number];

const tone: Record<string, string> = { clear: "ink", positive: "rust", open: "gorse" };
const DAY_MS = 86_400_000;

/** Patch tests: put on with their lot, read a day or two later by somebody. */
export function Patches({ performer, now }: { performer: Performer; now: Date }) {
  const [open, setOpen] = useState(false);
  const [picked, setPicked] = useState<number>();
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            put one on
          </Box>
        }
      >
        Patch tests
      </Heading>
      {performer.patch_tests.length === 0 && !open && <Box color="muted">None yet. Test adhesive, latex, colour and remover a day or two ahead.</Box>}
      {performer.patch_tests.map((t) => (
        <Box key={t.id} py="2px">
          <Row patch={t} now={now} open={picked === t.id} pick={() => setPicked(picked === t.id ? undefined : t.id)} />
          {picked === t.id && <Close performer={performer.id} patch={t} now={now} done={() => setPicked(undefined)} />}
        </Box>
      ))}
      {open && <PutOn performer={performer.id} now={now} done={() => setOpen(false)} />}
    </Box>
  );
}

function Row({ patch: t, now, open, pick }: { patch: Patch; now: Date; open: boolean; pick: () => void }) {
  const over = t.expires_on.slice(0, 10) < isoDay(now);
  const word = over ? "run out" : t.result === "open" ? "on, not read" : t.result;
  return (
    <Flex gap="10px" lineHeight="1.25" align="baseline">
      <Box flex="1">
        {t.material_name}
        <Box as="span" color="muted">
          {t.lot ? `, lot ${t.lot}` : ", lot not known"}
        </Box>
      </Box>
      <Box w="165px" whiteSpace="nowrap" color={over ? "rust" : tone[t.result]} fontWeight={t.result === "clear" && !over ? 400 : 600}>
        {word}
        <Box as="span" color="muted" fontWeight="400">
          , to {day(t.expires_on).slice(4)}
        </Box>
      </Box>
      <Box as="button" layerStyle="small" textDecoration="underline" aria-expanded={open} onClick={pick}>
        {t.result === "open" ? "read" : "look"}
      </Box>
    </Flex>
  );
}

/** One test closer: how it was read, reading it, putting it right. */
function Close({ performer, patch: t, now, done }: { performer: number; patch: Patch; now: Date; done: () => void }) {
  const [wrong, setWrong] = useState(false);
  const [note, setNote] = useState("");
  const path = { path: { id: performer, test: t.id } };
  const read = useAct(async (result: "clear" | "positive") => {
    await ask(api.POST("/api/performers/{id}/patch-tests/{test}/reading", { params: path, body: { result, note } }));
    done();
  });
  const early = t.read_from !== undefined && new Date(t.read_from) > now;
  return (
    <Box pl="10px" borderLeftWidth="2px" borderColor="line" my="4px">
      <Box layerStyle="small">
        {t.put_on_at ? `Put on ${dayTime(t.put_on_at)}. ` : `Put on ${day(t.tested_on)}, hour not known. `}
        {t.read_at && t.read_by && `Read by ${t.read_by}, ${dayTime(t.read_at)}. `}
        {!t.read_at && t.result !== "open" && (t.read_on ? `Read on ${day(t.read_on)}, hour not known. ` : "When it was read is not known. ")}
        {t.note}
        {t.corrected && ` Corrects: ${t.corrected}.`}
      </Box>
      {t.result === "open" && (
        <>
          <Entry label="What was seen" name="note" value={note} set={setNote} problem={read.problem} />
          <Flex gap="8px" mt="6px" align="center" wrap="wrap">
            <Plain h="34px" disabled={read.busy || early} onClick={() => void read.run("clear")}>
              Clear
            </Plain>
            <Plain h="34px" disabled={read.busy} onClick={() => void read.run("positive")}>
              A reaction
            </Plain>
            {early && t.read_from && <Box layerStyle="small">Clear is read from {dayTime(t.read_from)} on; a reaction at any time.</Box>}
          </Flex>
        </>
      )}
      {wrong ? (
        <Correct performer={performer} patch={t} now={now} done={done} />
      ) : (
        <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => setWrong(true)}>
          this was written down wrong
        </Box>
      )}
      <Refusal problem={read.problem} />
    </Box>
  );
}

type Typed = Pick<Schemas["PeopleNewPatch"], "material" | "tested_on" | "expires_on"> & { lot: string; result: Patch["result"]; read_on: string };

/** A test as it is sent: a day of reading only where it was read before. */
const sent = ({ read_on, ...t }: Typed) => (t.result !== "open" && read_on !== "" ? { ...t, read_on } : t);

function Fields({
  typed,
  set,
  problem,
  results,
}: {
  typed: Typed;
  set: (t: Typed) => void;
  problem?: ReturnType<typeof useAct>["problem"];
  results: boolean;
}) {
  const materials = useMaterials();
  return (
    <Grid templateColumns="1fr 1fr" gap="8px">
      <Choose label="What" name="material" value={typed.material} set={(material) => set({ ...typed, material })} problem={problem}>
        {materials.data
          ?.filter((m) => /^(adhesive|latex|paint|remover|barrier|silicone|gelatin|wax|sealer|preparation|life_cast)/.test(m.family))
          .map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
      </Choose>
      <Entry label="Lot" name="lot" value={typed.lot} set={(lot) => set({ ...typed, lot })} problem={problem} />
      {results && (
        <Choose
          label="It showed"
          name="result"
          value={typed.result}
          set={(result) => set({ ...typed, result: result as Typed["result"] })}
          problem={problem}
        >
          <option value="open">not read yet</option>
          <option value="clear">clear</option>
          <option value="positive">a reaction</option>
        </Choose>
      )}
      <Entry
        label="Put on"
        name="tested_on"
        type="date"
        value={typed.tested_on}
        set={(tested_on) => set({ ...typed, tested_on })}
        problem={problem}
      />
      {results && typed.result !== "open" && (
        <Entry label="Read on" name="read_on" type="date" value={typed.read_on} set={(read_on) => set({ ...typed, read_on })} problem={problem} />
      )}
      <Entry
        label="Good until"
        name="expires_on"
        type="date"
        value={typed.expires_on}
        set={(expires_on) => set({ ...typed, expires_on })}
        problem={problem}
      />
    </Grid>
  );
}

function PutOn({ performer, now, done }: { performer: number; now: Date; done: () => void }) {
  const [typed, setTyped] = useState<Typed>({
    material: "adhesive-acrylic",
    lot: "",
    result: "open",
    tested_on: isoDay(now),
    read_on: "",
    expires_on: "",
  });
  const { tested_on } = typed;
  useEffect(() => {
    const d = new Date(`${tested_on}T00:00:00Z`);
    if (!Number.isNaN(d.getTime())) setTyped((t) => ({ ...t, expires_on: isoDay(new Date(d.getTime() + 60 * DAY_MS)) }));
  }, [tested_on]);
  const record = useAct(async () => {
    await ask(api.POST("/api/performers/{id}/patch-tests", { params: { path: { id: performer } }, body: sent(typed) }));
    done();
  });
  return (
    <Box mt="8px">
      <Fields typed={typed} set={setTyped} problem={record.problem} results={tested_on < isoDay(now)} />
      <Flex mt="8px" gap="10px" align="center">
        <Plain disabled={record.busy} onClick={() => void record.run()}>
          {typed.result === "open" ? "It is on" : "Write it down"}
        </Plain>
        <Box layerStyle="small">Read after 24 to 48 hours.</Box>
      </Flex>
      <Refusal problem={record.problem} />
    </Box>
  );
}

function Correct({ performer, patch: t, now, done }: { performer: number; patch: Patch; now: Date; done: () => void }) {
  const [typed, setTyped] = useState<Typed>({
    material: t.material,
    lot: t.lot,
    result: t.result,
    tested_on: t.tested_on.slice(0, 10),
    read_on: (t.read_on ?? t.read_at ?? "").slice(0, 10),
    expires_on: t.expires_on.slice(0, 10),
  });
  const [reason, setReason] = useState("");
  const correct = useAct(async (gone: boolean) => {
    await ask(
      api.POST("/api/performers/{id}/patch-tests/{test}/correction", {
        params: { path: { id: performer, test: t.id } },
        body: { ...sent(typed), reason, ...(gone ? { void: true } : {}) },
      }),
    );
    done();
  });
  return (
    <Box mt="6px">
      <Fields typed={typed} set={setTyped} problem={correct.problem} results={typed.tested_on < isoDay(now)} />
      <Box h="6px" />
      <Entry label="What was wrong" name="reason" value={reason} set={setReason} problem={correct.problem} />
      <Flex gap="8px" mt="6px">
        <Plain h="34px" disabled={correct.busy} onClick={() => void correct.run(false)}>
          Put it right
        </Plain>
        <Plain h="34px" disabled={correct.busy} onClick={() => void correct.run(true)}>
          Take it out
        </Plain>
      </Flex>
      <Refusal problem={correct.problem} />
    </Box>
  );
}
