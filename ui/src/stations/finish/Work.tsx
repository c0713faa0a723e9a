import { Box, Flex, Image } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useAct, useEach } from "../../app/act";
import { api, ask, type Schemas, upload } from "../../app/api";
import { useMe } from "../../app/reads";
import { Choose, Entry, Go, Heading, Pick, Plain, Refusal } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { labToHex, readLab } from "../../parts/lab";
import { PutRight } from "../../parts/PutRight";
import type { Copy } from "./bench";

type Todo = Schemas["FinishTodo"];
type Kind = Todo["kind"];

/** Kinds of work that leave something behind that is not a tick. */
const leaves = (k: Kind) => k === "colour_reading" || k === "photograph";

const kindWords: Record<Kind, string> = {
  trim: "trim",
  wash: "wash",
  seam: "seam",
  patch: "patch",
  edge: "edge",
  mend: "mend",
  seal: "seal",
  prime: "prime",
  paint: "paint",
  colour_reading: "colour reading",
  insert: "inserts",
  hair: "hair",
  closure: "closures",
  weight: "weights",
  age: "age and dirty",
  powder: "powder",
  photograph: "photograph",
  dress: "dress for packing",
  other: "other",
};

/** What is to be done to a copy, in order; ticked by finger, space does the next. */
export function Work({ copy: c }: { copy: Copy }) {
  const navigate = useNavigate();
  const me = useMe().data?.person;
  const path = { params: { path: { code: c.code } } };
  const tick = useEach((body: Schemas["FinishNewTick"]) => ask(api.POST("/api/copies/{code}/ticks", { ...path, body })));
  // Two taps on one circle are one tick; taps on several are all kept.
  const going = useRef(new Set<string>());
  const tap = async (body: Schemas["FinishNewTick"]) => {
    if (going.current.has(body.item)) return;
    going.current.add(body.item);
    await tick.run(body);
    going.current.delete(body.item);
  };
  const listed = c.work.filter((t) => !t.dropped);
  const done = listed.filter((t) => t.done).length;
  const next = listed.find((t) => !t.done && !leaves(t.kind));
  const left = listed.filter((t) => !t.done).reduce((sum, t) => sum + t.minutes, 0);
  return (
    <Box maxW="820px">
      <Heading aside={`${done} of ${listed.length} done${left > 0 ? `, about ${Math.round(left)} min of hands left` : ""}`}>To be done</Heading>
      <Box as="ol" aria-label="What is to be done, in order">
        {listed.map((t, i) => (
          <Line
            key={`${t.id} ${t.turn}`}
            n={i}
            list={listed}
            item={t}
            code={c.code}
            tick={tap}
            busy={tick.busy}
            skilled={me?.role !== "apprentice"}
          />
        ))}
      </Box>
      <Refusal problem={tick.problem} />
      <Flex mt="14px" gap="12px" wrap="wrap" align="center">
        {c.missing.length === 0 ? (
          <Go big act={() => navigate(`/check/${c.code}`)}>
            To the check
          </Go>
        ) : next ? (
          <Go disabled={tick.busy} act={() => void tap({ item: next.id })}>{`${first(next.text)} is done`}</Go>
        ) : (
          <Box color="muted">Still to come: {c.left.join("; ")}.</Box>
        )}
      </Flex>
      {me?.role !== "apprentice" && <Add copy={c} />}
      {c.work.some((t) => t.dropped) && (
        <Box mt="14px" layerStyle="small">
          Not done on this copy:{" "}
          {c.work
            .filter((t) => t.dropped)
            .map((t) => `${t.text} (${t.dropped})`)
            .join("; ")}
        </Box>
      )}
    </Box>
  );
}

const first = (text: string) => text.split(/[,;:]/)[0];

interface LineProps {
  n: number;
  list: Todo[];
  item: Todo;
  code: string;
  busy: boolean;
  skilled: boolean;
  tick: (body: Schemas["FinishNewTick"]) => Promise<unknown>;
}

