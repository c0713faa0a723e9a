import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Choose, Entry, Plain, Refusal } from "../parts/controls";
import { useAct } from "./act";
import type { Schemas } from "./api";
import { useMaterials, useSubstances } from "./reads";

export type Fact = Schemas["PeopleHealthFact"];
export type NewFact = Schemas["PeopleNewFact"];

const tone: Record<string, string> = { allergic: "rust", sensitive: "gorse", clear: "ink" };
const WORDS = "in words";

/** How long what was erased can be put back with one tap. */
const UNDO_MS = 60_000;

interface Props {
  facts: Fact[];
  none: string;
  record: (fact: NewFact) => Promise<unknown>;
  /** Left out for whoever may not erase. */
  erase?: (id: number) => Promise<unknown>;
  open: boolean;
  setOpen: (open: boolean) => void;
}

/** What somebody may not take: chosen from the list, erased after one question, put back within a minute. */
export function Sensitivities({ facts, none, record, erase, open, setOpen }: Props) {
  const [sure, setSure] = useState<number>();
  const [gone, setGone] = useState<Fact>();
  const eraseIt = useAct(async (f: Fact) => {
    await erase?.(f.id);
    setSure(undefined);
    setGone(f);
  });
  const back = useAct(async (f: Fact) => {
    await record({ substance: f.words || f.substance, status: f.status, note: f.note, ...(f.words && !f.asked ? { means: f.substance } : {}) });
    setGone(undefined);
  });
  useEffect(() => {
    if (!gone) return;
    const timer = setTimeout(() => setGone(undefined), UNDO_MS);
    return () => clearTimeout(timer);
  }, [gone]);
  return (
    <Box>
      {facts.length === 0 && !open && <Box color="muted">{none}</Box>}
      {facts.map((f) => (
        <Box key={f.id} py="2px">
          <Flex gap="10px" align="baseline">
            <Box w="150px">{f.name}</Box>
            <Box flex="1" color={tone[f.status]} fontWeight="600">
              {f.status}
              <Box as="span" color="muted" fontWeight="400">
                {f.words && !f.asked && `, said “${f.words}”`}
                {f.note && `, ${f.note}`}
              </Box>
            </Box>
            {erase &&
              (sure === f.id ? (
                <Flex gap="8px" layerStyle="small">
                  <Box as="button" color="rust" textDecoration="underline" onClick={() => void eraseIt.run(f)}>
                    erase for good
                  </Box>
                  <Box as="button" textDecoration="underline" onClick={() => setSure(undefined)}>
                    keep
                  </Box>
                </Flex>
              ) : (
                <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => setSure(f.id)}>
                  erase
                </Box>
              ))}
          </Flex>
          {f.asked && f.status !== "clear" && <Place fact={f} record={record} />}
        </Box>
      ))}
      {gone && (
        <Flex gap="10px" align="center" layerStyle="small" role="status">
          {gone.name} is erased.
          <Plain h="30px" disabled={back.busy} onClick={() => void back.run(gone)}>
            Put it back
          </Plain>
        </Flex>
      )}
      {open && <Add record={record} done={() => setOpen(false)} />}
      <Refusal problem={eraseIt.problem ?? back.problem} />
    </Box>
  );
}

/** Words that name nothing of the list: somebody says what they mean. */
function Place({ fact, record }: { fact: Fact; record: Props["record"] }) {
  const [means, setMeans] = useState("");
  const place = useAct(async () => {
    await record({ substance: fact.substance, status: fact.status, note: fact.note, means });
  });
  return (
    <Flex gap="8px" align="center" mt="2px" wrap="wrap">
      <Box color="gorse" layerStyle="small">
        Nobody has said yet what this is; until then it holds everything back.
      </Box>
      <Box w="220px">
        <Choose label="It is" name="means" value={means} set={setMeans} problem={place.problem}>
          <Choices first="choose" />
        </Choose>
      </Box>
      <Plain h="34px" mt="22px" disabled={!means || place.busy} onClick={() => void place.run()}>
        That is it
      </Plain>
      <Refusal problem={place.problem} />
    </Flex>
  );
}

/** The list of substances, classes first, then the shop's products. */
function Choices({ first }: { first: string }) {
  const substances = useSubstances();
  const materials = useMaterials();
  return (
    <>
      <option value="">{first}</option>
      <optgroup label="Substances">
        {substances.data?.map((s) => (
          <option key={s.code} value={s.code}>
            {s.name}
          </option>
        ))}
      </optgroup>
      <optgroup label="One product alone">
        {materials.data?.map((m) => (
          <option key={m.slug} value={m.slug}>
            {m.name}
          </option>
        ))}
      </optgroup>
    </>
  );
}

function Add({ record, done }: { record: Props["record"]; done: () => void }) {
  const [code, setCode] = useState("");
  const [words, setWords] = useState("");
  const [status, setStatus] = useState<Fact["status"]>("allergic");
  const [note, setNote] = useState("");
  const add = useAct(async () => {
    await record({ substance: code === WORDS ? words : code, status, note });
    done();
  });
  return (
    <Box mt="8px">
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Choose label="To what" name={code === WORDS ? "list" : "substance"} value={code} set={setCode} problem={add.problem}>
          <Choices first="choose from the list" />
          <option value={WORDS}>something else, in words</option>
        </Choose>
        <Choose label="It is" name="status" value={status} set={(s) => setStatus(s as Fact["status"])} problem={add.problem}>
          <option value="allergic">allergic</option>
          <option value="sensitive">sensitive, cause unclear</option>
          <option value="clear">clear</option>
        </Choose>
      </Grid>
      {code === WORDS && (
        <Box mt="6px">
          <Entry
            label="In their words"
            name="substance"
            value={words}
            set={setWords}
            problem={add.problem}
            hint="Words that name something of the list are taken for it; others are asked about."
          />
        </Box>
      )}
      <Box h="6px" />
      <Entry label="Note" name="note" value={note} set={setNote} problem={add.problem} />
      <Flex mt="8px">
        <Plain disabled={add.busy} onClick={() => void add.run()}>
          Record it
        </Plain>
      </Flex>
      <Refusal problem={add.problem} />
    </Box>
  );
}
