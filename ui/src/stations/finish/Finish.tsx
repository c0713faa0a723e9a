import { Box, Flex, Grid, Image } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas, upload } from "../../app/api";
import { useRead } from "../../app/read";
import { useCopies, useMould } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Entry, Go, Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { isOnBench, isRepair, madeFrom, stateWords } from "../../parts/copies";
import { dayTime, words } from "../../parts/format";
import { labToHex, readLab } from "../../parts/lab";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { CameAgain, CameOut } from "../../piece/CameOut";

/** The finishing bench: five ticks, each with who and when. */
export default function Finish() {
  const { code } = useParams();
  const copies = useCopies();
  if (!copies.data) return null;
  const here = copies.data.filter((c) => isOnBench(c.state));
  const at = code ?? here[0]?.code;
  return (
    <Box>
      <RoomHead title="Finish" aside={here.length === 1 ? "one copy on the bench" : `${here.length} copies on the bench`} />
      <Grid templateColumns={columns("280px minmax(0,1fr)")} gap="36px">
        <Box>
          <Heading>On the bench</Heading>
          <Standing
            empty={<Box color="muted">Nothing is made and unfinished.</Box>}
            items={here.map((c) => ({
              code: c.code,
              text: isRepair(c.state) ? `repair: ${c.reason}` : c.mould ? "fresh from the mould" : "just made",
              to: `/finish/${c.code}`,
              active: c.code === at,
            }))}
          />
        </Box>
        {at ? (
          <Ticks code={at} key={at} />
        ) : (
          <Teach>
            When a copy is made it stands here until everything on its list is done: trimmed, seamed, read and photographed, as far as it needs it.
          </Teach>
        )}
      </Grid>
    </Box>
  );
}

const simple = [
  { item: "trim", text: "Trim", hint: "flash cut, nothing torn" },
  { item: "seam", text: "Seam", hint: "closed and level" },
  { item: "edge", text: "Edge", hint: "thin all round, no curl" },
] as const;

function Ticks({ code }: { code: string }) {
  const copy = useRead({ queryKey: ["copy", code], queryFn: () => ask(api.GET("/api/copies/{code}", { params: { path: { code } } })) });
  const navigate = useNavigate();
  const [lab, setLab] = useState({ l: "", a: "", b: "" });
  const file = useRef<HTMLInputElement>(null);
  const path = { params: { path: { code } } };
  const tick = useAct((item: "trim" | "seam" | "edge") => ask(api.POST("/api/copies/{code}/ticks", { ...path, body: { item } })));
  const read = useAct(async () => ask(api.POST("/api/copies/{code}/ticks", { ...path, body: { item: "colour_reading", reading: readLab(lab) } })));
  const photograph = useAct(async () => {
    const form = new FormData();
    const picture = file.current?.files?.[0];
    if (picture) form.set("file", picture);
    await upload<Schemas["FinishCopy"]>(`/api/copies/${code}/photograph`, form);
  });
  const mould = useMould(copy.data?.mould);
  useInHand(copy.data?.piece);
  if (copy.error && !copy.data) return <Refusal problem={copy.error as never} />;
  if (!copy.data) return null;
  const c = copy.data;
  const done = new Map(c.ticks.map((t) => [t.item, t]));
  // What is not on its list is not to be done to it: no seam on what had no mould.
  const here = simple.filter((s) => c.items.includes(s.item) || done.has(s.item));
  const next = here.find((s) => !done.has(s.item));
  const reading = done.get("colour_reading")?.reading;
  return (
    <Box maxW="760px">
      <Flex gap="14px" align="center" mb="8px">
        <Tag code={code} />
        <Tag code={c.piece} to={`/piece/${c.piece}`} />
        <b>{c.piece_name}</b>
        <Box color="muted">
          {stateWords(c.state)}, {madeFrom(c)}
        </Box>
      </Flex>
      {mould.data && (
        <Box mb="8px">
          <Heading aside={<Link to={`/mould?mould=${encodeURIComponent(mould.data.code)}`}>{mould.data.code}</Link>}>
            How it came out of its mould
          </Heading>
          {mould.data.marks
            .filter((k) => k.copy === code)
            .map((k) => (
              <Box key={k.id} fontSize="14.5px">
                <b>{k.kind}</b>
                {k.place && `, ${k.place}`} {k.words}{" "}
                <Box as="span" color="muted">
                  {k.who}
                </Box>
              </Box>
            ))}
          <CameOut key={code} mould={mould.data} of={code} />
          <CameAgain mould={mould.data} />
        </Box>
      )}
      {here.map((s) => (
        <TickLine key={s.item} text={s.text} hint={s.hint} tick={done.get(s.item)}>
          <Plain h="44px" data-tick={s.item} disabled={tick.busy} onClick={() => void tick.run(s.item)}>
            {done.has(s.item) ? "Again" : "Done"}
          </Plain>
        </TickLine>
      ))}
      <TickLine text="Colour reading" hint="CIELAB, daylight, on the middle" tick={done.get("colour_reading")}>
        <Flex gap="6px" align="end">
          {reading && <Box w="44px" h="40px" bg={labToHex(reading.l, reading.a, reading.b)} borderWidth="1px" borderColor="ink" />}
          <Entry label="L" name="l" value={lab.l} set={(l) => setLab({ ...lab, l })} problem={read.problem} width="64px" />
          <Entry label="a" name="a" value={lab.a} set={(a) => setLab({ ...lab, a })} problem={read.problem} width="64px" />
          <Entry label="b" name="b" value={lab.b} set={(b) => setLab({ ...lab, b })} problem={read.problem} width="64px" />
          <Plain h="40px" data-tick="colour_reading" disabled={read.busy} onClick={() => void read.run()}>
            Keep
          </Plain>
        </Flex>
      </TickLine>
      {!done.has("colour_reading") && <PassOver code={code} item="colour_reading" what="No colour reader here" />}
      <TickLine text="Photograph" hint="front, even light" tick={done.get("photograph")}>
        <Flex gap="10px" align="center">
          {done.get("photograph")?.sha256 && <Image src={`/api/files/${done.get("photograph")?.sha256}`} alt={`${code} as photographed`} h="64px" />}
          <input ref={file} type="file" accept="image/*" capture="environment" aria-label="Photograph" onChange={() => void photograph.run()} />
        </Flex>
      </TickLine>
      {!done.has("photograph") && <PassOver code={code} item="photograph" what="No camera at hand" />}
      <Box mt="14px">
        <Refusal problem={tick.problem ?? read.problem ?? photograph.problem} />
      </Box>
      <Flex mt="14px">
        {c.missing.length === 0 ? (
          <Go big act={() => navigate(`/check/${code}`)}>
            To the check
          </Go>
        ) : next ? (
          <Go act={() => void tick.run(next.item)}>{`${next.text} is done`}</Go>
        ) : (
          <Box color="muted">Still to come: {c.missing.map(words).join(", ")}.</Box>
        )}
      </Flex>
    </Box>
  );
}

