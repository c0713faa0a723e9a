import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { KeptFiles } from "../../app/KeptFiles";
import { useRead } from "../../app/read";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { dayTime, grams } from "../../parts/format";
import { columns, RoomHead } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { CorrectLot } from "./CorrectLot";
import { TakeFrom } from "./TakeFrom";

const reached: { kind: string; name: string; to: (code: string) => string }[] = [
  { kind: "mix", name: "mixes", to: (c) => `/mix/${c}` },
  { kind: "lot", name: "lots filled or put by from it", to: (c) => `/stores/${c}` },
  { kind: "copy", name: "copies", to: (c) => `/check/${c}` },
  { kind: "kit", name: "kits", to: (c) => `/handover/${c}` },
];

/** How long an opened lot is good; empty for one that is shut, or that opening does not age. */
function openLife(lot: { opened_on?: string; open_life_days: number }): string {
  if (!lot.opened_on || !lot.open_life_days) return lot.opened_on ? `opened ${lot.opened_on.slice(0, 10)}` : "not opened";
  const until = new Date(new Date(lot.opened_on).getTime() + lot.open_life_days * 86_400_000);
  return `opened ${lot.opened_on.slice(0, 10)}, good opened until ${until.toISOString().slice(0, 10)}`;
}

/** One lot: its ledger, and every mix, copy and kit that it went into. */
export function LotPage({ code }: { code: string }) {
  const path = { params: { path: { code } } };
  const lot = useRead({ queryKey: ["lot", code], queryFn: () => ask(api.GET("/api/lots/{code}", path)) });
  const [status, setStatus] = useState<"ok" | "quarantine" | "recalled">("quarantine");
  const [reason, setReason] = useState("");
  const [part, setPart] = useState<"" | "A" | "B">();
  const [amount, setAmount] = useState("");
  const set = useAct(async () => {
    await ask(api.POST("/api/lots/{code}/status", { ...path, body: { status, reason } }));
    setReason("");
  });
  const count = useAct(async (which: "" | "A" | "B") => {
    await ask(api.POST("/api/lots/{code}/count", { ...path, body: { part: which, amount } }));
    setAmount("");
  });
  if (lot.error && !lot.data) return <Refusal problem={lot.error as never} />;
  if (!lot.data) return null;
  const parts = lot.data.parts;
  const which = part ?? parts[0].part;
  const went = Object.entries(lot.data.went_into);
  return (
    <Box>
      <RoomHead
        code={code}
        title={parts[0].material_name}
        aside={[parts[0].supplier, `use by ${parts[0].expires_on.slice(0, 10)}`, openLife(parts[0]), parts[0].shelf].filter(Boolean).join(", ")}
      />
      <Grid templateColumns={columns("300px minmax(0,1fr) minmax(0,1.1fr)")} gap="34px">
        <Flex direction="column" gap="16px">
          <Box>
            {parts.map((p) => (
              <Box key={p.part} mb="6px">
                <Box fontSize="34px" fontWeight="700" lineHeight="1.1">
                  {grams(p.on_hand_g)}{" "}
                  <Box as="span" fontSize="19px">
                    {p.part && `part ${p.part}`}
                  </Box>
                </Box>
                {p.refused ? (
                  <Box color="rust" fontWeight="600">
                    not to be used: {p.refused}
                    {p.status_reason && `, ${p.status_reason}`}
                  </Box>
                ) : (
                  <Box color="muted">may be used</Box>
                )}
              </Box>
            ))}
          </Box>
          <Box>
            <Heading>Count it</Heading>
            <Grid templateColumns="80px 1fr" gap="8px">
              {parts.length > 1 && (
                <Choose label="Part" name="part" value={which} set={(p) => setPart(p as "A" | "B")}>
                  {parts.map((p) => (
                    <option key={p.part}>{p.part}</option>
                  ))}
                </Choose>
              )}
              <Entry label="On the scale" name="amount" value={amount} set={setAmount} problem={count.problem} placeholder="412 g" />
            </Grid>
            <Plain mt="8px" h="38px" disabled={count.busy} onClick={() => void count.run(which)}>
              Put it in the books
            </Plain>
            <Refusal problem={count.problem} />
          </Box>
          <Box>
            <Heading>Hold back or let go</Heading>
            <Grid templateColumns="130px 1fr" gap="8px">
              <Choose label="It is" name="status" value={status} set={(s) => setStatus(s as typeof status)}>
                <option value="quarantine">in quarantine</option>
                <option value="recalled">recalled</option>
                <option value="ok">fit for use</option>
              </Choose>
              <Entry label="Why" name="reason" value={reason} set={setReason} problem={set.problem} />
            </Grid>
            <Plain mt="8px" h="38px" disabled={set.busy} onClick={() => void set.run()}>
              Say so
            </Plain>
            <Refusal problem={set.problem} />
          </Box>
          <TakeFrom parts={parts} key={`take-${code}`} />
          <CorrectLot lot={parts[0]} key={parts[0].code} />
        </Flex>
        <Box>
          <Heading>Went into</Heading>
          {went.length === 0 && <Box color="muted">Nothing yet.</Box>}
          {reached.map(
            ({ kind, name, to }) =>
              lot.data.went_into[kind] && (
                <Box key={kind} mb="12px">
                  <Box color="muted" mb="5px">
                    {name}
                  </Box>
                  <Flex gap="8px" wrap="wrap">
                    {lot.data.went_into[kind].map((c) => (
                      <Tag key={c} code={c} to={to(c)} />
                    ))}
                  </Flex>
                </Box>
              ),
          )}
          <Box mt="20px">
            <KeptFiles of="lot" code={code} key={code} />
          </Box>
        </Box>
        <Box>
          <Heading>The ledger</Heading>
          {lot.data.movements.map((m, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: ledger lines have no key of their own and are only ever added
            <Flex key={i} gap="12px" py="3px" borderBottomWidth="1px" borderColor="line" fontSize="14px">
              <Box w="120px" color="muted">
                {dayTime(m.at)}
              </Box>
              <Box w="24px">{m.part}</Box>
              <Box w="84px" textAlign="right" fontWeight="600" color={m.grams < 0 ? "ink" : "yew"}>
                {m.grams > 0 ? "+" : "−"}
                {grams(Math.abs(m.grams))}
              </Box>
              <Box flex="1">
                {m.reason} {m.mix && <Link to={`/mix/${m.mix}`}>{m.mix}</Link>} {m.note}
              </Box>
              <Box color="muted">{m.who}</Box>
            </Flex>
          ))}
        </Box>
      </Grid>
    </Box>
  );
}
