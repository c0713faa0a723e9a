import { Box, Checkbox, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useMe } from "../../app/reads";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { isOpen, useWords } from "../../parts/copies";
import { dayTime } from "../../parts/format";
import { PutRight } from "../../parts/PutRight";
import { type Copy, useFaults } from "./bench";

type New = Schemas["CheckNewVerdict"];

const verdictWords: Record<string, string> = { accept: "accepted", repair: "sent back for repair", downgrade: "kept for less", scrap: "scrapped" };

interface Props {
  copy: Copy;
  /** To the faults. */
  open: () => void;
  outcome?: Schemas["CheckOutcome"];
  judged: (outcome: Schemas["CheckOutcome"] | undefined) => void;
}

/** What is decided about a copy: good, back on the bench, kept for less, or scrapped; always with who and why. */
export function Verdict({ copy: c, open, outcome, judged }: Props) {
  const me = useMe().data?.person;
  const faults = useFaults(c.code);
  const [reason, setReason] = useState("");
  const [way, setWay] = useState<"" | "repair" | "downgrade">("");
  const [back, setBack] = useState<string[]>([]);
  const [mend, setMend] = useState("");
  const [minutes, setMinutes] = useState("");
  const [useAs, setUseAs] = useState<NonNullable<New["use_as"]>>("distant");
  const judge = useAct(async (verdict: New["verdict"], more: Partial<New> = {}) => {
    const said = await ask(
      api.POST("/api/copies/{code}/verdict", {
        params: { path: { code: c.code } },
        body: { verdict, reason, seen: c.verdicts.length, ...more },
      }),
    );
    judged(said);
    setReason("");
    setWay("");
    setBack([]);
    setMend("");
  });
  const unsettled = faults.data?.filter((f) => !f.settled) ?? [];
  const apprentice = me?.role === "apprentice";
  return (
    <Box>
      <Heading>Verdict</Heading>
      {unsettled.length > 0 && (
        <Box mb="8px">
          <b>{unsettled.length === 1 ? "A fault is not answered" : `${unsettled.length} faults are not answered`}:</b>{" "}
          {unsettled.map((f) => f.name).join(", ")}.{" "}
          <Box as="button" textDecoration="underline" onClick={open}>
            Trace it
          </Box>
        </Box>
      )}
      {isOpen(c.state) && !outcome && apprentice && <Box color="muted">A fabricator or a lead judges it.</Box>}
      {isOpen(c.state) && !outcome && !apprentice && (
        <>
          {c.left.length > 0 && <Box mb="8px">Still to do before it can be accepted: {c.left.map((l) => l.split(/[,;:]/)[0]).join("; ")}.</Box>}
          <Entry label="Why" name="reason" value={reason} set={setReason} problem={judge.problem} placeholder="what was seen, for the next run" />
          <Flex gap="8px" mt="10px" wrap="wrap" align="center">
            <Go act={() => void judge.run("accept")} disabled={judge.busy || c.left.length > 0 || unsettled.length > 0}>
              Accept it
            </Go>
            <Plain aria-expanded={way === "repair"} onClick={() => setWay(way === "repair" ? "" : "repair")}>
              Back for repair
            </Plain>
            <Plain aria-expanded={way === "downgrade"} onClick={() => setWay(way === "downgrade" ? "" : "downgrade")}>
              Keep it for less
            </Plain>
            <Plain color="rust" disabled={judge.busy} onClick={() => void judge.run("scrap")}>
              Scrap it
            </Plain>
          </Flex>
          {way === "repair" && (
            <Box mt="10px">
              <Box layerStyle="small">What goes back on the bench</Box>
              {c.work
                .filter((t) => !t.dropped)
                .map((t) => (
                  <Box key={t.id}>
                    <Checkbox.Root
                      checked={back.includes(t.id)}
                      onCheckedChange={(e) => setBack(e.checked ? [...back, t.id] : back.filter((x) => x !== t.id))}
                    >
                      <Checkbox.HiddenInput />
                      <Checkbox.Control borderColor="ink" />
                      <Checkbox.Label fontSize="14.5px">{t.text}</Checkbox.Label>
                    </Checkbox.Root>
                  </Box>
                ))}
              <Flex gap="8px" align="end" mt="4px">
                <Entry label="and this, once" name="mend" value={mend} set={setMend} problem={judge.problem} placeholder="fill the hole by the ear" />
                <Entry label="minutes" name="minutes" value={minutes} set={setMinutes} width="80px" />
              </Flex>
              <Plain
                mt="8px"
                disabled={judge.busy}
                onClick={() =>
                  void judge.run("repair", {
                    items: back,
                    mend: mend || undefined,
                    minutes: minutes ? Number(minutes) : undefined,
                    fault: unsettled[0]?.id,
                  })
                }
              >
                Send it back
              </Plain>
            </Box>
          )}
          {way === "downgrade" && (
            <Flex gap="8px" align="end" mt="10px">
              <Choose
                label="It is still good"
                name="use_as"
                value={useAs}
                set={(u) => setUseAs(u as typeof useAs)}
                problem={judge.problem}
                width="180px"
              >
                <option value="distant">far from the camera</option>
                <option value="wet">in wet scenes</option>
                <option value="double">for a double</option>
              </Choose>
              <Plain disabled={judge.busy} onClick={() => void judge.run("downgrade", { use_as: useAs })}>
                Keep it so
              </Plain>
            </Flex>
          )}
        </>
      )}
      <Box mt="8px">
        <Refusal problem={judge.problem} />
      </Box>
      {["accepted", "repair", "scrapped"].includes(c.state) && (
        <Box my="8px">
          <PutRight
            label="take the verdict back"
            act="Take it back"
            run={async (why) => {
              await ask(api.POST("/api/copies/{code}/verdict/back", { params: { path: { code: c.code } }, body: { reason: why } }));
              judged(undefined);
            }}
          />
        </Box>
      )}
      {c.verdicts.length > 0 && (
        <Box mt="10px" as="ol" aria-label="Verdicts so far">
          {c.verdicts.map((v) => (
            <Box as="li" key={v.at} listStyleType="none" fontSize="14.5px" py="2px">
              <b>{v.use_as ? useWords[v.use_as] : (verdictWords[v.verdict] ?? v.verdict)}</b> by {v.who}, {dayTime(v.at)}
              {v.reason && `: ${v.reason}`}
              {v.items && `; back on the bench: ${v.items}`}
              {v.back && ` (taken back: ${v.back})`}
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}
