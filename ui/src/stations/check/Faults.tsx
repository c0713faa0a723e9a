import { Box, Flex, Grid } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMe } from "../../app/reads";
import { Choose, Entry, Go, Heading, Narrow, Plain, Refusal, Teach } from "../../parts/controls";
import { dayTime, words } from "../../parts/format";
import { columns } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { type Copy, useBeside, useFaults } from "./bench";
import { Laid } from "./Laid";

type Traced = Schemas["CheckTraced"];
type Kind = Schemas["CheckKind"];

/** What is wrong with a copy, why, what is done about it, and what is changed next time. */
export function Faults({ copy: c }: { copy: Copy }) {
  const faults = useFaults(c.code);
  const [at, setAt] = useState<number>();
  const [seeing, setSeeing] = useState(false);
  if (!faults.data) return null;
  const chosen = at ?? faults.data.find((f) => !f.settled)?.id ?? faults.data.at(-1)?.id;
  return (
    <Box>
      <Flex gap="8px" wrap="wrap" mb="10px" align="center">
        {faults.data.map((f, i) => (
          <Plain
            key={f.id}
            h="36px"
            aria-pressed={f.id === chosen}
            bg={f.id === chosen && !seeing ? "heatherSoft" : undefined}
            onClick={() => [setAt(f.id), setSeeing(false)]}
          >
            {i + 1} {f.name}
            {f.settled ? "" : ", open"}
          </Plain>
        ))}
        <Plain h="36px" aria-pressed={seeing} bg={seeing ? "heatherSoft" : undefined} onClick={() => setSeeing(!seeing)}>
          Something else is wrong
        </Plain>
      </Flex>
      {seeing || faults.data.length === 0 ? (
        <See
          copy={c}
          done={(id) => {
            setAt(id);
            setSeeing(false);
          }}
        />
      ) : (
        chosen !== undefined && <Trace key={chosen} id={chosen} n={faults.data.findIndex((f) => f.id === chosen) + 1} code={c.code} />
      )}
    </Box>
  );
}

/** Says what is seen and where. */
function See({ copy: c, done }: { copy: Copy; done: (id: number) => void }) {
  const kinds = useRead({
    queryKey: ["fault kinds", c.code],
    queryFn: () => ask(api.GET("/api/copies/{code}/fault-kinds", { params: { path: { code: c.code } } })),
  });
  const beside = useBeside(c.code);
  const shot = beside.data?.shots.find((s) => s.of === "copy");
  const [find, setFind] = useState("");
  const [kind, setKind] = useState<Kind>();
  const [place, setPlace] = useState("");
  const [note, setNote] = useState("");
  const [spot, setSpot] = useState<[number, number]>();
  const key = useRef(crypto.randomUUID());
  const see = useAct(async () => {
    if (!kind) return;
    const body = { fault: kind.id, place, words: note, key: key.current, ...(shot && spot ? { sha256: shot.sha256, x: spot[0], y: spot[1] } : {}) };
    const t = await ask(api.POST("/api/copies/{code}/faults", { params: { path: { code: c.code } }, body }));
    key.current = crypto.randomUUID();
    done(t.id);
  });
  const list = (kinds.data ?? []).filter((k) => `${k.name} ${k.room}`.toLowerCase().includes(find.toLowerCase()));
  const rooms = [...new Set(list.map((k) => k.room))];
  return (
    <Grid templateColumns={columns("minmax(0,1fr) minmax(0,1fr)")} gap="28px">
      <Box>
        <Heading aside={<Narrow what="faults" value={find} set={setFind} width="150px" />}>What is seen</Heading>
        {rooms.map((r) => (
          <Box key={r} mb="8px">
            <Box layerStyle="small">shows in {r}</Box>
            <Flex gap="5px" wrap="wrap">
              {list
                .filter((k) => k.room === r)
                .map((k) => (
                  <Plain
                    key={k.id}
                    h="34px"
                    px="11px"
                    fontSize="14.5px"
                    aria-pressed={k === kind}
                    bg={k === kind ? "heatherSoft" : undefined}
                    onClick={() => setKind(k)}
                  >
                    {k.name}
                  </Plain>
                ))}
            </Flex>
          </Box>
        ))}
      </Box>
      <Box>
        <Heading>Where</Heading>
        {shot && (
          <Laid
            copy={shot}
            how="slider"
            at={1}
            lights={{}}
            faults={spot ? [{ n: 1, x: spot[0], y: spot[1], chosen: true }] : []}
            point={(x, y) => setSpot([x, y])}
            title={`${c.code}: tap where it is`}
          />
        )}
        <Flex gap="8px" align="end" mt="8px" wrap="wrap">
          <Entry label="In words" name="place" value={place} set={setPlace} problem={see.problem} width="200px" placeholder="by the jaw corner" />
          <Entry label="What it looks like" name="words" value={note} set={setNote} problem={see.problem} width="240px" />
        </Flex>
        <Flex mt="12px">
          <Go disabled={!kind || see.busy} act={() => void see.run()}>
            {kind ? `Trace “${kind.name}”` : "Choose what is seen"}
          </Go>
        </Flex>
        <Refusal problem={see.problem} />
      </Box>
    </Grid>
  );
}

