import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { FewWords, Heading, Pick, Plain, Refusal, WrongAt } from "../../parts/controls";
import { grams } from "../../parts/format";
import { PutRight } from "../../parts/PutRight";
import type { Line, Mix } from "./useBench";
import { Working } from "./Weighing";

/** What is in the cup, line by line, with its lots and cautions. */
export function InTheCup({ mix, line, waits }: { mix: Mix; line?: Line; waits: (seq: number) => boolean }) {
  return (
    <>
      <Working mix={mix} />
      <Box h="14px" />
      <Heading>In the cup</Heading>
      {mix.lines.map((l) => (
        <Flex
          key={l.seq}
          py="2px"
          gap="8px"
          color={l.seq === line?.seq ? "heather" : "ink"}
          fontWeight={l.seq === line?.seq ? 600 : 400}
          data-line={l.ingredient}
        >
          <Box flex="1" lineHeight="1.2">
            {l.name}
            <Box as="span" color="muted" fontWeight="400">
              {" "}
              · {l.lot}
            </Box>
          </Box>
          <Box fontWeight="600">{grams(l.in_cup_g)}</Box>
          <Box w="86px" color="muted" fontWeight="400">
            {waits(l.seq) ? "waits" : l.done ? (l.over_g > l.tolerance_g ? `+${l.over_g.toFixed(1)}` : "in") : `to ${grams(l.target_g)}`}
          </Box>
        </Flex>
      ))}
      {mix.state === "weighing" && mix.lines.some((l) => l.in_cup_g > 0) && <WeightRight mix={mix} />}
      {mix.cautions.map((c) => (
        <Box key={c} layerStyle="small" mt="10px">
          {c}
        </Box>
      ))}
      {(mix.state === "planned" || mix.state === "weighing") && <Abandon code={mix.code} />}
    </>
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