function Line({ n, list, item: t, code, tick, busy, skilled }: LineProps) {
  const [open, setOpen] = useState(false);
  const d = t.done;
  return (
    <Box as="li" listStyleType="none" borderBottomWidth="1px" borderColor="line" data-item={t.id}>
      <Flex align="center" gap="14px" py="6px" minH="60px">
        <Box
          as="button"
          data-tick={t.id}
          aria-label={d ? `${t.text}: done` : `${t.text}: tick it`}
          aria-pressed={!!d}
          aria-disabled={leaves(t.kind) || !!d}
          flexShrink={0}
          w="48px"
          h="48px"
          borderRadius="full"
          borderWidth="2px"
          borderColor={leaves(t.kind) && !d ? "line" : "ink"}
          bg={d ? (d.skipped ? "muted" : "yew") : "transparent"}
          color="onYew"
          fontSize="24px"
          onClick={() => {
            if (leaves(t.kind)) setOpen(true);
            else if (!d) void tick({ item: t.id });
          }}
        >
          {d ? (d.skipped ? "–" : "✓") : ""}
        </Box>
        <Box flex="1" minW="0">
          <Box fontWeight="600" fontSize="16px" lineHeight="1.25">
            {t.text}
          </Box>
          <Box layerStyle="note" lineHeight="1.3">
            {d
              ? [`${d.skipped ? "passed over, " : ""}${d.who}, ${dayTime(d.at)}`, d.minutes && `${d.minutes} min`, d.lot && `lot ${d.lot}`, d.note]
                  .filter(Boolean)
                  .join(", ")
              : [t.why, t.minutes > 0 && `${Math.round(t.minutes)} min`, t.turn > 0 && "again, after a repair"].filter(Boolean).join(", ")}
          </Box>
        </Box>
        {d?.reading && <Box w="36px" h="36px" bg={labToHex(d.reading.l, d.reading.a, d.reading.b)} borderWidth="1px" borderColor="ink" />}
        {d?.sha256 && <Image src={`/api/files/${d.sha256}?width=480`} alt={t.text} h="48px" />}
        <Box as="button" textDecoration="underline" fontSize="14px" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "less" : "more"}
        </Box>
      </Flex>
      {(open || (leaves(t.kind) && !d)) && (
        <More n={n} list={list} item={t} code={code} tick={tick} busy={busy} skilled={skilled} close={() => setOpen(false)} wide={open} />
      )}
    </Box>
  );
}

function More({ n, list, item: t, code, tick, busy, skilled, close, wide }: LineProps & { close: () => void; wide: boolean }) {
  const [note, setNote] = useState("");
  const [minutes, setMinutes] = useState("");
  const [lot, setLot] = useState("");
  const [lab, setLab] = useState({ l: "", a: "", b: "" });
  const file = useRef<HTMLInputElement>(null);
  const path = { params: { path: { code } } };
  const about = () => ({ note, lot: lot || undefined, minutes: minutes ? Number(minutes) : undefined });
  const read = useAct(async () => tick({ item: t.id, reading: readLab(lab), ...about() }));
  const photograph = useAct(async () => {
    const form = new FormData();
    const picture = file.current?.files?.[0];
    if (picture) form.set("file", picture);
    form.set("item", t.id);
    form.set("note", note);
    await upload<Copy>(`/api/copies/${code}/photograph`, form);
  });
  const back = useAct(() => ask(api.POST("/api/copies/{code}/ticks/back", { ...path, body: { item: t.id } })));
  const change = useAct((body: Schemas["FinishChange"]) => ask(api.POST("/api/copies/{code}/work", { ...path, body })));
  return (
    <Box ps={{ base: 0, md: "62px" }} pb="12px">
      {t.kind === "colour_reading" && (
        <Flex gap="6px" align="end" wrap="wrap" mb="8px">
          <Entry label="L" name="l" value={lab.l} set={(l) => setLab({ ...lab, l })} problem={read.problem} width="70px" />
          <Entry label="a" name="a" value={lab.a} set={(a) => setLab({ ...lab, a })} problem={read.problem} width="70px" />
          <Entry label="b" name="b" value={lab.b} set={(b) => setLab({ ...lab, b })} problem={read.problem} width="70px" />
          <Plain h="40px" data-keep="colour_reading" disabled={read.busy} onClick={() => void read.run()}>
            Keep
          </Plain>
        </Flex>
      )}
      {(t.kind === "photograph" || wide) && (
        <Box mb="8px">
          <input
            ref={file}
            type="file"
            accept="image/*"
            capture="environment"
            aria-label={t.kind === "photograph" ? "Photograph" : `A picture of: ${t.text}`}
            onChange={() => void photograph.run()}
          />
        </Box>
      )}
      {leaves(t.kind) && !t.done && (
        <PassOver what={t.kind === "photograph" ? "No camera at hand" : "No colour reader here"} item={t.id} tick={tick} busy={busy} />
      )}
      {wide && (
        <>
          <Flex gap="8px" align="end" wrap="wrap">
            <Entry label="A word about it" name="note" value={note} set={setNote} width="230px" />
            <Entry label="Minutes" name="minutes" value={minutes} set={setMinutes} width="90px" />
            {t.material && <Entry label={`Lot of ${t.material}`} name="lot" value={lot} set={setLot} width="150px" />}
            {!leaves(t.kind) && (
              <Plain h="40px" disabled={busy} onClick={() => void tick({ item: t.id, ...about() })}>
                {t.done ? "Tick it again" : "Tick it so"}
              </Plain>
            )}
            {t.done && !t.done.reading && (
              <Plain h="40px" disabled={back.busy} onClick={() => void back.run()}>
                Take the tick back
              </Plain>
            )}
          </Flex>
          {skilled && !t.done && (
            <Flex gap="12px" mt="10px" align="center" wrap="wrap">
              {n > 0 && (
                <Box
                  as="button"
                  layerStyle="small"
                  textDecoration="underline"
                  onClick={() => void change.run({ act: "move", item: t.id, after: n > 1 ? list[n - 2].id : "" })}
                >
                  earlier
                </Box>
              )}
              {n < list.length - 1 && (
                <Box
                  as="button"
                  layerStyle="small"
                  textDecoration="underline"
                  onClick={() => void change.run({ act: "move", item: t.id, after: list[n + 1].id })}
                >
                  later
                </Box>
              )}
              <PutRight
                label="not on this copy"
                act="Leave it out"
                run={async (why) => {
                  await ask(api.POST("/api/copies/{code}/work", { ...path, body: { act: "drop", item: t.id, why } }));
                  close();
                }}
              />
            </Flex>
          )}
        </>
      )}
      <Refusal problem={read.problem ?? photograph.problem ?? back.problem ?? change.problem} />
    </Box>
  );
}

