import { Box, Flex, Table } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMe, useMethods } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day, dayTime, money } from "../../parts/format";
import { long } from "../../parts/long";
import { Notice } from "../../parts/Notice";

type Mend = Schemas["PlanMend"];

/** Beside today's plan: what each change would come to, several of them, and the one that is chosen carried out. */
export function WhatIf() {
  const plan = useRead({ queryKey: ["run-up"], queryFn: () => ask(api.GET("/api/plan/run-up")) });
  const mends = useRead({ queryKey: ["mends"], queryFn: () => ask(api.GET("/api/plan/mends")) });
  const tries = useRead({ queryKey: ["tries"], queryFn: () => ask(api.GET("/api/plan/tries")) });
  const [moved, setMoved] = useState<Schemas["PlanMove"][]>();
  const r = plan.data;
  if (!r) return <Box color="muted">Working out who does what…</Box>;
  if (r.bar || r.steps === 0)
    return <Notice tone="look">{r.bar ? `There is no plan to change: ${r.bar}` : "Nothing is to be done: there is nothing to change."}</Notice>;
  // Only the days that anything makes a difference to; the others are on time whatever is done.
  const all = [...(mends.data ?? []), ...(tries.data ?? [])];
  const days = r.days.filter((d) => d.late_min > 0 || all.some((m) => (m.days.find((x) => x.id === d.id)?.late_min ?? 0) > 0)).slice(0, 5);
  const met = r.days.reduce((sum, d) => sum + d.met, 0);
  return (
    <Flex direction="column" gap="22px">
      {moved && <MovedNow moved={moved} close={() => setMoved(undefined)} />}
      <Box overflowX="auto">
        <Heading aside="each is planned; what only relaxes something is never worse, what replaces something may be">Beside today's plan</Heading>
        <Table.Root size="sm" variant="line" bg="transparent" data-testid="compare">
          <Table.Header>
            <Table.Row bg="transparent">
              <Table.ColumnHeader>Change</Table.ColumnHeader>
              {days.map((d) => (
                <Table.ColumnHeader key={d.id} textAlign="end">
                  {d.place} {day(d.out)}
                </Table.ColumnHeader>
              ))}
              <Table.ColumnHeader textAlign="end">Hands</Table.ColumnHeader>
              <Table.ColumnHeader textAlign="end">Overtime</Table.ColumnHeader>
              {mends.data?.some((m) => m.money_minor !== undefined) && <Table.ColumnHeader textAlign="end">Money</Table.ColumnHeader>}
              <Table.ColumnHeader textAlign="end">Days met, of {r.days.length}</Table.ColumnHeader>
              <Table.ColumnHeader textAlign="end">What to do</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
          <Table.Body>
            <Table.Row bg="deep">
              <Table.Cell fontWeight="700">today's plan</Table.Cell>
              {days.map((d) => (
                <Table.Cell key={d.id} textAlign="end" color={d.late_min > 0 ? "rust" : "ink"}>
                  {d.late_min > 0 ? `${long(d.late_min)} late` : "on time"}
                </Table.Cell>
              ))}
              <Table.Cell />
              <Table.Cell textAlign="end">{r.overtime_min > 0 ? long(r.overtime_min) : "none"}</Table.Cell>
              {mends.data?.some((m) => m.money_minor !== undefined) && <Table.Cell />}
              <Table.Cell textAlign="end">{met.toFixed(1)}</Table.Cell>
              <Table.Cell />
            </Table.Row>
            {tries.data?.map((m) => (
              <Row
                key={`kept ${m.id}`}
                m={m}
                days={days}
                kept
                carried={setMoved}
                withMoney={!!mends.data?.some((o) => o.money_minor !== undefined)}
              />
            ))}
            {mends.data?.map((m) => (
              <Row key={m.text} m={m} days={days} carried={setMoved} withMoney={!!mends.data?.some((o) => o.money_minor !== undefined)} />
            ))}
          </Table.Body>
        </Table.Root>
        <Box layerStyle="small" mt="4px">
          {days.length < r.days.length && "The days that do not stand here are on time with each of them. "}Days met: on average, when work and waits
          take as long as they usually are off and nobody plans anew meanwhile. Money: hours at the shop's rate, overtime and material beside today's
          plan.
        </Box>
        {!mends.data && !mends.error && <Box color="muted">Trying what could be changed…</Box>}
        {mends.data?.length === 0 && <Box color="muted">Nothing that was tried makes a day surer: nothing is proposed.</Box>}
        <Refusal problem={(mends.error ?? tries.error) as never} />
      </Box>
      <TryOne r={r} />
    </Flex>
  );
}