/** A step whose instrument is not there is passed over with a word, and the record says so. */
function PassOver({ code, item, what }: { code: string; item: "colour_reading" | "photograph"; what: string }) {
  const [note, setNote] = useState("");
  const skip = useAct(() => ask(api.POST("/api/copies/{code}/ticks", { params: { path: { code } }, body: { item, note, skip: true } })));
  return (
    <Box as="details" ps="52px" pt="4px" fontSize="14.5px">
      <summary>{what}?</summary>
      <Flex gap="8px" align="end" mt="4px" mb="8px">
        <Entry label="Why it is passed over" name="note" value={note} set={setNote} problem={skip.problem} width="320px" />
        <Plain h="40px" disabled={skip.busy || note.trim() === ""} onClick={() => void skip.run()}>
          Pass it over
        </Plain>
      </Flex>
      <Refusal problem={skip.problem} />
    </Box>
  );
}

function TickLine({ text, hint, tick, children }: { text: string; hint: string; tick?: Schemas["FinishTick"]; children: React.ReactNode }) {
  return (
    <Flex align="center" gap="18px" py="10px" borderBottomWidth="1px" borderColor="line" minH="66px">
      <Box
        w="34px"
        h="34px"
        borderRadius="full"
        borderWidth="2px"
        borderColor="ink"
        bg={tick ? (tick.skipped ? "muted" : "yew") : "transparent"}
        color="onYew"
        textAlign="center"
        fontSize="20px"
        lineHeight="29px"
        aria-label={tick ? (tick.skipped ? "passed over" : "done") : "not yet"}
      >
        {tick ? (tick.skipped ? "–" : "✓") : ""}
      </Box>
      <Box flex="1">
        <Box fontWeight="600" fontSize="17px">
          {text}
        </Box>
        <Box layerStyle="note">{tick ? `${tick.skipped ? `passed over, ${tick.note}: ` : ""}${tick.who}, ${dayTime(tick.at)}` : hint}</Box>
      </Box>
      {children}
    </Flex>
  );
}
