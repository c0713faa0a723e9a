import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useMe } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day } from "../../parts/format";
import { fields } from "../../parts/Room";

// What a wearer can bear, agreed to, and has borne. Seen by leads and fabricators.

type Performer = Schemas["PeoplePerformer"];

/** On how many days what lay on this skin. */
export function Exposures({ performer }: { performer: Performer }) {
  if (performer.exposures.length === 0 && performer.reactions.length === 0) return null;
  return (
    <Box>
      {performer.reactions.length > 0 && (
        <Box color="rust" mb="6px">
          Skin reacted where this lay: {performer.reactions.map((r) => `${r.name ?? r.material} (${r.on})`).join(", ")}. Licensed advice first.
        </Box>
      )}
      <Heading aside="from kits handed over">Lay on this skin</Heading>
      {performer.exposures.map((e) => (
        <Flex key={e.material} gap="10px" py="1px" lineHeight="1.25">
          <Box flex="1">{e.material_name}</Box>
          <Box w="190px">
            {e.days === 1 ? "1 day" : `${e.days} days`}
            <Box as="span" color="muted">
              {e.patch_tests ? `, ${e.patch_tests} patch ${e.patch_tests === 1 ? "test" : "tests"}` : ""}, last {day(e.last).slice(4)}
            </Box>
          </Box>
        </Flex>
      ))}
    </Box>
  );
}

type Kind = Performer["limits"][number]["kind"];
const kinds: [Kind, string, string][] = [
  ["hours", "hours worn at a stretch", "hours"],
  ["mass", "worn mass", "g"],
  ["heat", "heat felt", "°C"],
  ["sight", "sight: nothing may be taken", ""],
  ["hearing", "hearing: nothing may be taken", ""],
  ["breathing", "breathing: nothing may be taken", ""],
  ["mouth", "mouth: must stay free", ""],
];

/** What this wearer can bear. */
export function Bears({ performer }: { performer: Performer }) {
  const me = useMe();
  const [open, setOpen] = useState(false);
  const [kind, setKind] = useState<Kind>("hours");
  const [amount, setAmount] = useState("");
  const [note, setNote] = useState("");
  const unit = kinds.find((k) => k[0] === kind)?.[2] ?? "";
  const path = { path: { id: performer.id } };
  const set = useAct(async () => {
    const n = Number(amount.replace(",", "."));
    await ask(
      api.PUT("/api/performers/{id}/limits", {
        params: path,
        body: { kind, note, ...(unit && amount.trim() && Number.isFinite(n) ? { amount: n } : {}) },
      }),
    );
    setOpen(false);
    setAmount("");
    setNote("");
  });
  const erase = useAct((k: string) => ask(api.DELETE("/api/performers/{id}/limits/{kind}", { params: { path: { id: performer.id, kind: k } } })));
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            set a limit
          </Box>
        }
      >
        Limits
      </Heading>
      {performer.limits.length === 0 && !open && <Box color="muted">None recorded. Ask about hours, heat, sight and breath.</Box>}
      {performer.limits.map((l) => {
        const [, text, of] = kinds.find((k) => k[0] === l.kind) ?? ["", l.kind, ""];
        return (
          <Flex key={l.kind} gap="10px" py="1px">
            <Box flex="1">{text}</Box>
            <Box fontWeight="600">{l.amount != null ? `at most ${l.amount} ${of}` : ""}</Box>
            <Box color="muted">{l.note}</Box>
            {me.data?.person?.role === "lead" && (
              <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => void erase.run(l.kind)}>
                erase
              </Box>
            )}
          </Flex>
        );
      })}
      {open && (
        <Grid templateColumns={fields("1.4fr 90px 1.4fr auto")} gap="8px" alignItems="end" mt="6px">
          <Choose label="Of" name="kind" value={kind} set={(k) => setKind(k as Kind)} problem={set.problem}>
            {kinds.map(([k, text]) => (
              <option key={k} value={k}>
                {text}
              </option>
            ))}
          </Choose>
          {unit ? <Entry label={`At most, ${unit}`} name="amount" value={amount} set={setAmount} problem={set.problem} /> : <Box />}
          <Entry label="Note" name="note" value={note} set={setNote} problem={set.problem} />
          <Plain disabled={set.busy} onClick={() => void set.run()}>
            Set it
          </Plain>
        </Grid>
      )}
      <Refusal problem={set.problem ?? erase.problem} />
    </Box>
  );
}

type What = Performer["consents"][number]["what"];
const whats: What[] = ["touch and glue", "life cast", "photographs", "showing pictures", "health record"];

/** What this wearer agreed to, and until when. */
export function Consents({ performer, today }: { performer: Performer; today: string }) {
  const [open, setOpen] = useState(false);
  const [what, setWhat] = useState<What>("touch and glue");
  const [given, setGiven] = useState(today);
  const [until, setUntil] = useState("");
  const [by, setBy] = useState(performer.guardian);
  const give = useAct(async () => {
    await ask(
      api.POST("/api/performers/{id}/consents", {
        params: { path: { id: performer.id } },
        body: { what, given_on: given, note: "", given_by: by, ...(until ? { until_on: until } : {}) },
      }),
    );
    setOpen(false);
  });
  const withdraw = useAct((fact: number) =>
    ask(api.POST("/api/performers/{id}/consents/{fact}/withdrawal", { params: { path: { id: performer.id, fact } } })),
  );
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            write down
          </Box>
        }
      >
        Consent
      </Heading>
      {performer.consents.length === 0 && !open && <Box color="muted">None written down. Ask before the first touch and the first picture.</Box>}
      {performer.consents.map((c) => {
        const over = !!c.withdrawn_on || (!!c.until_on && c.until_on.slice(0, 10) < today);
        return (
          <Flex key={c.id} gap="10px" py="1px">
            <Box flex="1">{c.what}</Box>
            <Box color={over ? "rust" : "ink"}>
              {c.withdrawn_on
                ? `withdrawn ${day(c.withdrawn_on).slice(4)}`
                : c.until_on
                  ? `${over ? "ended" : "to"} ${day(c.until_on).slice(4)}`
                  : "open"}
            </Box>
            {!over && (
              <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => void withdraw.run(c.id)}>
                withdraw
              </Box>
            )}
          </Flex>
        );
      })}
      {open && (
        <Grid templateColumns={fields("1.3fr 1fr 1fr auto")} gap="8px" alignItems="end" mt="6px">
          <Choose label="To what" name="what" value={what} set={(w) => setWhat(w as What)} problem={give.problem}>
            {whats.map((w) => (
              <option key={w} value={w}>
                {w}
              </option>
            ))}
          </Choose>
          <Entry label="Given on" name="given_on" type="date" value={given} set={setGiven} problem={give.problem} />
          <Entry label="Until" name="until_on" type="date" value={until} set={setUntil} problem={give.problem} />
          {performer.of_age_on && <Entry label="Guardian who gives it" name="given_by" value={by} set={setBy} problem={give.problem} />}
          <Plain disabled={give.busy} onClick={() => void give.run()}>
            Write it down
          </Plain>
        </Grid>
      )}
      <Refusal problem={give.problem ?? withdraw.problem} />
    </Box>
  );
}