function Row({
  m,
  days,
  kept,
  carried,
  withMoney,
}: {
  m: Mend;
  days: Schemas["PlanDueDay"][];
  kept?: boolean;
  carried: (moved: Schemas["PlanMove"][]) => void;
  withMoney: boolean;
}) {
  const role = useMe().data?.person?.role;
  const lead = role === "lead";
  const drop = useAct(() => ask(api.DELETE("/api/plan/tries/{id}", { params: { path: { id: m.id } } })));
  const carry = useAct(async (body: Schemas["PlanChange"]) => carried((await ask(api.POST("/api/plan/carry", { body }))).moved));
  const may = m.carry && role !== "apprentice" && (lead || !leads(m.carry));
  return (
    <Table.Row bg="transparent" data-mend={m.text}>
      <Table.Cell whiteSpace="normal" minW="220px">
        {m.text}
        {kept && <Box layerStyle="small">kept by {m.by}</Box>}
        {m.most && (
          <Box color="yew" fontSize="13.5px">
            raises the chance the most
          </Box>
        )}
        <Refusal problem={carry.problem ?? drop.problem} />
      </Table.Cell>
      {m.bar ? (
        <Table.Cell colSpan={days.length + (withMoney ? 4 : 3)} color="rust" whiteSpace="normal">
          With it there is no plan: {m.bar}
        </Table.Cell>
      ) : (
        <>
          {days.map((d) => {
            const at = m.days.find((x) => x.id === d.id);
            const late = at?.late_min ?? 0;
            return (
              <Table.Cell
                key={d.id}
                textAlign="end"
                color={late > 0 ? "rust" : d.late_min > 0 ? "yew" : "muted"}
                fontWeight={late === d.late_min ? 400 : 700}
              >
                {late > 0 ? `${long(late)} late` : "on time"}
              </Table.Cell>
            );
          })}
          <Table.Cell textAlign="end">
            {m.more_hands_min === 0 ? "the same" : `${m.more_hands_min > 0 ? "+" : "−"}${long(Math.abs(m.more_hands_min))}`}
          </Table.Cell>
          <Table.Cell textAlign="end">{m.overtime_min > 0 ? long(m.overtime_min) : "none"}</Table.Cell>
          {withMoney && (
            <Table.Cell textAlign="end">
              {m.money_minor === undefined
                ? ""
                : m.money_minor === 0
                  ? "the same"
                  : `${m.money_minor > 0 ? "+" : "−"}${money(Math.abs(m.money_minor))}`}
            </Table.Cell>
          )}
          <Table.Cell textAlign="end" title={`${m.moves} steps are elsewhere then`}>
            {m.met.toFixed(1)}
          </Table.Cell>
        </>
      )}
      <Table.Cell textAlign="end">
        {m.carry && !may && <Box layerStyle="small">{leads(m.carry) ? "a lead may" : "a fabricator may"}</Box>}
        {may && (
          <Plain h="32px" px="12px" disabled={carry.busy} onClick={() => void carry.run(m.carry as Schemas["PlanChange"])}>
            Do it
          </Plain>
        )}
        {m.link && !m.carry && (
          <Link to={m.link}>
            <u>begin it</u>
          </Link>
        )}
        {kept && (
          <Box as="button" layerStyle="small" textDecoration="underline" ms="8px" onClick={() => void drop.run()}>
            drop
          </Box>
        )}
      </Table.Cell>
    </Table.Row>
  );
}

/** What only a lead may decide: that something hot runs alone, and when a day is shot. */
const leads = (c: Schemas["PlanChange"]) => c.hours?.kind === "night" || c.later !== undefined;

/** What a change that was carried out moved, by person. */
function MovedNow({ moved, close }: { moved: Schemas["PlanMove"][]; close: () => void }) {
  return (
    <Notice tone="good" data-testid="carried">
      <Flex gap="12px">
        <Box flex="1">
          <b>It is carried out, and the plan with it is in force.</b> {moved.length === 0 ? "Nothing moved." : `${moved.length} steps moved:`}
          {moved.slice(0, 12).map((m) => (
            <Flex key={m.step} gap="10px">
              <Box w="70px" fontWeight="600">
                {m.who.split(" ")[0]}
              </Box>
              <Box flex="1">
                {m.text}
                {m.had !== m.who && `, was ${m.had.split(" ")[0]}'s`}: {dayTime(m.was)} → <b>{dayTime(m.is)}</b>
              </Box>
            </Flex>
          ))}
          {moved.length > 12 && `and ${moved.length - 12} more`}
        </Box>
        <Plain h="32px" onClick={close}>
          Seen
        </Plain>
      </Flex>
    </Notice>
  );
}