function Trace({ id, n, code }: { id: number; n: number; code: string }) {
  const params = { params: { path: { id } } };
  const trace = useRead({ queryKey: ["fault", id], queryFn: () => ask(api.GET("/api/faults/{id}", params)) });
  const beside = useBeside(code);
  const me = useMe().data?.person;
  const say = useAct((cause: string, version: number) => ask(api.POST("/api/faults/{id}/cause", { ...params, body: { cause, version } })));
  if (trace.error && !trace.data) return <Refusal problem={trace.error as unknown as Problem} />;
  const t = trace.data;
  if (!t) return null;
  const shot = beside.data?.shots.find((s) => s.sha256 === t.sha256) ?? beside.data?.shots.find((s) => s.of === "copy");
  const skilled = me?.role !== "apprentice";
  const known = new Map(t.known.map((k) => [k.evidence, k]));
  return (
    <Box>
      <Flex gap="12px" align="baseline" wrap="wrap" mb="8px">
        <Box as="h2" fontSize="20px" fontWeight="700">
          {t.name.charAt(0).toUpperCase() + t.name.slice(1)}
          {t.place && ` ${t.place}`}
        </Box>
        <Box color="muted">
          seen by {t.who}, {dayTime(t.at)} {t.words}
        </Box>
      </Flex>
      {t.caution && (
        <Box fontWeight="700" color="rust" role="alert" mb="8px">
          {t.caution}
        </Box>
      )}
      <Grid templateColumns={columns("minmax(0,5fr) minmax(0,6fr)")} gap="30px">
        <Box minW="0">
          {shot && (
            <Laid
              copy={shot}
              how="slider"
              at={1}
              lights={{}}
              faults={t.x !== undefined && t.y !== undefined ? [{ n, x: t.x, y: t.y, chosen: true }] : []}
              title={`Where ${t.name} was seen on ${code}`}
            />
          )}
          {t.cause && <Remedy t={t} />}
          {t.cause && skilled && <Propose t={t} />}
          <Sharers t={t} />
        </Box>
        <Box minW="0">
          <Heading aside={t.decided ? "one stands clear" : "not decided yet"}>Why, from its own record</Heading>
          {t.causes
            .filter((c, i) => i < 5 || c.p > 0.05 || c.id === t.cause)
            .map((c) => (
              <Cause key={c.id} c={c} known={known} said={t.cause === c.id} say={skilled ? () => void say.run(c.id, t.version) : undefined} />
            ))}
          <Refusal problem={say.problem} />
          <Looks t={t} />
          <Answered t={t} />
          <Box layerStyle="note" mt="8px">
            Shares and ratios are our estimates, within a factor of two; what this shop says it was counts next time.
          </Box>
        </Box>
      </Grid>
    </Box>
  );
}

type Known = Map<string, Schemas["CheckKnown"]>;

