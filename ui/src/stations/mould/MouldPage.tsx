import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas, upload } from "../../app/api";
import { useMould } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Choose, Entry, Figure, Go, Heading, Pick, Plain, Refusal, Teach } from "../../parts/controls";
import { day, dayTime, words } from "../../parts/format";
import { Leaves } from "../../parts/Leaves";
import { RoomHead } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { CameAgain, CameOut } from "../../piece/CameOut";
import { Proposals } from "../../piece/Proposals";
import { DryingPlot, OvenAnswer, WeighIn } from "./Drying";
import { Life, type State, states, tone } from "./Moulds";

type Detail = Schemas["MouldDetail"];

const leaves = ["Weigh", "Casts", "About it", "Pictures"] as const;

/** One mould: is it dry, what came out of it, where it stands, how long it lasts. */
export function MouldPage({ code }: { code: string }) {
  const mould = useMould(code);
  const [leaf, setLeaf] = useState<(typeof leaves)[number]>();
  useInHand(mould.data?.piece);
  if (mould.isError) return <Teach>There is no mould {code}.</Teach>;
  const m = mould.data;
  if (!m) return null;
  const list = leaves.filter((l) => l !== "Weigh" || m.dries);
  // One that is in use without ever having been weighed is asked for its casts.
  const weighs = ["wet", "drying"].includes(m.state) || m.drying.weighings.length > 0;
  const at = leaf ?? (weighs ? list[0] : "Casts");
  return (
    <Box>
      <RoomHead
        code={m.code}
        to={`/mould/${m.piece}`}
        title={m.piece_name}
        acts={
          <a
            href={`/api/moulds/label.pdf?code=${encodeURIComponent(m.code)}`}
            target="_blank"
            rel="noreferrer"
            style={{ textDecoration: "underline" }}
          >
            Print its tag
          </a>
        }
        aside={
          <>
            {m.kind}, {m.material}
            {m.core && (
              <>
                , over{" "}
                <Link to={`/form/${m.core}`} style={{ textDecoration: "underline" }}>
                  {m.core}
                </Link>
              </>
            )}{" "}
            ·{" "}
            <Box as="b" color={tone[m.state]}>
              {words(m.state)}
            </Box>
          </>
        }
      />
      <Grid templateColumns={{ base: "1fr", lg: "574px minmax(0,1fr)" }} gap="26px">
        <Flex direction="column" gap="12px">
          {m.dries && (weighs || at === "Weigh") ? (
            <>
              <DryingPlot d={m.drying} />
              <Box>{m.drying.says}</Box>
            </>
          ) : (
            <Box borderWidth="1.5px" borderColor="ink" bg="sheet" p="16px 18px">
              <Life casts={m.casts} life={m.life} />
              <Box mt="8px">{m.drying.says}</Box>
            </Box>
          )}
          <OvenAnswer m={m} />
          {m.findings.map((f) => (
            <Flex key={f.id} gap="10px" borderTopWidth="1.5px" borderColor="ink" pt="7px">
              <Box w="58px" fontWeight="600" color={f.severity === "stop" ? "rust" : "gorse"}>
                {f.id}
              </Box>
              <Box flex="1" lineHeight="1.35">
                {f.reason} <Box color="muted">{f.remedy}</Box>
              </Box>
            </Flex>
          ))}
        </Flex>
        <Box minW="0">
          <Leaves of={m.code} list={list} leaf={at} choose={setLeaf} />
          <Box mt="12px">
            {at === "Weigh" && <WeighIn key={m.drying.weighings.length} m={m} />}
            {at === "Casts" && <Casts m={m} />}
            {at === "About it" && <About key={m.version} m={m} />}
            {at === "Pictures" && <Pictures m={m} />}
          </Box>
        </Box>
      </Grid>
    </Box>
  );
}

/** What came out of the mould, and what comes again at the same place. */
function Casts({ m }: { m: Detail }) {
  return (
    <Flex direction="column" gap="14px">
      <Proposals to="mould" code={m.code} />
      <CameAgain mould={m} />
      <Box>
        <Heading>When it came out</Heading>
        <CameOut mould={m} />
      </Box>
      <Box>
        <Heading aside={`${m.casts} made`}>Its casts</Heading>
        {m.made.length === 0 && <Box color="muted">None yet.</Box>}
        {m.made.slice(0, 10).map((c) => (
          <Flex key={c.code} gap="10px" py="2px" fontSize="14.5px">
            <Box w="84px" fontWeight="600">
              {c.code}
            </Box>
            <Box w="76px">{c.run}</Box>
            <Box flex="1">{words(c.state)}</Box>
            <Box color="muted">{day(c.made_at)}</Box>
          </Flex>
        ))}
        {m.marks.slice(0, 8).map((k) => (
          <Flex key={k.id} gap="10px" py="2px" fontSize="14px" color="muted">
            <Box w="84px">{k.copy ?? "mould"}</Box>
            <Box flex="1">
              {k.kind}
              {k.place && `, ${k.place}`} {k.words}
            </Box>
            <Box>
              {k.who}, {dayTime(k.at)}
            </Box>
          </Flex>
        ))}
      </Box>
    </Flex>
  );
}

