import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useMoulds, useOutlook, usePieces } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { freshKey } from "../../parts/id";

/** Begins a session: coats, slush, foam, gelatin, wax, paste, or what was found. */
export function BeginRun({ first, begun }: { first?: string; begun: (code: string) => void }) {
  const pieces = usePieces();
  const agreed = pieces.data?.filter((p) => p.section_number > 0) ?? [];
  const [piece, setPiece] = useState("");
  const code = piece || (agreed.some((p) => p.code === first) ? (first ?? "") : (agreed[0]?.code ?? ""));
  if (agreed.length === 0) return null;
  return (
    <Box>
      <Heading>Begin a session</Heading>
      <Choose label="Piece" name="piece" value={code} set={setPiece}>
        {agreed.map((p) => (
          <option key={p.code} value={p.code}>
            {p.code}, {p.name}
          </option>
        ))}
      </Choose>
      {code && <Session key={code} piece={code} begun={begun} />}
    </Box>
  );
}

/** What nobody asked for on any day is not in the run-up: said before hands are at it. */
function NoDay({ days }: { days: number }) {
  if (days > 0) return null;
  return (
    <Box color="gorse" fontWeight="600" mb="6px">
      No shooting day to come asks for it: the run-up knows nothing of it.
    </Box>
  );
}

function Session({ piece, begun }: { piece: string; begun: (code: string) => void }) {
  const outlook = useOutlook(piece);
  const moulds = useMoulds(piece);
  const navigate = useNavigate();
  const [copies, setCopies] = useState("1");
  const [place, setPlace] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const [key] = useState(freshKey);
  const begin = useAct(async () => {
    const run = await ask(
      api.POST("/api/runs", { body: { piece, copies: chosen.length || Number(copies) || 0, moulds: chosen, place: place || undefined, key } }),
    );
    begun(run.code);
  });
  const o = outlook.data;
  if (outlook.error) return <Refusal problem={outlook.error as never} />;
  if (!o) return null;
  if (o.from_mix)
    return (
      <Box mt="8px">
        <NoDay days={o.days} />
        <Box color="muted" mb="8px">
          It is cast from a mix: weigh and pour it, and its session begins by itself.
        </Box>
        <Plain onClick={() => navigate(`/mix?piece=${piece}`)}>Mix for it</Plain>
      </Box>
    );
  const free = (moulds.data ?? []).filter((m) => ["dry", "resting", "repaired"].includes(m.state));
  const toggle = (mould: string) => setChosen((old) => (old.includes(mould) ? old.filter((m) => m !== mould) : [...old, mould]));
  return (
    <Box mt="6px">
      <NoDay days={o.days} />
      <Box layerStyle="note">
        {o.way_text}, {o.stages.length} stages by §{o.section_number}. {o.count.good} of {o.count.wanted} good, {o.count.coming + o.count.begun}{" "}
        coming.
      </Box>
      {free.length > 0 && (
        <Flex direction="column" gap="2px" my="6px">
          {free.map((m) => (
            <Checkbox.Root key={m.code} checked={chosen.includes(m.code)} onCheckedChange={() => toggle(m.code)}>
              <Checkbox.HiddenInput />
              <Checkbox.Control borderColor="ink" />
              <Checkbox.Label>in {m.code}</Checkbox.Label>
            </Checkbox.Root>
          ))}
        </Flex>
      )}
      <Grid templateColumns="0.6fr 1.4fr" gap="8px" alignItems="start">
        <Entry
          label="Copies"
          name="copies"
          value={chosen.length ? String(chosen.length) : copies}
          set={setCopies}
          problem={begin.problem}
          hint={chosen.length ? "one in each mould" : undefined}
        />
        <Entry label="Where" name="place" value={place} set={setPlace} problem={begin.problem} placeholder="bench, oven, chair" />
      </Grid>
      <Flex mt="8px">
        <Plain disabled={begin.busy} onClick={() => void begin.run()}>
          Begin it
        </Plain>
      </Flex>
      <Box mt="8px">
        <Refusal problem={begin.problem} />
      </Box>
    </Box>
  );
}
