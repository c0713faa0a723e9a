import { Box, Flex } from "@chakra-ui/react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { dayTime, grams } from "../../parts/format";
import { long } from "../../parts/long";
import { amount } from "./Money";

const parts: [string, string][] = [
  ["material", "Material"],
  ["labour", "Work"],
  ["overtime", "Overtime"],
  ["machine", "Oven"],
  ["mould", "Moulds"],
  ["bought", "Bought for it"],
];

/** One piece: what it is offered for and what that rests on, what it cost so far, and why that differs. */
export function Account({ code }: { code: string }) {
  const read = useRead({ queryKey: ["account", code], queryFn: () => ask(api.GET("/api/cost/pieces/{code}", { params: { path: { code } } })) });
  const keep = useAct(() => ask(api.POST("/api/cost/pieces/{code}/offer", { params: { path: { code } } })));
  const a = read.data;
  if (read.error) return <Refusal problem={read.error as never} />;
  if (!a) return <Box color="muted">Adding up…</Box>;
  const o = a.offer;
  const m = (minor: number) => amount(o.number > 0 ? o.currency : a.currency, minor);
  if (o.bar)
    return (
      <Teach>
        {code} has no price yet: {o.bar}.
      </Teach>
    );
  return (
    <Flex direction="column" gap="16px" data-testid="account">
      <Box>
        <Heading aside={o.number > 0 ? `offer no. ${o.number}, kept ${o.at ? dayTime(o.at) : ""} by ${o.by}` : "worked out now; nothing is kept yet"}>
          {code}: {m(o.price_minor)} for {o.good} {o.good === 1 ? "copy" : "copies"}
        </Heading>
        {parts.map(([part, text]) => {
          const lines = o.lines.filter((l) => l.part === part);
          if (lines.length === 0) return null;
          return (
            <Box as="details" key={part}>
              <Flex as="summary" gap="10px" cursor="pointer" py="2px">
                <Box flex="1">{text}</Box>
                <Box w="100px" textAlign="right">
                  {m(lines.reduce((sum, l) => sum + l.minor, 0))}
                </Box>
              </Flex>
              {lines.map((l) => (
                <Flex key={l.text} gap="10px" ps="18px" layerStyle="small">
                  <Box flex="1">{l.text}</Box>
                  <Box w="100px" textAlign="right">
                    {m(l.minor)}
                  </Box>
                </Flex>
              ))}
            </Box>
          );
        })}
        <Sum text="Overhead" value={m(o.overhead_minor)} />
        <Sum text="It costs" value={m(o.cost_minor)} bold />
        <Sum text="Margin" value={m(o.price_minor - o.cost_minor)} />
        <Sum text={`It is offered for; each copy ${m(o.each_minor)}`} value={m(o.price_minor)} bold />
        <Box layerStyle="small">
          {o.casts} are begun; that not every one is good costs {m(o.spares_minor)} of it.
          {o.days.length > 0 && ` By day: ${o.days.map((d) => `${d.place} ${d.day.slice(8)}.${d.day.slice(5, 7)}. ${m(d.minor)}`).join(", ")}.`}
        </Box>
        <Flex gap="10px" mt="8px" wrap="wrap" align="center">
          <Plain disabled={keep.busy} onClick={() => void keep.run()}>
            {o.number > 0 ? "Keep a new offer, worked out now" : "Keep it as the offer"}
          </Plain>
          {o.number > 0 && (
            <a href={`/api/cost/pieces/${code}/offer.pdf`} target="_blank" rel="noreferrer">
              <u>print it</u>
            </a>
          )}
          <a href={`/api/characters/${code.split("-")[0]}/used.csv`}>
            <u>what was used for the look</u>
          </a>
        </Flex>
        <Refusal problem={keep.problem} />
      </Box>
      <Box>
        <Heading>What it rests on</Heading>
        {o.assumptions.map((t) => (
          <Box key={t} fontSize="14.5px">
            {t}
          </Box>
        ))}
      </Box>
      <SoFar a={a} />
      <Why a={a} />
    </Flex>
  );
}