function Cause({ c, known, said, say }: { c: Schemas["CheckCause"]; known: Known; said: boolean; say?: () => void }) {
  const told = (list: Schemas["CraftFaultWeight"][]) =>
    list.slice(0, 4).map((w, i) => {
      const k = known.get(w.evidence);
      const text = k ? (k.source === "answered" ? `${k.words} ${words(k.state)}` : k.words) : words(w.evidence);
      return (
        <span key={w.evidence}>
          {i > 0 && "; "}
          {k?.link ? (
            <Link to={k.link} style={{ textDecoration: "underline" }}>
              {text}
            </Link>
          ) : (
            text
          )}
        </span>
      );
    });
  return (
    <Flex gap="12px" py="7px" borderBottomWidth="1px" borderColor="line" bg={said ? "yewSoft" : undefined} px="6px" data-cause={c.id}>
      <Box w="64px" textAlign="right" flexShrink={0} fontSize={c.p > 0.5 ? "24px" : "18px"} fontWeight="700" lineHeight="1.1">
        {Math.round(100 * c.p)}
        <Box as="span" fontSize="13px" fontWeight="400" color="muted">
          {" "}
          %
        </Box>
      </Box>
      <Box flex="1" minW="0">
        <Flex gap="10px" align="baseline" wrap="wrap">
          <Box fontWeight="700" fontSize="16px">
            {c.name}
          </Box>
          {c.times > 0 && <Box layerStyle="small">it was this {c.times} times here</Box>}
          {said ? (
            <Box fontWeight="600">it was this</Box>
          ) : (
            say && (
              <Box as="button" textDecoration="underline" fontSize="14px" onClick={say}>
                it was this
              </Box>
            )
          )}
        </Flex>
        <Box fontSize="14px" lineHeight="1.35">
          {c.for.length > 0 && (
            <>
              <Box as="span" color="yew">
                speaks for it:
              </Box>{" "}
              {told(c.for)}{" "}
            </>
          )}
          {c.against.length > 0 && (
            <>
              <Box as="span" color="rust">
                against:
              </Box>{" "}
              {told(c.against)}
            </>
          )}
        </Box>
      </Box>
    </Flex>
  );
}

/** The looks that would tell most, and their answers. */
function Looks({ t }: { t: Traced }) {
  const answer = useAct((body: Schemas["CheckAnswer"]) => ask(api.POST("/api/faults/{id}/answers", { params: { path: { id: t.id } }, body })));
  const [number, setNumber] = useState("");
  if (t.looks.length === 0) return null;
  return (
    <Box bg="heatherSoft" borderWidth="1.5px" borderColor="ink" borderRadius="3px 16px 3px 16px" p="12px" mt="12px">
      {t.looks.map((l, i) => (
        <Box key={l.evidence} mb={i === t.looks.length - 1 ? 0 : "10px"}>
          <Box>
            <b>{i === 0 ? "One look would tell most: " : "Then: "}</b>
            {l.ask} {l.minutes} min.
          </Box>
          <Flex gap="6px" wrap="wrap" mt="4px" align="end">
            {l.states.map((s) => (
              <Plain
                key={s}
                h="34px"
                px="12px"
                disabled={answer.busy}
                onClick={() => void answer.run({ evidence: l.evidence, state: s, version: t.version })}
              >
                {words(s)}
              </Plain>
            ))}
            {l.kind === "number" && i === 0 && (
              <>
                <Entry label={l.unit || "or the figure"} name="number" value={number} set={setNumber} problem={answer.problem} width="130px" />
                <Plain
                  h="36px"
                  disabled={answer.busy || !number}
                  onClick={() => void answer.run({ evidence: l.evidence, number: Number(number.replace(",", ".")), version: t.version })}
                >
                  It is that
                </Plain>
              </>
            )}
          </Flex>
        </Box>
      ))}
      <Refusal problem={answer.problem} />
    </Box>
  );
}

/** What people answered; each can be taken back. */
function Answered({ t }: { t: Traced }) {
  const back = useAct((evidence: string) =>
    ask(api.POST("/api/faults/{id}/answers", { params: { path: { id: t.id } }, body: { evidence, version: t.version } })),
  );
  const list = t.known.filter((k) => k.source === "answered");
  if (list.length === 0) return null;
  return (
    <Box mt="8px" fontSize="14.5px">
      {list.map((k) => (
        <Flex key={k.evidence} gap="8px">
          <Box>
            {k.words} <b>{words(k.state)}</b>
          </Box>
          <Box as="button" textDecoration="underline" onClick={() => void back.run(k.evidence)}>
            not so
          </Box>
        </Flex>
      ))}
      <Refusal problem={back.problem} />
    </Box>
  );
}

const remedies: [NonNullable<Schemas["CheckRemedied"]["remedy"]>, string][] = [
  ["repair", "Repair it"],
  ["reuse", "Use it for less"],
  ["leave", "Leave it"],
  ["scrap", "Scrap it"],
];

