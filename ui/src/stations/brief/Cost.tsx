import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMe } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { money } from "../../parts/format";
import { newId } from "../../parts/id";
import { fields } from "../../parts/Room";
import { Figure, Rows } from "./Rows";
import type { BriefDraft } from "./useBrief";

const hours = (h: number) => `${Math.round(h * 10) / 10} h`;
const sum = (list: number[]) => list.reduce((a, b) => a + b, 0);

/** Hours by step, workshop and chair apart; material and found things; what was really needed, beside it. */
export function Cost({ code, draft }: { code: string; draft: BriefDraft }) {
  const { doc, view, change, problem } = draft;
  const lead = useMe().data?.person?.role === "lead";
  if (!doc || !view) return null;
  const spent = (kind: string, id: string) => sum(view.actuals.filter((a) => a.kind === kind && a.subject === id).map((a) => a.amount));
  const cost = sum(doc.budget.map((b) => b.cost_minor));
  const paid = sum(view.actuals.filter((a) => a.kind === "money").map((a) => a.amount));
  return (
    <Flex direction="column" gap="14px">
      <Box>
        <AllHours code={code} finish={view.wear.hours} />
        <Box layerStyle="note" mb="4px">
          Steps of the brief: what the rooms cannot know. One that estimates a part above is counted there, and only until its room knows better.
        </Box>
        <Rows
          name="steps"
          rows={doc.steps}
          set={(steps) => change({ steps })}
          columns={[
            { name: "text", label: "Step", width: "1fr" },
            {
              name: "where",
              label: "Where",
              width: "104px",
              kind: "choice",
              choices: [
                ["workshop", "workshop"],
                ["chair", "chair"],
              ],
            },
            {
              name: "skill",
              label: "Skill",
              width: "104px",
              kind: "choice",
              choices: ["apprentice", "fabricator", "lead", "artist"].map((s): [string, string] => [s, s]),
            },
            {
              name: "part",
              label: "Estimates",
              width: "108px",
              kind: "choice",
              choices: [
                ["", "only this"],
                ["shape", "the shape"],
                ["texture", "the texture"],
                ["mould", "the moulds"],
                ["copies", "the copies"],
                ["chair", "the chair"],
              ],
            },
            { name: "hours", label: "Hours", width: "54px", kind: "number" },
          ]}
          blank={() => ({ id: newId(), text: "", where: "workshop" as const, skill: "fabricator" as const, part: "" as const, hours: 0 })}
          add="Add a step"
          empty="Preparation takes far longer than putting it on: write both down."
          problem={problem}
        />
        <Beside list={doc.steps.map((s) => ({ text: s.text, planned: s.hours, really: spent("hours", s.id) }))} show={hours} />
      </Box>
      <Box>
        <Heading aside={`${money(cost)} planned, ${money(paid)} paid`}>Material, bought and found</Heading>
        <Rows
          name="budget"
          rows={doc.budget}
          set={(budget) => change({ budget })}
          columns={[
            { name: "text", label: "What", width: "1.3fr" },
            {
              name: "origin",
              label: "From",
              width: "106px",
              kind: "choice",
              choices: ["bought", "in stock", "reused", "found"].map((s): [string, string] => [s, s]),
            },
            { name: "stands_in", label: "Stands in for", width: "1fr" },
            { name: "cost_minor", label: "Cost", width: "80px", kind: "money" },
            { name: "instead_minor", label: "Else costs", width: "80px", kind: "money" },
          ]}
          blank={() => ({ id: newId(), text: "", origin: "bought" as const, stands_in: "", cost_minor: 0 })}
          add="Add a thing"
          empty="Kitchen goods, moss and old wigs count too: say what they stand in for."
          problem={problem}
        />
        <Flex gap="10px" align="center" mt="8px">
          <Box color="muted">It may cost</Box>
          <Figure
            label="It may cost"
            width="110px"
            value={doc.limit_minor / 100}
            set={(n) => change({ limit_minor: Math.max(0, Math.round(n * 100)) })}
          />
          {doc.limit_minor > 0 && (
            <Box color={cost > doc.limit_minor ? "rust" : "yew"} fontWeight="600">
              {cost > doc.limit_minor ? `${money(cost - doc.limit_minor)} over` : `${money(doc.limit_minor - cost)} left`}
            </Box>
          )}
        </Flex>
      </Box>
      {lead && <Offered code={code} />}
      <a href={`/api/characters/${code.split("-")[0]}/used.csv`}>
        <u>What was used for this look: products, suppliers, what was bought and found, credits</u>
      </a>
      <Spend code={code} doc={doc} actuals={view.actuals} />
    </Flex>
  );
}

