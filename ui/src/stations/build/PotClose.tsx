import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useKey } from "../../app/keys";
import { useInHand } from "../../app/Shell";
import { Figure, Go, Plain, Refusal } from "../../parts/controls";
import { clockTime, dayTime } from "../../parts/format";
import { PotGlass } from "../../parts/Pot";
import { Tag } from "../../parts/Tag";
import { Held } from "./Held";
import { HelpAlong } from "./HelpAlong";
import { Meanwhile } from "./Meanwhile";
import { OutSheet, type OutWords } from "./OutSheet";

/** How far a pot is, in words. */
export function potWords(pot: Pick<Schemas["BuildPot"], "words" | "kind" | "fill">): string {
  const far = pot.kind === "cure" ? `cured ${Math.round(100 * pot.fill)} %` : `${Math.min(100, Math.round((100 * pot.fill) / 0.9))} % of the way`;
  return `${pot.words}, ${far}`;
}

/** One pot close up: what it is at, how long it takes, and what is done with it. */
export function PotClose({ pot, step }: { pot: Schemas["BuildPot"]; step: (by: number) => void }) {
  const navigate = useNavigate();
  useInHand(pot.piece);
  const path = { params: { path: { id: pot.id } } };
  const [how, setHow] = useState<OutWords>({});
  const out = useAct(async (reason?: string) => {
    await ask(api.POST("/api/pots/{id}/out", { ...path, body: { reason: reason || undefined, ...how } }));
    if (pot.copy) navigate(`/finish/${pot.copy}`);
  });
  const see = useAct((stage: "pot" | "gel") => ask(api.POST("/api/pots/{id}/observe", { ...path, body: { stage } })));
  useKey("ArrowRight", "next pot", () => step(1));
  useKey("ArrowLeft", "pot before", () => step(-1));
  if (pot.kind === "mould") return <MouldPot pot={pot} />;
  return (
    <Box>
      <PotFigures pot={pot} />
      <HelpAlong pot={pot} />
      <Box mt="18px" maxW="640px">
        {pot.copy && <OutSheet pot={pot} set={setHow} problem={out.problem} />}
        {pot.held_back ? (
          <Held why={pot.held_back} early="Take it out" all={(reason) => void out.run(reason)} busy={out.busy}>
            {pot.kind === "cure" &&
              pot.marks
                .filter((m) => !m.reached && m.stage !== "demould")
                .slice(0, 1)
                .map((m) => (
                  <Plain key={m.stage} disabled={see.busy} onClick={() => void see.run(m.stage as "pot" | "gel")}>
                    It is {m.text} now
                  </Plain>
                ))}
          </Held>
        ) : (
          <Go big act={() => void out.run()} disabled={out.busy}>
            {pot.copy ? "Demould it" : "Powder and lift"}
          </Go>
        )}
        <Box mt="10px">
          <Refusal problem={out.problem ?? see.problem} />
        </Box>
        <Why lines={pot.why} />
        {pot.state === "running" && <Meanwhile waitS={pot.left_s} piece={pot.piece} />}
      </Box>
    </Box>
  );
}

/** A mould that sets and dries leaves the shelf by its state, in its own room. */
function MouldPot({ pot }: { pot: Schemas["BuildPot"] }) {
  const navigate = useNavigate();
  return (
    <Box>
      <PotFigures pot={pot} />
      <Box mt="18px">
        <Go act={() => navigate(`/mould?mould=${encodeURIComponent(pot.label)}`)}>Weigh it in Mould</Go>
        <Why lines={pot.why} />
      </Box>
    </Box>
  );
}

/** The glass with what it says. */
export function PotFigures({ pot }: { pot: Schemas["BuildPot"] }) {
  return (
    <Flex gap={{ base: "14px", md: "30px" }}>
      <Box css={{ "& svg": { width: { base: "112px", md: "224px" }, height: "auto" } }}>
        <PotGlass pot={pot} size={4} />
      </Box>
      <Box flex="1" pt="8px" minW="0">
        <Flex gap="14px" align="center" mb="6px" wrap="wrap">
          <Tag code={pot.label} to={`/piece/${pot.piece}`} />
          <Box color="muted">
            since {dayTime(pot.started_at)}
            {pot.place_name && `, in ${pot.place_name}`}
          </Box>
        </Flex>
        <Box fontSize={{ base: "26px", md: "38px" }} fontWeight="700" lineHeight="1.1" data-testid="pot-left">
          {pot.left}
        </Box>
        <Box fontSize="18px" mb="14px">
          {potWords(pot)}
          {pot.warnings.length > 0 && <b> · it is {pot.warnings.join(" and ")} for this material</b>}
        </Box>
        <TooLate pot={pot} />
        <Answer pot={pot} />
        {pot.marks.map((m) => (
          <Figure key={m.stage} label={m.text}>
            {m.reached ? "reached" : "not yet"}
          </Figure>
        ))}
      </Box>
    </Flex>
  );
}

/** What a pot says, beside the drawing of what it holds. */
export function PotLine({ pot }: { pot: Schemas["BuildPot"] }) {
  return (
    <Box mb="14px">
      <Box fontSize={{ base: "24px", md: "28px" }} fontWeight="700" lineHeight="1.1" data-testid="pot-left">
        {pot.left}
      </Box>
      <Box color="muted">
        {potWords(pot)}, on since {dayTime(pot.started_at)}
        {pot.place_name && `, in ${pot.place_name}`}
      </Box>
      <TooLate pot={pot} />
      <Answer pot={pot} />
    </Box>
  );
}

/** Who took a ringing pot in hand, or taking it. */
export function Answer({ pot }: { pot: Schemas["BuildPot"] }) {
  const take = useAct(() => ask(api.POST("/api/pots/{id}/answer", { params: { path: { id: pot.id } } })));
  if (!pot.rang_at) return null;
  if (!pot.rings)
    return (
      <Box layerStyle="small" mb="8px">
        {pot.answered_by} took it in hand {pot.answered_at && `at ${clockTime(pot.answered_at)}`}.
      </Box>
    );
  return (
    <Box mb="10px">
      <Plain h="36px" disabled={take.busy} onClick={() => void take.run()}>
        I am on it: stop the bell
      </Plain>
      <Refusal problem={take.problem} />
    </Box>
  );
}

/** Where a pot's window shuts, and what happens then. */
function TooLate({ pot }: { pot: Schemas["BuildPot"] }) {
  if (!pot.too_late_at) return null;
  return (
    <Box mb="10px" fontWeight="600" color={pot.past ? "rust" : "gorse"} data-testid="too-late">
      {pot.past ? "Too late since" : "Too late at"} {dayTime(pot.too_late_at)}: {pot.too_late}.
    </Box>
  );
}

export function Why({ lines }: { lines: string[] }) {
  return (
    <details>
      <summary>Why these figures?</summary>
      {lines.map((w) => (
        <Box key={w} layerStyle="note">
          {w}
        </Box>
      ))}
    </details>
  );
}
