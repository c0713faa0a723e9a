import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { FewWords, Heading, Pick, Plain, Refusal, WrongAt } from "../../parts/controls";
import { grams } from "../../parts/format";
import { PutRight } from "../../parts/PutRight";
import { States } from "./PourSheet";
import { says } from "./steps";
import type { Line, Mix } from "./useBench";
import { Working } from "./Weighing";

/** What is in the cup, line by line, with its lots and cautions. */
export function InTheCup({ mix, line, waits }: { mix: Mix; line?: Line; waits: (seq: number) => boolean }) {
  return (
    <>
      <Working mix={mix} />
      <Box h="14px" />
      <Heading aside={mix.state === "weighing" ? undefined : grams(mix.mass_g)}>In order</Heading>
      {ordered(mix).map((o) =>
        o.line ? (
          <Flex
            key={o.line.seq}
            py="2px"
            gap="8px"
            color={o.line.seq === line?.seq ? "heather" : "ink"}
            fontWeight={o.line.seq === line?.seq ? 600 : 400}
            data-line={o.line.ingredient}
          >
            <Box flex="1" lineHeight="1.2">
              {o.line.name}
              <Box as="span" color="muted" fontWeight="400">
                {" "}
                · {o.line.lot ?? "tap"}
              </Box>
            </Box>
            <Box fontWeight="600">{grams(o.line.in_cup_g)}</Box>
            <Box w="86px" color="muted" fontWeight="400">
              {waits(o.line.seq)
                ? "waits"
                : o.line.done
                  ? o.line.over_g > o.line.tolerance_g
                    ? `+${o.line.over_g.toFixed(1)}`
                    : "in"
                  : o.line.top_up && o.line.target_g === 0
                    ? "as told"
                    : `to ${grams(o.line.target_g)}`}
            </Box>
          </Flex>
        ) : (
          <Flex
            key={o.step?.seq}
            py="2px"
            gap="8px"
            color={o.step?.seq === mix.current ? "heather" : o.step?.done_at ? "ink" : "muted"}
            fontWeight={o.step?.seq === mix.current ? 600 : 400}
          >
            <Box flex="1" lineHeight="1.2">
              {o.step && says(o.step)}
              {o.step?.note && (
                <Box as="span" color="muted" fontWeight="400">
                  {" "}
                  · {o.step.note}
                </Box>
              )}
            </Box>
            <Box w="86px" color="muted" fontWeight="400">
              {o.step?.done_at ? "done" : ""}
            </Box>
          </Flex>
        ),
      )}
      {mix.state === "weighing" && mix.lines.some((l) => l.in_cup_g > 0) && <WeightRight mix={mix} />}
      {mix.note && (
        <Box mt="6px" fontSize="15px">
          Noted: {mix.note}
        </Box>
      )}
      {mix.state === "weighing" && <Otherwise code={mix.code} />}
      <States follows={mix.follows} />
      {(mix.state === "planned" || mix.state === "weighing") && <Abandon code={mix.code} />}
    </>
  );
}

/** Lines and steps in the one order in which they are done. */
function ordered(mix: Mix) {
  return [
    ...mix.lines.map((line) => ({ seq: line.seq, line, step: undefined })),
    ...mix.steps.map((step) => ({ seq: step.seq, step, line: undefined })),
  ].sort((a, b) => a.seq - b.seq);
}

/** One tap says what went otherwise; more is typed. */
function Otherwise({ code }: { code: string }) {
  const [note, setNote] = useState("");
  const say = useAct(async (words: string) => {
    await ask(api.POST("/api/mixes/{code}/note", { params: { path: { code } }, body: { note: words } }));
    setNote("");
  });
  return (
    <details>
      <summary>It went otherwise</summary>
      <Flex gap="6px" wrap="wrap" my="6px">
        {["thicker than usual", "thinner than usual", "bubbles", "smelled odd", "spilt some"].map((w) => (
          <Plain key={w} h="40px" px="10px" disabled={say.busy} onClick={() => void say.run(w)}>
            {w}
          </Plain>
        ))}
        <FewWords label="What went otherwise" placeholder="or in words" value={note} set={setNote} max={200} grow="1 1 140px" />
        {note.trim() && (
          <Plain h="40px" disabled={say.busy} onClick={() => void say.run(note)}>
            Note it
          </Plain>
        )}
      </Flex>
      <Refusal problem={say.problem} />
    </details>
  );
}

/** A weight that was read wrong is put right, until the mix is poured. */
function WeightRight({ mix }: { mix: Mix }) {
  const inCup = mix.lines.filter((l) => l.in_cup_g > 0);
  const [seq, setSeq] = useState(String(inCup.at(-1)?.seq ?? 1));
  const [typed, setTyped] = useState("");
  return (
    <details>
      <summary>A weight was wrong</summary>
      <Flex gap="8px" my="6px">
        <Pick label="Which" value={seq} set={setSeq}>
          {inCup.map((l) => (
            <option key={l.seq} value={l.seq}>
              {l.name}
            </option>
          ))}
        </Pick>
        <FewWords label="Really in the cup" placeholder="really, such as 6.4 g" value={typed} set={setTyped} max={64} grow="0 1 150px" />
      </Flex>
      <PutRight
        label="put it right"
        act="Put it right"
        run={(reason) =>
          ask(api.POST("/api/mixes/{code}/put-right", { params: { path: { code: mix.code } }, body: { seq: Number(seq), typed, reason } }))
        }
      />
    </details>
  );
}

function Abandon({ code }: { code: string }) {
  const navigate = useNavigate();
  const [reason, setReason] = useState("");
  const abandon = useAct(async () => {
    await ask(api.POST("/api/mixes/{code}/abandon", { params: { path: { code } }, body: { reason } }));
    navigate("/mix");
  });
  return (
    <details>
      <summary>Abandon this mix</summary>
      <Flex gap="8px" mt="6px">
        <Input
          h="36px"
          px="10px"
          bg="sheet"
          borderColor="line"
          placeholder="why"
          aria-label="Why it is abandoned"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
        <Plain h="36px" onClick={() => void abandon.run()} disabled={abandon.busy}>
          Abandon
        </Plain>
      </Flex>
      <WrongAt problem={abandon.problem} name="reason" />
      <Refusal problem={abandon.problem} />
    </details>
  );
}
