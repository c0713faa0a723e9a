import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useClock, useForms, usePieces } from "../../app/reads";
import { Choose, Entry, Heading, Pick, Plain, Refusal, Teach } from "../../parts/controls";
import { day, isoDay, words } from "../../parts/format";
import { RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";

export const states = ["wet", "drying", "dry", "hot", "in_use", "resting", "repaired", "retired"] as const;
export type State = (typeof states)[number];
type MouldRow = Schemas["Mould"];

export const to = (code: string) => `/mould?mould=${encodeURIComponent(code)}`;

/** How a mould's state is coloured: what holds back, what goes, what is over. */
export const tone: Record<State, string> = {
  wet: "gorse",
  drying: "gorse",
  dry: "yew",
  hot: "rust",
  in_use: "heather",
  resting: "yew",
  repaired: "ink",
  retired: "muted",
};

/** Every mould of the pieces in work, by how it stands. */
export function Moulds() {
  const moulds = useRead({ queryKey: ["moulds"], queryFn: () => ask(api.GET("/api/moulds", { params: { query: {} } })) });
  const pieces = usePieces();
  const [adding, setAdding] = useState(false);
  const set = useAct((mould: string, state: State) => ask(api.POST("/api/moulds/state", { body: { code: mould, state } })));
  if (!moulds.data || !pieces.data) return null;
  const here = pieces.data.filter((p) => p.place === "mould");
  const groups = states.map((s) => [s, moulds.data.filter((m) => m.state === s)] as const).filter(([, list]) => list.length > 0);
  return (
    <Box>
      <RoomHead title="Moulds" aside="built by a sheet, weighed dry, counted by their casts" />
      <Refusal problem={set.problem} />
      <Grid templateColumns={{ base: "1fr", lg: "minmax(0,1fr) 320px" }} gap="36px">
        <Box>
          {moulds.data.length === 0 && (
            <Teach>
              No mould yet. Lay out the build sheet of a piece, or register one that is there: it gets its code from the piece and counts its own
              casts.
            </Teach>
          )}
          {groups.map(([s, list]) => (
            <Flex key={s} borderTopWidth="1.5px" borderColor="ink">
              <Box as="h2" w="82px" pt="11px" fontWeight="700" fontSize="15px" color={tone[s]} flexShrink="0">
                {words(s)}
              </Box>
              <Box flex="1" minW="0">
                {list.map((m) => (
                  <Row key={m.code} m={m} set={(state) => void set.run(m.code, state)} />
                ))}
              </Box>
            </Flex>
          ))}
        </Box>
        <Flex direction="column" gap="22px">
          <Box>
            <Heading>Pieces that stand here</Heading>
            <Standing
              empty={<Box color="muted">None just now.</Box>}
              items={here.map((p) => ({ code: p.code, text: p.name, to: `/mould/${p.code}`, note: "lay out its build sheet" }))}
            />
          </Box>
          {adding ? (
            <NewMould pieces={pieces.data} />
          ) : (
            <Flex>
              <Plain onClick={() => setAdding(true)}>Register one that is there</Plain>
            </Flex>
          )}
        </Flex>
      </Grid>
    </Box>
  );
}

function Row({ m, set }: { m: MouldRow; set: (s: State) => void }) {
  return (
    <Flex gap="14px" py="5px" borderBottomWidth="1px" borderColor="line" align="center">
      <Tag code={m.code} to={to(m.code)} />
      <Box flex="1" minW="0">
        <Box truncate>
          {m.kind}, {m.material}
        </Box>
        <Box layerStyle="small" truncate>
          {m.piece_name}
          {m.core && ` · core ${m.core}`}
          {m.place && ` · ${m.place}`}
          {m.last_kg !== undefined && ` · ${m.last_kg.toFixed(3)} kg`}
        </Box>
      </Box>
      <Life casts={m.casts} life={m.life} />
      <Pick label={`State of ${m.code}`} value={m.state} set={(state) => set(state as State)} width="112px">
        {states.map((s) => (
          <option key={s} value={s}>
            {words(s)}
          </option>
        ))}
      </Pick>
    </Flex>
  );
}

/** How many casts of a mould's life are made, as notches on a tally. */
export function Life({ casts, life }: { casts: number; life?: number }) {
  const share = life ? Math.min(1, casts / life) : 0;
  return (
    <Box w="104px" fontSize="13.5px" title={life ? `${casts} of about ${life} casts` : "its life is not said"}>
      {casts} {casts === 1 ? "cast" : "casts"}
      {life ? ` of ${life}` : ""}
      {!!life && (
        <Box h="6px" borderWidth="1px" borderColor="ink" borderRadius="1px 4px 4px 1px" overflow="hidden">
          <Box h="100%" bg={share > 0.85 ? "gorseDot" : "yew"} style={{ width: `${100 * share}%` }} />
        </Box>
      )}
    </Box>
  );
}

function NewMould({ pieces }: { pieces: Schemas["Piece"][] }) {
  const forms = useForms();
  const clock = useClock();
  const [piece, setPiece] = useState(pieces[0]?.code ?? "");
  const [kind, setKind] = useState("block");
  const [material, setMaterial] = useState("hard stone");
  const [core, setCore] = useState("");
  const [state, setState] = useState<State>("wet");
  const [release, setRelease] = useState("");
  const [place, setPlace] = useState("");
  const today = clock.data ? isoDay(new Date(clock.data.now)) : "";
  const add = useAct(() =>
    ask(
      api.POST("/api/pieces/{code}/moulds", {
        params: { path: { code: piece } },
        body: { kind, material, core, state, release_agent: release, place, made_on: today },
      }),
    ),
  );
  return (
    <Flex direction="column" gap="8px">
      <Heading>Register one that is there</Heading>
      <Choose label="Of" name="piece" value={piece} set={setPiece} problem={add.problem}>
        {pieces.map((p) => (
          <option key={p.code} value={p.code}>
            {p.code} {p.name}
          </option>
        ))}
      </Choose>
      <Entry
        label="Kind"
        name="kind"
        value={kind}
        set={setKind}
        problem={add.problem}
        suggestions={["flat plate", "block", "glove in a jacket", "jacket with liner", "injection with core", "slush mould"]}
      />
      <Entry
        label="Made of"
        name="material"
        value={material}
        set={setMaterial}
        problem={add.problem}
        suggestions={["casting plaster", "hard stone", "mould silicone, condensation", "mould silicone, addition", "glass laminate"]}
      />
      <Choose label="Core" name="core" value={core} set={setCore} problem={add.problem}>
        <option value="">none</option>
        {forms.data?.map((f) => (
          <option key={f.code} value={f.code}>
            {f.code} {f.performer ?? "general"}
          </option>
        ))}
      </Choose>
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Entry label="Release" name="release_agent" value={release} set={setRelease} problem={add.problem} placeholder="wax paste" />
        <Entry label="Stands" name="place" value={place} set={setPlace} problem={add.problem} placeholder="rack 2" />
      </Grid>
      <Choose label="It is" name="state" value={state} set={(s) => setState(s as State)} problem={add.problem}>
        {states.map((s) => (
          <option key={s} value={s}>
            {words(s)}
          </option>
        ))}
      </Choose>
      <Flex>
        <Plain onClick={() => void add.run()} disabled={add.busy}>
          Register it
        </Plain>
      </Flex>
      <Refusal problem={add.problem} />
      {add.problem === undefined && pieces.length > 0 && (
        <Box layerStyle="small">
          A new one is better begun from its build sheet: <Link to={`/mould/${piece}`}>lay it out for {piece}</Link>. Made {today && day(today)}.
        </Box>
      )}
    </Flex>
  );
}