function Sum({ text, value, bold }: { text: string; value: string; bold?: boolean }) {
  return (
    <Flex gap="10px" py="2px" fontWeight={bold ? 700 : 400}>
      <Box flex="1">{text}</Box>
      <Box w="110px" textAlign="right">
        {value}
      </Box>
    </Flex>
  );
}

/** What was really drawn and worked, beside what it may cost. */
function SoFar({ a }: { a: Schemas["CostAccount"] }) {
  const m = (minor: number) => amount(a.currency, minor);
  const over = a.limit_minor > 0 && a.stuff_minor > a.limit_minor;
  return (
    <Box data-testid="so-far">
      <Heading aside={`${a.begun} begun, ${a.made} good or on the way`}>
        So far {m(a.spent_minor)}, {m(a.to_go_minor)} to go
      </Heading>
      {a.limit_minor > 0 && (
        <Flex gap="10px" align="center" mb="6px">
          <Box flex="1" h="14px" borderWidth="1.5px" borderColor="ink" bg="ground">
            <Box h="100%" w={`${Math.min(100, (100 * a.stuff_minor) / a.limit_minor)}%`} bg={over ? "rust" : "yew"} />
          </Box>
          <Box color={over ? "rust" : "ink"} fontWeight="600">
            {m(a.stuff_minor)} of {m(a.limit_minor)} for material
          </Box>
        </Flex>
      )}
      {a.used.map((u) => (
        <Flex key={u.material} gap="10px" fontSize="14.5px">
          <Box flex="1">
            {u.name}
            {u.supplier && (
              <Box as="span" color="muted">
                , {u.supplier}
              </Box>
            )}
          </Box>
          <Box w="90px" textAlign="right" color="muted">
            {grams(u.grams)}
          </Box>
          <Box w="90px" textAlign="right">
            {m(u.minor)}
          </Box>
        </Flex>
      ))}
      {a.worked.map((w) => (
        <Flex key={w.act + w.person} gap="10px" fontSize="14.5px">
          <Box flex="1">
            {w.act}, {w.person}
          </Box>
          <Box w="90px" textAlign="right" color="muted">
            {long(w.minutes)}
          </Box>
          <Box w="90px" textAlign="right">
            {m(w.minor)}
          </Box>
        </Flex>
      ))}
      {a.bought_minor > 0 && <Sum text="Bought for it" value={m(a.bought_minor)} />}
      {a.saved_minor > 0 && (
        <Box color="yew" fontSize="14.5px">
          What was found, reused or in stock saved {m(a.saved_minor)}.
        </Box>
      )}
      {a.used.length === 0 && a.worked.length === 0 && <Box color="muted">Nothing was drawn for it yet, and nobody noted work on it.</Box>}
    </Box>
  );
}

const causes: [keyof Schemas["CraftCostVariance"], string][] = [
  ["labour_rate", "hours that cost more than was reckoned with"],
  ["labour_efficiency", "more hours than was reckoned with"],
  ["material_price", "dearer material"],
  ["material_usage", "more material for each copy"],
  ["yield", "more copies begun for the good ones"],
];

/** Why what was done so far cost more, or less, than it should have by the offer. */
function Why({ a }: { a: Schemas["CostAccount"] }) {
  const v = a.variance;
  if (v.actual === 0) return null;
  const m = (minor: number) => `${minor > 0 ? "+" : ""}${amount(a.currency, Math.round(minor))}`;
  return (
    <Box data-testid="variance">
      <Heading aside="of what was done so far, beside what it should have taken">
        {v.total > 0 ? `${m(v.total)} dearer` : v.total < 0 ? `${m(v.total)} cheaper` : "as it was reckoned"}
      </Heading>
      {causes.map(([cause, text]) =>
        Math.round(v[cause] as number) === 0 ? null : (
          <Flex key={cause} gap="10px" fontSize="14.5px">
            <Box flex="1">{text}</Box>
            <Box w="110px" textAlign="right" color={(v[cause] as number) > 0 ? "rust" : "yew"}>
              {m(v[cause] as number)}
            </Box>
          </Flex>
        ),
      )}
    </Box>
  );
}