/** Where it stands, what parts it, how long it lasts. */
function About({ m }: { m: Detail }) {
  const [state, setState] = useState<State>(m.state);
  const [release, setRelease] = useState(m.release_agent);
  const [separator, setSeparator] = useState(m.separator);
  const [place, setPlace] = useState(m.place);
  const [life, setLife] = useState(m.life === undefined ? "" : String(m.life));
  const [dry, setDry] = useState(m.dry_kg === undefined ? "" : String(m.dry_kg));
  const [note, setNote] = useState(m.note);
  const keep = useAct(() =>
    ask(
      api.PUT("/api/moulds/one", {
        body: {
          code: m.code,
          state,
          release_agent: release,
          separator,
          place,
          note,
          life: life ? Number(life) : undefined,
          dry_kg: dry ? Number(dry) : undefined,
          version: m.version,
        },
      }),
    ),
  );
  return (
    <Flex direction="column" gap="10px">
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Choose label="It is" name="state" value={state} set={(s) => setState(s as State)} problem={keep.problem}>
          {states.map((s) => (
            <option key={s} value={s}>
              {words(s)}
            </option>
          ))}
        </Choose>
        <Entry label="Stands" name="place" value={place} set={setPlace} problem={keep.problem} />
        <Entry label="Release" name="release_agent" value={release} set={setRelease} problem={keep.problem} />
        <Entry label="Separator" name="separator" value={separator} set={setSeparator} problem={keep.problem} />
        <Entry label="Stands about so many casts" name="life" value={life} set={setLife} problem={keep.problem} />
        {m.dries && <Entry label="Dry by its mix, kg" name="dry_kg" value={dry} set={setDry} problem={keep.problem} hint="makes the date sharper" />}
      </Grid>
      <Entry label="Note" name="note" value={note} set={setNote} problem={keep.problem} />
      <Flex>
        <Go act={() => void keep.run()} disabled={keep.busy}>
          Write it down
        </Go>
      </Flex>
      <Refusal problem={keep.problem} />
      <Box>
        <Figure label="Core">{m.core ? <Tag code={m.core} to={`/form/${m.core}`} /> : "none"}</Figure>
        <Figure label="Parts">{m.parts}</Figure>
        <Figure label="Made">{day(m.made_on)}</Figure>
      </Box>
    </Flex>
  );
}

function Pictures({ m }: { m: Detail }) {
  const [file, setFile] = useState<File>();
  const [caption, setCaption] = useState("");
  const [at, setAt] = useState<number>();
  const add = useAct(() => {
    const form = new FormData();
    if (file) form.set("file", file);
    form.set("code", m.code);
    form.set("caption", caption);
    return upload<Detail>("/api/moulds/photographs", form);
  });
  const shown = m.photos.find((p) => p.id === at) ?? m.photos[0];
  return (
    <Flex direction="column" gap="10px">
      <Heading>Photographs of it</Heading>
      <Flex gap="8px" wrap="wrap" align="end">
        <input type="file" accept="image/*" aria-label="Photograph" onChange={(e) => setFile(e.target.files?.[0])} style={{ maxWidth: 210 }} />
        <Entry label="What it shows" name="caption" value={caption} set={setCaption} problem={add.problem} width="180px" />
        <Plain disabled={!file || add.busy} onClick={() => void add.run().then((ok) => ok && setCaption(""))}>
          Keep it
        </Plain>
      </Flex>
      <Refusal problem={add.problem} />
      {m.photos.length > 1 && (
        <Pick label="Which photograph" value={String(shown?.id)} set={(x) => setAt(Number(x))} width="260px">
          {m.photos.map((p) => (
            <option key={p.id} value={String(p.id)}>
              {p.caption}
            </option>
          ))}
        </Pick>
      )}
      {shown ? (
        <Box>
          <img src={`/api/files/${shown.sha256}?width=480`} alt={shown.caption} style={{ maxWidth: "100%", border: "1.5px solid" }} />
          <Box layerStyle="note">
            {shown.caption} · {shown.who}, {dayTime(shown.added_at)}
          </Box>
        </Box>
      ) : (
        <Box color="muted">None yet: the cavity, a chip, how the keys sit.</Box>
      )}
    </Flex>
  );
}