function Remedy({ t }: { t: Traced }) {
  const [text, setText] = useState(t.remedy_words ?? "");
  const [minutes, setMinutes] = useState(t.minutes !== undefined ? String(t.minutes) : "");
  const keep = useAct((remedy: Schemas["CheckRemedied"]["remedy"], mended?: boolean) =>
    ask(
      api.POST("/api/faults/{id}/remedy", {
        params: { path: { id: t.id } },
        body: { remedy, words: text, minutes: minutes ? Number(minutes) : undefined, mended, version: t.version },
      }),
    ),
  );
  return (
    <Box mt="14px">
      <Heading aside={t.remedy ? (t.mended_at ? `mended ${dayTime(t.mended_at)}` : words(t.remedy)) : "not decided"}>Now</Heading>
      <Box fontSize="15px">
        <b>Mend:</b> {t.mend.repair}. <b>Use for less:</b> {t.mend.reuse}. <b>Scrap:</b> {t.mend.scrap}.
      </Box>
      <Flex gap="8px" align="end" wrap="wrap" mt="6px">
        <Entry label="What is done" name="words" value={text} set={setText} problem={keep.problem} width="260px" />
        <Entry label="minutes" name="minutes" value={minutes} set={setMinutes} width="80px" />
      </Flex>
      <Flex gap="8px" mt="8px" wrap="wrap">
        {remedies.map(([r, label]) => (
          <Plain
            key={r}
            h="38px"
            aria-pressed={t.remedy === r}
            bg={t.remedy === r ? "heatherSoft" : undefined}
            disabled={keep.busy}
            onClick={() => void keep.run(r)}
          >
            {label}
          </Plain>
        ))}
        {t.remedy === "repair" && !t.mended_at && (
          <Plain h="38px" disabled={keep.busy} onClick={() => void keep.run("repair", true)}>
            It is mended
          </Plain>
        )}
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}

/** Where the tables say that a cause is changed, as a proposal goes there. */
const goes: Record<string, Schemas["CheckNewProposal"]["goes_to"]> = {
  mix: "recipe",
  formula: "recipe",
  section: "section",
  sculpt: "section",
  mould: "mould",
  plan: "plan",
  stores: "stores",
  hand: "hand",
  check: "hand",
};
const toWords: Record<string, string> = {
  recipe: "the recipe",
  section: "the section",
  mould: "the mould",
  plan: "the plan",
  stores: "the stores",
  hand: "whoever does it",
};

function Propose({ t }: { t: Traced }) {
  const cause = t.causes.find((c) => c.id === t.cause);
  const [to, setTo] = useState<Schemas["CheckNewProposal"]["goes_to"]>(goes[cause?.change_in ?? ""] ?? "section");
  const [text, setText] = useState(cause?.prevent ?? "");
  const propose = useAct(() =>
    ask(api.POST("/api/faults/{id}/proposals", { params: { path: { id: t.id } }, body: { goes_to: to, text, version: t.version } })),
  );
  return (
    <Box mt="16px">
      <Heading>Next time</Heading>
      <Flex gap="8px" align="end" wrap="wrap">
        <Entry label="To be changed" name="text" value={text} set={setText} problem={propose.problem} width="320px" />
        <Choose label="in" name="goes_to" value={to} set={(v) => setTo(v as typeof to)} problem={propose.problem} width="150px">
          {Object.entries(toWords).map(([k, w]) => (
            <option key={k} value={k}>
              {w}
            </option>
          ))}
        </Choose>
        <Plain h="40px" disabled={propose.busy || text.trim().length < 3} onClick={() => void propose.run()}>
          Propose it
        </Plain>
      </Flex>
      {t.proposals.map((p) => (
        <Box key={p.id} fontSize="14.5px" py="2px">
          To {toWords[p.goes_to]} {p.code}: {p.text} <b>{p.state}</b>
          {p.settled_by && ` by ${p.settled_by}`} {p.reason}
        </Box>
      ))}
      <Refusal problem={propose.problem} />
    </Box>
  );
}

function Sharers({ t }: { t: Traced }) {
  return (
    <Box mt="16px">
      <Heading>Who shares it</Heading>
      {t.sharers.length === 0 && <Teach>No other copy has the same pour, mix, mould or lot behind it.</Teach>}
      {t.sharers.map((s) => (
        <Flex key={s.code} gap="10px" align="center" py="3px">
          <Tag code={s.code} to={`/check/${s.code}`} />
          <Box>
            {s.why}; {s.where}
          </Box>
        </Flex>
      ))}
    </Box>
  );
}