/** A step whose instrument is not there is passed over with a word, and the record says so. */
function PassOver({ what, item, tick, busy }: { what: string; item: string; tick: LineProps["tick"]; busy: boolean }) {
  const [note, setNote] = useState("");
  return (
    <Box as="details" fontSize="14.5px">
      <summary>{what}?</summary>
      <Flex gap="8px" align="end" mt="4px" mb="8px" wrap="wrap">
        <Entry label="Why it is passed over" name="note" value={note} set={setNote} width="280px" />
        <Plain h="40px" disabled={busy || note.trim() === ""} onClick={() => void tick({ item, note, skip: true })}>
          Pass it over
        </Plain>
      </Flex>
    </Box>
  );
}

/** One more thing to do: on this copy, or on every copy from now on. */
function Add({ copy: c }: { copy: Copy }) {
  const [text, setText] = useState("");
  const [kind, setKind] = useState<Kind>("other");
  const [where, setWhere] = useState("copy");
  const add = useAct(async () => {
    const body = { act: "add", text, kind } as const;
    if (where === "copy") await ask(api.POST("/api/copies/{code}/work", { params: { path: { code: c.code } }, body }));
    else await ask(api.POST("/api/pieces/{code}/work", { params: { path: { code: c.piece } }, body }));
    setText("");
  });
  return (
    <Box as="details" mt="18px">
      <summary>One more thing to do</summary>
      <Flex gap="8px" align="end" mt="6px" wrap="wrap">
        <Entry label="What" name="text" value={text} set={setText} problem={add.problem} width="300px" />
        <Choose label="Sort" name="kind" value={kind} set={(k) => setKind(k as Kind)} problem={add.problem} width="150px">
          {Object.entries(kindWords).map(([k, words]) => (
            <option key={k} value={k}>
              {words}
            </option>
          ))}
        </Choose>
        <Pick label="On which copies" value={where} set={setWhere} width="230px">
          <option value="copy">on {c.code} only</option>
          <option value="piece">on every new copy of {c.piece}</option>
        </Pick>
        <Plain h="40px" disabled={add.busy || text.trim() === ""} onClick={() => void add.run()}>
          Add it
        </Plain>
      </Flex>
      <Refusal problem={add.problem} />
    </Box>
  );
}