/** For leads: what the piece would be offered for as it stands; the money has its lines. */
function Offered({ code }: { code: string }) {
  const o = useRead({
    queryKey: ["account", code, "estimate"],
    queryFn: () => ask(api.GET("/api/cost/pieces/{code}/estimate", { params: { path: { code } } })),
  }).data;
  if (!o) return null;
  return (
    <Box data-testid="offered">
      <Heading>What it would be offered for</Heading>
      {o.bar ? (
        <Box color="muted">Nothing can be said yet: {o.bar}.</Box>
      ) : (
        <Box>
          <b>
            {o.currency}
            {money(o.price_minor)}
          </b>{" "}
          for {o.good} {o.good === 1 ? "copy" : "copies"}, {o.casts} begun; it costs {o.currency}
          {money(o.cost_minor)}.{" "}
          <Link to={`/plan?leaf=Money&piece=${code}`}>
            <u>Its lines, and the offer</u>
          </Link>
        </Box>
      )}
    </Box>
  );
}

/** One sum of all hands that the piece takes, with its parts: from the rooms where they know, else from the brief. */
function AllHours({ code, finish }: { code: string; finish: number }) {
  const all = useRead({
    queryKey: ["hours", code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/hours", { params: { path: { code } } })),
  });
  const h = all.data;
  return (
    <Box mb="10px" data-testid="all-hours">
      <Heading aside={h && `workshop ${hours(h.workshop_hours)}, chair ${hours(h.chair_hours)}; the finish alone asks for about ${hours(finish)}`}>
        Hours: {h ? hours(h.total_hours) : "…"}
      </Heading>
      {h?.parts.map((p) => (
        <Flex key={`${p.part} ${p.text}`} gap="10px" py="2px" align="baseline" fontSize="15px">
          <Box flex="1" minW="0">
            {p.text}{" "}
            <Box as="span" layerStyle="small">
              {p.from === "brief"
                ? p.part === "brief"
                  ? p.where
                  : p.part === "shape"
                    ? "by the brief"
                    : "by the brief: its room knows nothing yet"
                : p.note}
              {p.disagree && `; the brief says ${hours(p.brief_hours)}`}
            </Box>
          </Box>
          {p.spent_hours > 0 && (
            <Box layerStyle="small" whiteSpace="nowrap">
              {hours(p.spent_hours)} spent
            </Box>
          )}
          <Box whiteSpace="nowrap" fontWeight="600" color={p.disagree ? "gorse" : undefined}>
            {hours(p.hours)}
          </Box>
        </Flex>
      ))}
    </Box>
  );
}

function Beside({ list, show }: { list: { text: string; planned: number; really: number }[]; show: (n: number) => string }) {
  const known = list.filter((x) => x.really > 0);
  if (known.length === 0) return null;
  return (
    <Box mt="6px" fontSize="14.5px">
      {known.map((x) => (
        <Flex key={x.text} gap="10px">
          <Box flex="1">{x.text}</Box>
          <Box w="200px">
            {show(x.really)} of {show(x.planned)}{" "}
            <Box as="span" color={x.planned > 0 && x.really > x.planned ? "gorse" : "muted"}>
              {x.planned > 0 ? `(${Math.round((100 * x.really) / x.planned)} %)` : ""}
            </Box>
          </Box>
        </Flex>
      ))}
    </Box>
  );
}

function Spend({ code, doc, actuals }: { code: string; doc: Schemas["PieceBrief"]; actuals: Schemas["BriefActual"][] }) {
  const [what, setWhat] = useState("");
  const [amount, setAmount] = useState("");
  const [note, setNote] = useState("");
  const [key, setKey] = useState(() => crypto.randomUUID());
  const [kind, subject] = (what || (doc.steps[0] ? `hours ${doc.steps[0].id}` : "")).split(" ");
  const spend = useAct(async () => {
    const n = Number(amount.replace(",", "."));
    await ask(
      api.POST("/api/pieces/{code}/actuals", {
        params: { path: { code } },
        body: { kind: kind as "hours" | "money", subject, amount: (kind === "money" ? Math.round(n * 100) : n) || 0, note, key },
      }),
    );
    setAmount("");
    setNote("");
    setKey(crypto.randomUUID());
  });
  if (doc.steps.length + doc.budget.length === 0) return null;
  return (
    <Box>
      <Heading>What was really needed</Heading>
      <Grid templateColumns={fields("1.4fr 90px 1fr auto")} gap="8px" alignItems="end">
        <Choose label="For" name="subject" value={`${kind} ${subject}`} set={setWhat} problem={spend.problem}>
          {doc.steps.map((s) => (
            <option key={s.id} value={`hours ${s.id}`}>
              {s.text || "a step"}, hours
            </option>
          ))}
          {doc.budget.map((b) => (
            <option key={b.id} value={`money ${b.id}`}>
              {b.text || "a thing"}, money
            </option>
          ))}
        </Choose>
        <Entry label="How much" name="amount" value={amount} set={setAmount} problem={spend.problem} />
        <Entry label="Note" name="note" value={note} set={setNote} problem={spend.problem} />
        <Plain disabled={spend.busy} onClick={() => void spend.run()}>
          Write it down
        </Plain>
      </Grid>
      <Refusal problem={spend.problem} />
      {actuals.slice(-3).map((a) => (
        <Box key={a.id} layerStyle="small">
          {a.kind === "money" ? money(a.amount) : hours(a.amount)} by {a.by}
          {a.note && `, ${a.note}`}
        </Box>
      ))}
    </Box>
  );
}