const kinds: [Schemas["PlanNewTry"]["kind"], string][] = [
  ["mould", "a second mould"],
  ["hands", "one more pair of hands"],
  ["extra", "everybody in on a day"],
  ["later", "a shooting day later"],
  ["made_as", "made by another method"],
  ["texture", "half the texture"],
  ["spares", "more begun, to be sure"],
  ["oven", "a second oven"],
  ["racks", "more room on the racks"],
  ["night", "the oven at night"],
];

const sures: [string, string][] = [
  ["0.8", "8 of 10"],
  ["0.9", "9 of 10"],
  ["0.95", "19 of 20"],
  ["0", "each taken for good"],
];

/** Another change to see beside the plan; it is kept until it is dropped. */
function TryOne({ r }: { r: Schemas["PlanRunUp"] }) {
  const [kind, setKind] = useState<Schemas["PlanNewTry"]["kind"]>("mould");
  const pieces = [...new Set(r.bars.map((b) => b.piece).filter(Boolean))].sort();
  const [piece, setPiece] = useState("");
  const [on, setOn] = useState("");
  const [dayId, setDayId] = useState("");
  const [by, setBy] = useState("1");
  const [method, setMethod] = useState("");
  const [sure, setSure] = useState("0.9");
  const methods = useMethods();
  const keep = useAct(() =>
    ask(
      api.POST("/api/plan/tries", {
        body: {
          kind,
          piece: kind === "mould" || kind === "made_as" || kind === "texture" ? piece || pieces[0] : undefined,
          day: (kind === "hands" || kind === "extra") && on ? `${on}T00:00:00Z` : undefined,
          day_id: kind === "later" ? Number(dayId || r.days[0]?.id) : undefined,
          days: kind === "later" ? Number(by) || 0 : undefined,
          sure: kind === "spares" ? Number(sure) : undefined,
          method: kind === "made_as" ? method || methods.data?.[0]?.slug : undefined,
        },
      }),
    ),
  );
  return (
    <Box data-testid="try-one">
      <Heading>See another change beside it</Heading>
      <Flex gap="10px" align="end" wrap="wrap">
        <Choose label="What if" name="kind" value={kind} set={(k) => setKind(k as typeof kind)} problem={keep.problem} width="230px">
          {kinds.map(([k, text]) => (
            <option key={k} value={k}>
              {text}
            </option>
          ))}
        </Choose>
        {(kind === "mould" || kind === "made_as" || kind === "texture") && (
          <Choose label="Of" name="piece" value={piece || (pieces[0] ?? "")} set={setPiece} problem={keep.problem} width="130px">
            {pieces.map((p) => (
              <option key={p}>{p}</option>
            ))}
          </Choose>
        )}
        {kind === "made_as" && (
          <Choose label="As" name="method" value={method} set={setMethod} problem={keep.problem} width="240px">
            {methods.data?.map((m) => (
              <option key={m.slug} value={m.slug}>
                {m.name}
              </option>
            ))}
          </Choose>
        )}
        {kind === "spares" && (
          <Choose label="Enough good ones in" name="sure" value={sure} set={setSure} problem={keep.problem} width="230px">
            {sures.map(([k, text]) => (
              <option key={k} value={k}>
                {text}
              </option>
            ))}
          </Choose>
        )}
        {(kind === "hands" || kind === "extra") && (
          <Entry
            label={kind === "hands" ? "On one day, or empty for every day" : "On"}
            name="day"
            type="date"
            value={on}
            set={setOn}
            problem={keep.problem}
            width="210px"
          />
        )}
        {kind === "later" && (
          <>
            <Choose label="Which" name="day_id" value={dayId} set={setDayId} problem={keep.problem} width="220px">
              {r.days.map((d) => (
                <option key={d.id} value={d.id}>
                  {d.place} {day(d.out)}
                </option>
              ))}
            </Choose>
            <Entry label="Days later" name="days" value={by} set={setBy} problem={keep.problem} width="90px" />
          </>
        )}
        <Plain disabled={keep.busy} onClick={() => void keep.run()}>
          Plan it beside
        </Plain>
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}
