import { Box, Flex, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useClock, usePieces } from "../../app/reads";
import { Choose, Entry, Go, Heading, Pick, Refusal, Teach } from "../../parts/controls";
import { day, isoDay, words } from "../../parts/format";
import { RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";

const states = ["wet", "drying", "dry", "in_use", "resting", "repaired", "retired"] as const;
type State = (typeof states)[number];

/** Moulds: what each is for, its core, its state, how many casts it has made. */
export default function Mould() {
  const { code } = useParams();
  const moulds = useQuery({ queryKey: ["moulds"], queryFn: () => ask(api.GET("/api/moulds", { params: { query: {} } })) });
  const pieces = usePieces();
  const set = useAct((mould: string, state: State) => ask(api.POST("/api/moulds/state", { body: { code: mould, state } })));
  if (!moulds.data || !pieces.data) return null;
  const here = pieces.data.filter((p) => p.place === "mould");
  return (
    <Box>
      <RoomHead title="Moulds" aside="only a dry one is poured" />
      <Refusal problem={set.problem} />
      <Grid templateColumns="minmax(0,1fr) 320px" gap="36px">
        <Box>
          {moulds.data.length === 0 && (
            <Teach>No mould yet. Register the first on the right: it gets its code from the piece and counts its own casts.</Teach>
          )}
          {moulds.data.map((m) => (
            <Flex key={m.code} gap="16px" py="9px" borderBottomWidth="1px" borderColor="line" align="center">
              <Tag code={m.code} to={`/piece/${m.piece}`} />
              <Box flex="1">
                {m.kind}, {m.material}
                <Box color="muted" fontSize="14px">
                  {m.piece_name}
                  {m.core && ` · core ${m.core}`}
                  {m.release_agent && ` · release ${m.release_agent}`} · made {day(m.made_on)}
                </Box>
              </Box>
              <Box w="70px">
                {m.casts} {m.casts === 1 ? "cast" : "casts"}
              </Box>
              <Pick label={`State of ${m.code}`} value={m.state} set={(state) => void set.run(m.code, state as State)} width="120px">
                {states.map((s) => (
                  <option key={s} value={s}>
                    {words(s)}
                  </option>
                ))}
              </Pick>
            </Flex>
          ))}
        </Box>
        <Box>
          <NewMould pieces={pieces.data} first={code} />
          {here.length > 0 && (
            <Box mt="22px">
              <Heading>Pieces that stand here</Heading>
              <Standing empty={null} items={here.map((p) => ({ code: p.code, text: p.name, to: `/piece/${p.code}` }))} />
            </Box>
          )}
        </Box>
      </Grid>
    </Box>
  );
}

function NewMould({ pieces, first }: { pieces: Schemas["Piece"][]; first?: string }) {
  const forms = useQuery({ queryKey: ["forms"], queryFn: () => ask(api.GET("/api/forms")) });
  const clock = useClock();
  const [piece, setPiece] = useState(first ?? pieces[0]?.code ?? "");
  const [kind, setKind] = useState("two-part block");
  const [material, setMaterial] = useState("");
  const [core, setCore] = useState("");
  const [state, setState] = useState<State>("wet");
  const [release, setRelease] = useState("");
  const today = clock.data ? isoDay(new Date(clock.data.now)) : "";
  const add = useAct(async () => {
    await ask(
      api.POST("/api/pieces/{code}/moulds", {
        params: { path: { code: piece } },
        body: { kind, material, core, state, release_agent: release, made_on: today },
      }),
    );
    setMaterial("");
  });
  return (
    <Flex direction="column" gap="9px">
      <Heading>Register a mould</Heading>
      <Choose label="Of" name="piece" value={piece} set={setPiece}>
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
        suggestions={["flat plate", "two-part block", "glove mould in a jacket", "jacket with liner", "injection with core", "slush mould"]}
      />
      <Entry label="Made of" name="material" value={material} set={setMaterial} problem={add.problem} placeholder="hard stone" />
      <Choose label="Core" name="core" value={core} set={setCore} problem={add.problem}>
        <option value="">none</option>
        {forms.data?.map((f) => (
          <option key={f.code} value={f.code}>
            {f.code} {f.performer ?? "general"}
          </option>
        ))}
      </Choose>
      <Entry label="Release" name="release_agent" value={release} set={setRelease} problem={add.problem} placeholder="wax paste" />
      <Choose label="It is" name="state" value={state} set={(s) => setState(s as State)} problem={add.problem}>
        {states.map((s) => (
          <option key={s} value={s}>
            {words(s)}
          </option>
        ))}
      </Choose>
      <Flex>
        <Go act={() => void add.run()} disabled={add.busy}>
          Register it
        </Go>
      </Flex>
      <Refusal problem={add.problem} fields={["kind", "material", "core", "state", "release_agent"]} />
    </Flex>
  );
}
