import { Box, Flex, Grid, Input } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useKey } from "../../app/keys";
import { useCopies, usePieces, usePots } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Choose, Entry, Figure, Go, Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { dayTime, words } from "../../parts/format";
import { PotGlass } from "../../parts/Pot";
import { RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";

/** What is coming into being: the pots close up, the copies, latex coats. */
export default function Build() {
  const shelf = usePots();
  const copies = useCopies();
  const [query, setQuery] = useSearchParams();
  if (!shelf.data || !copies.data) return null;
  const pots = shelf.data.pots;
  const pot = pots.find((p) => String(p.id) === query.get("pot")) ?? pots.find((p) => p.state === "ready") ?? pots[0];
  const step = (by: number) => pot && setQuery({ pot: String(pots[(pots.indexOf(pot) + by + pots.length) % pots.length].id) });
  return (
    <Box>
      <RoomHead title="Build" aside={pots.length === 1 ? "one pot on the shelf" : `${pots.length} pots on the shelf`} />
      <Grid templateColumns="minmax(0,1fr) 350px" gap="36px">
        {pot ? (
          <PotClose pot={pot} step={step} key={pot.id} />
        ) : (
          <Teach>Nothing is curing. Pour a mix and its pots stand here, filled by the room's own warmth.</Teach>
        )}
        <Flex direction="column" gap="20px">
          <Coat first={query.get("piece") ?? undefined} />
          <Box>
            <Heading>Copies, newest first</Heading>
            <Standing
              empty={<Box color="muted">None yet.</Box>}
              items={copies.data.slice(0, 8).map((c) => ({
                code: c.code,
                text: words(c.state),
                to:
                  c.state === "curing"
                    ? `/build?pot=${c.pot_id}`
                    : c.state === "demoulded" || c.state === "repair"
                      ? `/finish/${c.code}`
                      : `/check/${c.code}`,
                note: `${c.run}, ${c.mix}${c.mould ? `, ${c.mould}` : ""}`,
              }))}
            />
          </Box>
        </Flex>
      </Grid>
    </Box>
  );
}

function PotClose({ pot, step }: { pot: Schemas["BuildPot"]; step: (by: number) => void }) {
  const navigate = useNavigate();
  const [reason, setReason] = useState("");
  const [early, setEarly] = useState(false);
  useInHand(pot.piece);
  const path = { params: { path: { id: pot.id } } };
  const out = useAct(async () => {
    await ask(api.POST("/api/pots/{id}/demould", { ...path, body: { reason: reason || undefined } }));
    if (pot.copy) navigate(`/finish/${pot.copy}`);
  });
  const see = useAct((stage: "pot" | "gel") => ask(api.POST("/api/pots/{id}/observe", { ...path, body: { stage } })));
  useKey("ArrowRight", "next pot", () => step(1));
  useKey("ArrowLeft", "pot before", () => step(-1));
  return (
    <Box>
      <Flex gap="30px">
        <PotGlass pot={pot} size={4} />
        <Box flex="1" pt="8px">
          <Flex gap="14px" align="center" mb="6px">
            <Tag code={pot.label} to={`/piece/${pot.piece}`} />
            <Box color="muted">since {dayTime(pot.started_at)}</Box>
          </Flex>
          <Box fontSize="38px" fontWeight="700" lineHeight="1.1" data-testid="pot-left">
            {pot.left}
          </Box>
          <Box fontSize="18px" mb="14px">
            {pot.words}, {pot.kind === "cure" ? `cured ${Math.round(100 * pot.fill)} %` : `${Math.round((100 * pot.fill) / 0.9)} % of the way`}
            {pot.warnings.length > 0 && <b> · it is {pot.warnings.join(" and ")} for this material</b>}
          </Box>
          {pot.marks.map((m) => (
            <Figure key={m.stage} label={m.text}>
              {m.reached ? "reached" : "not yet"}
            </Figure>
          ))}
        </Box>
      </Flex>
      <Box mt="18px" maxW="640px">
        {pot.held_back ? (
          <>
            <Box
              bg="gorseSoft"
              borderWidth="1.5px"
              borderColor="gorse"
              borderRadius="3px 16px 16px 3px"
              px="16px"
              py="10px"
              mb="12px"
              data-testid="held-back"
            >
              <b>Held back.</b> {pot.held_back}
            </Box>
            {early ? (
              <Flex gap="10px" align="center">
                <Input
                  h="44px"
                  px="12px"
                  bg="sheet"
                  borderColor="line"
                  placeholder="why it comes out early"
                  aria-label="Why it comes out early"
                  value={reason}
                  onChange={(e) => setReason(e.target.value)}
                />
                <Plain h="44px" flexShrink="0" disabled={out.busy} onClick={() => void out.run()}>
                  Take it out all the same
                </Plain>
              </Flex>
            ) : (
              <Flex gap="10px" wrap="wrap">
                {pot.kind === "cure" &&
                  pot.marks
                    .filter((m) => !m.reached && m.stage !== "demould")
                    .slice(0, 1)
                    .map((m) => (
                      <Plain key={m.stage} onClick={() => void see.run(m.stage as "pot" | "gel")}>
                        It is {m.text} now
                      </Plain>
                    ))}
                <Plain onClick={() => setEarly(true)}>Take it out early</Plain>
              </Flex>
            )}
          </>
        ) : (
          <Go big act={() => void out.run()} disabled={out.busy}>
            {pot.copy ? "Demould it" : "Powder and lift"}
          </Go>
        )}
        <Box mt="10px">
          <Refusal problem={out.problem ?? see.problem} />
        </Box>
        <details>
          <summary>Why these figures?</summary>
          {pot.why.map((w) => (
            <Box key={w} color="muted" fontSize="14px">
              {w}
            </Box>
          ))}
        </details>
      </Box>
    </Box>
  );
}

/** A coat of latex just put on: its pot goes on the shelf. */
function Coat({ first }: { first?: string }) {
  const pieces = usePieces();
  const latex = pieces.data?.filter((p) => p.family.startsWith("latex")) ?? [];
  const [piece, setPiece] = useState("");
  const [label, setLabel] = useState("coat");
  const [wet, setWet] = useState("0.2");
  const code = piece || (latex.some((p) => p.code === first) ? (first ?? "") : (latex[0]?.code ?? ""));
  const put = useAct(() => ask(api.POST("/api/pieces/{code}/coats", { params: { path: { code } }, body: { label, wet_mm: Number(wet) || 0 } })));
  if (latex.length === 0) return null;
  return (
    <Box>
      <Heading>A coat just put on</Heading>
      <Grid templateColumns="1.3fr 1fr 0.8fr" gap="8px" alignItems="end">
        <Choose label="Piece" name="piece" value={code} set={setPiece}>
          {latex.map((p) => (
            <option key={p.code}>{p.code}</option>
          ))}
        </Choose>
        <Entry label="Called" name="label" value={label} set={setLabel} problem={put.problem} />
        <Entry label="Wet, mm" name="wet_mm" value={wet} set={setWet} problem={put.problem} />
      </Grid>
      <Flex mt="8px">
        <Plain h="38px" disabled={put.busy} onClick={() => void put.run()}>
          Set its pot on the shelf
        </Plain>
      </Flex>
      <Refusal problem={put.problem} fields={["label", "wet_mm"]} />
    </Box>
  );
}
