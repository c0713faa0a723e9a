import { Box, Flex, Grid } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useAct } from "../app/act";
import { api, ask, type Schemas } from "../app/api";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../parts/controls";

type Mould = Schemas["MouldDetail"];

const faults = ["clean", "bubble", "hole", "tear", "stuck", "thin", "flash"] as const;
type Fault = (typeof faults)[number];

/** What came out wrong of a mould at the same place more than once, and where to look for it. */
export function CameAgain({ mould: m }: { mould: Mould }) {
  if (m.repeats.length === 0) return null;
  return (
    <Box>
      <Heading>Comes again at the same place</Heading>
      {m.repeats.map((r) => (
        <Box key={r.kind + r.place} py="3px">
          <b>
            {r.kind}, {r.place}
          </b>
          , {r.times} times
          <Box layerStyle="note">Likely: {r.likely}.</Box>
        </Box>
      ))}
    </Box>
  );
}

/** Writes down how a copy came out of its mould, for the mould's history; of one copy where one is in hand. */
export function CameOut({ mould: m, of }: { mould: Mould; of?: string }) {
  const [kind, setKind] = useState<Fault>("clean");
  const [copy, setCopy] = useState(of ?? m.made[0]?.code ?? "");
  const [place, setPlace] = useState("");
  const [note, setNote] = useState("");
  // The same key until the server has it, so that a lost answer marks nothing twice.
  const key = useRef(crypto.randomUUID());
  const mark = useAct(async () => {
    await ask(api.POST("/api/moulds/marks", { body: { code: m.code, copy, kind, place, words: note, key: key.current } }));
    key.current = crypto.randomUUID();
    setKind("clean");
    setPlace("");
    setNote("");
  });
  const places = [...new Set(m.marks.map((k) => k.place).filter(Boolean))];
  const what = (
    <Choose label="It was" name="kind" value={kind} set={(k) => setKind(k as Fault)} problem={mark.problem}>
      {faults.map((k) => (
        <option key={k}>{k}</option>
      ))}
    </Choose>
  );
  const where = (
    <Entry label="Where" name="place" value={place} set={setPlace} problem={mark.problem} placeholder="left nostril" suggestions={places} />
  );
  const few = <Entry label="In a few words" name="words" value={note} set={setNote} problem={mark.problem} />;
  return (
    <Box>
      {of ? (
        <Grid templateColumns="120px 1fr 1fr auto" gap="8px" alignItems="end">
          {what}
          {where}
          {few}
          <Plain h="40px" onClick={() => void mark.run()} disabled={mark.busy}>
            Write it down
          </Plain>
        </Grid>
      ) : (
        <>
          <Grid templateColumns="1fr 1fr" gap="8px">
            <Choose label="The copy" name="copy" value={copy} set={setCopy} problem={mark.problem}>
              <option value="">the mould itself</option>
              {m.made.map((c) => (
                <option key={c.code}>{c.code}</option>
              ))}
            </Choose>
            {what}
            {where}
            {few}
          </Grid>
          <Flex mt="8px">
            <Go act={() => void mark.run()} disabled={mark.busy}>
              Write it down
            </Go>
          </Flex>
        </>
      )}
      <Refusal problem={mark.problem} />
    </Box>
  );
}
