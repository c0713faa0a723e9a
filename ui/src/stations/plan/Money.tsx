import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { Dot } from "../../parts/hatches";
import { columns } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Account } from "./Account";

/** An amount in the shop's money. */
export const amount = (currency: string, minor: number) =>
  `${minor < 0 ? "−" : ""}${currency}${(Math.abs(minor) / 100).toLocaleString("en-GB", { minimumFractionDigits: 2, maximumFractionDigits: 2 })}`;

/** What every piece is thought to cost, was offered for and cost so far; for leads. */
export function Money() {
  const all = useRead({ queryKey: ["cost"], queryFn: () => ask(api.GET("/api/cost")) });
  const [params, setParams] = useSearchParams();
  const chosen = params.get("piece") ?? all.data?.pieces[0]?.piece;
  if (all.error) return <Refusal problem={all.error as never} />;
  if (!all.data) return <Box color="muted">Adding up…</Box>;
  const c = all.data.currency;
  const choose = (piece: string) => setParams({ leaf: "Money", piece }, { replace: true });
  return (
    <Grid templateColumns={columns("minmax(0,1.15fr) minmax(0,1fr)")} gap="32px">
      <Box>
        {all.data.productions.map((p) => (
          <Box key={p.name} mb="16px">
            <Heading
              aside={`offered ${amount(c, p.price_minor)}, spent ${amount(c, p.spent_minor)}${p.kits_minor ? `, kits ${amount(c, p.kits_minor)}` : ""}, to go ${amount(c, p.to_go_minor)}${p.saved_minor ? `, saved ${amount(c, p.saved_minor)}` : ""}`}
            >
              {p.name}
            </Heading>
            {all.data?.pieces
              .filter((row) => row.production === p.name)
              .map((row) => (
                <Line key={row.piece} row={row} currency={c} chosen={row.piece === chosen} choose={() => choose(row.piece)} />
              ))}
          </Box>
        ))}
        {all.data.pieces.length === 0 && <Teach>No piece is in work. Begin one with 1; what it costs then stands here.</Teach>}
        <Terms />
      </Box>
      {chosen && <Account key={chosen} code={chosen} />}
    </Grid>
  );
}

function Line({ row, currency, chosen, choose }: { row: Schemas["CostRow"]; currency: string; chosen: boolean; choose: () => void }) {
  const cost = row.cost_minor;
  const will = row.spent_minor + row.to_go_minor;
  const width = cost > 0 ? Math.min(100, (100 * row.spent_minor) / cost) : 0;
  return (
    <Flex
      as="button"
      w="100%"
      textAlign="left"
      gap="10px"
      py="5px"
      px="8px"
      align="center"
      bg={chosen ? "sheet" : "transparent"}
      borderBottomWidth="1px"
      borderColor="line"
      onClick={choose}
      aria-pressed={chosen}
      data-cost={row.piece}
    >
      <Dot family={row.family} />
      <Box w={{ base: "96px", md: "102px" }} flexShrink="0">
        <Tag code={row.piece} />
      </Box>
      <Box flex="1" minW="0" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">
        {row.name}
        {row.bar && (
          <Box as="span" color="muted">
            , {row.bar}
          </Box>
        )}
      </Box>
      {!row.bar && (
        <>
          <Box
            display={{ base: "none", md: "block" }}
            w="60px"
            h="10px"
            flexShrink="0"
            borderWidth="1px"
            borderColor="ink"
            bg="ground"
            title={`spent ${amount(currency, row.spent_minor)}`}
          >
            <Box h="100%" w={`${width}%`} bg={will > cost ? "rust" : "yew"} />
          </Box>
          <Box w="76px" flexShrink="0" textAlign="right" color="muted">
            {amount(currency, row.spent_minor)}
          </Box>
          <Box w="84px" flexShrink="0" textAlign="right" fontWeight="600">
            {amount(currency, row.price_minor)}
          </Box>
          <Box display={{ base: "none", md: "block" }} w="56px" flexShrink="0" layerStyle="small">
            {row.number > 0 ? `no. ${row.number}` : "estimate"}
          </Box>
        </>
      )}
    </Flex>
  );
}

interface Term {
  name: "rate_minor" | "overtime_factor" | "overhead_pct" | "margin_pct" | "oven_minor";
  label: string;
  width: string;
  /** It is typed in whole money and kept in hundredths. */
  hundredths?: boolean;
}

const terms: Term[] = [
  { name: "rate_minor", label: "An hour", width: "100px", hundredths: true },
  { name: "overtime_factor", label: "Overtime, times", width: "110px" },
  { name: "overhead_pct", label: "Overhead %", width: "100px" },
  { name: "margin_pct", label: "Margin %", width: "100px" },
  { name: "oven_minor", label: "An hour of the oven", width: "140px", hundredths: true },
];

/** What the shop's time is charged at. */
function Terms() {
  const read = useRead({ queryKey: ["terms"], queryFn: () => ask(api.GET("/api/cost/terms")) });
  const [typed, setTyped] = useState<Record<string, string>>({});
  const keep = useAct(async (body: Schemas["CostTerms"]) => {
    await ask(api.PUT("/api/cost/terms", { body }));
    setTyped({});
  });
  const t = read.data;
  if (!t) return null;
  const set = (name: string) => (v: string) => setTyped({ ...typed, [name]: v });
  const told = (text: string) => Number(text.replace(",", "."));
  const shown = (f: Term) => typed[f.name] ?? (f.hundredths ? (t[f.name] / 100).toFixed(2) : String(t[f.name]));
  const value = (f: Term) => {
    const text = typed[f.name];
    if (text === undefined) return t[f.name];
    return f.hundredths ? Math.round(told(text) * 100) : told(text);
  };
  const rate = (person: string) => t.rates.find((r) => r.person === person)?.minor;
  const save = () =>
    keep.run({
      ...(Object.fromEntries(terms.map((f) => [f.name, value(f)])) as Record<Term["name"], number>),
      currency: typed.currency ?? t.currency,
      rates: t.people.flatMap((person) => {
        const text = typed[`rate ${person}`];
        const minor = text === undefined ? rate(person) : text.trim() === "" ? undefined : Math.round(told(text) * 100);
        return minor === undefined ? [] : [{ person, minor }];
      }),
    });
  const wrong = Object.values(typed).some((v, i) => Object.keys(typed)[i] !== "currency" && Number.isNaN(told(v)));
  return (
    <Box asChild mt="18px" data-testid="terms">
      <details open={t.default}>
        <Box as="summary" fontWeight="600">
          What time is charged at
          <Box as="span" layerStyle="small" fontWeight="400">
            {t.default ? ": the program's own figures, until you set yours" : `, set ${t.at ? dayTime(t.at) : ""} by ${t.by}`}
          </Box>
        </Box>
        <Flex gap="12px" wrap="wrap" mt="8px" align="end">
          <Entry label="Currency" name="currency" value={typed.currency ?? t.currency} set={set("currency")} problem={keep.problem} width="90px" />
          {terms.map((f) => (
            <Entry key={f.name} label={f.label} name={f.name} value={shown(f)} set={set(f.name)} problem={keep.problem} width={f.width} />
          ))}
        </Flex>
        <Flex gap="12px" wrap="wrap" mt="8px" align="end">
          {t.people.map((p) => (
            <Entry
              key={p}
              label={`An hour of ${p.split(" ")[0]}`}
              name={`rates.${p}`}
              placeholder={(t.rate_minor / 100).toFixed(2)}
              value={typed[`rate ${p}`] ?? (rate(p) === undefined ? "" : ((rate(p) as number) / 100).toFixed(2))}
              set={set(`rate ${p}`)}
              problem={keep.problem}
              width="130px"
            />
          ))}
          <Plain disabled={keep.busy || wrong || Object.keys(typed).length === 0} onClick={() => void save()}>
            Charge like this
          </Plain>
        </Flex>
        {wrong && <Box color="rust">An amount is a number, such as 32.50.</Box>}
        <Refusal problem={keep.problem} />
      </details>
    </Box>
  );
}
