import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useClock, useForms } from "../../app/reads";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { clockTime, duration, grams, isoDay } from "../../parts/format";

type Plan = Schemas["MouldPlan"];
type Sheet = Schemas["CraftMouldmathSheet"];

/** What it takes, with the rule by which each figure was found. */
export function Quantities({ sheet: s }: { sheet: Sheet }) {
  return (
    <Flex direction="column" gap="12px">
      <Box>
        <Heading aside={`about ${(s.price_minor / 100).toFixed(0)} in materials`}>What it takes</Heading>
        {s.lines.map((l, i) => (
          <Box key={`${l.what}${i === 0 ? "" : i}`} py="3px">
            <Flex gap="10px">
              <Box flex="1">{l.what}</Box>
              <Box w="92px" textAlign="end" fontWeight="700" fontSize="17px">
                {grams(l.need_g)}
              </Box>
              <Box w="148px" textAlign="end" color="muted">
                have ready {grams(l.order_g)}
              </Box>
            </Flex>
            <Box layerStyle="small" lineHeight="1.25">
              {l.rule}
            </Box>
          </Box>
        ))}
        {!!s.dry_kg && (
          <Box fontSize="14px" mt="2px">
            Wet about {s.wet_kg?.toFixed(2)} kg, dry {s.dry_kg.toFixed(2)} kg: it stands about {s.casts} casts.
          </Box>
        )}
      </Box>
      {s.findings.length > 0 && (
        <Box>
          <Heading>What the rules say</Heading>
          {s.findings.map((f) => (
            <Flex key={f.id + f.reason} gap="10px" py="2px">
              <Box
                w="54px"
                fontWeight="600"
                color={f.severity === "stop" || f.severity === "never" ? "rust" : f.severity === "warn" ? "gorse" : "muted"}
              >
                {f.id}
              </Box>
              <Box flex="1" lineHeight="1.3" fontSize="14.5px">
                {f.reason}{" "}
                <Box as="span" color="muted">
                  {f.remedy}
                </Box>
              </Box>
            </Flex>
          ))}
        </Box>
      )}
      <Box fontSize="14px">
        {duration(s.hands_s)} of hands, {duration(s.wait_s)} of waiting{s.dry_kg ? ", then drying by the scale" : ""}. Hands are our figures for a
        face, by area.
      </Box>
    </Flex>
  );
}

export function Laid({ plan, code, anew }: { plan: Plan; code: string; anew: () => void }) {
  const s = plan.sheet as Sheet;
  const tick = useAct((item: string, is: boolean) =>
    ask(api.POST("/api/pieces/{code}/mould-plan/ticks", { params: { path: { code } }, body: { plan: plan.id ?? 0, item, done: is } })),
  );
  const ticked = (key: string) => plan.ticks.find((t) => t.item === key);
  const all = [...s.items, ...s.steps];
  const next = all.find((i) => !ticked(i.key));
  return (
    <Grid templateColumns={{ base: "1fr", lg: "minmax(0,1fr) 430px" }} gap="30px">
      <Box>
        <Flex gap="12px" align="center" mb="10px" wrap="wrap">
          {next ? (
            <Go act={() => void tick.run(next.key, true)} disabled={tick.busy}>
              Done
            </Go>
          ) : (
            <RegisterIt plan={plan} code={code} />
          )}
          <Box flex="1" minW="0" lineHeight="1.25">
            {next ? next.text : "Everything is done. Register the mould: it stands on the pot shelf until it is dry."}
          </Box>
          <Box color="muted">
            {plan.ticks.length} of {all.length}
          </Box>
        </Flex>
        <Refusal problem={tick.problem} />
        <Heading>To place before the first pour</Heading>
        {s.items.map((i) => (
          <Check key={i.key} id={i.key} text={i.text} aside={i.why} tick={ticked(i.key)} set={(is) => void tick.run(i.key, is)} busy={tick.busy} />
        ))}
        <Box mt="12px">
          <Heading aside={`${duration(s.hands_s)} of hands`}>In this order</Heading>
          {s.steps.map((i) => (
            <Check
              key={i.key}
              id={i.key}
              text={i.text}
              aside={[
                i.hands_s > 0 ? duration(i.hands_s) : "",
                i.wait_s > 0 ? `then ${duration(i.wait_s)}, ${i.wait}` : i.wait ? `then until ${i.wait}` : "",
                i.mind ?? "",
              ]
                .filter(Boolean)
                .join(" · ")}
              tick={ticked(i.key)}
              set={(is) => void tick.run(i.key, is)}
              busy={tick.busy}
            />
          ))}
        </Box>
      </Box>
      <Flex direction="column" gap="12px">
        <Quantities sheet={s} />
        <Box color="rust" fontSize="13.5px">
          {s.cautions.map((c) => (
            <Box key={c} mb="3px">
              {c}
            </Box>
          ))}
          <Box color="muted">Safety data sheets, local codes and licensed professionals have the last word.</Box>
        </Box>
        <Flex>
          <Plain onClick={anew}>Lay it out anew</Plain>
        </Flex>
      </Flex>
    </Grid>
  );
}

function Check({
  id,
  text,
  aside,
  tick,
  set,
  busy,
}: {
  id: string;
  text: string;
  aside: string;
  tick?: Schemas["MouldTicked"];
  set: (is: boolean) => void;
  busy: boolean;
}) {
  return (
    <Flex gap="10px" py="3px" align="start">
      <input type="checkbox" id={`m-${id}`} checked={!!tick} disabled={busy} onChange={(e) => set(e.target.checked)} style={{ marginTop: 4 }} />
      <label htmlFor={`m-${id}`} style={{ lineHeight: 1.3 }}>
        {text}{" "}
        <Box as="span" layerStyle="small">
          {tick ? `${tick.who}, ${clockTime(tick.at)}` : aside}
        </Box>
      </label>
    </Flex>
  );
}

/** The mould that was built by the sheet comes into the shop. */
function RegisterIt({ plan, code }: { plan: Plan; code: string }) {
  const s = plan.sheet as Sheet;
  const forms = useForms();
  const clock = useClock();
  const [core, setCore] = useState("");
  const [place, setPlace] = useState("");
  const add = useAct(() =>
    ask(
      api.POST("/api/pieces/{code}/moulds", {
        params: { path: { code } },
        body: {
          kind: s.order.kind,
          material: s.order.stuff,
          core,
          state: "wet",
          release_agent: s.order.release,
          separator: s.order.separator,
          parts: s.order.parts,
          place,
          life: s.casts,
          dry_kg: s.dry_kg,
          plan: plan.id,
          made_on: clock.data ? isoDay(new Date(clock.data.now)) : "",
        },
      }),
    ),
  );
  return (
    <Flex gap="8px" align="end" wrap="wrap">
      <Choose label="Core" name="core" value={core} set={setCore} problem={add.problem} width="170px">
        <option value="">none</option>
        {forms.data?.map((f) => (
          <option key={f.code} value={f.code}>
            {f.code} {f.performer ?? "general"}
          </option>
        ))}
      </Choose>
      <Entry label="Stands" name="place" value={place} set={setPlace} problem={add.problem} width="130px" placeholder="rack 2" />
      <Go act={() => void add.run()} disabled={add.busy}>
        Register the mould
      </Go>
      <Refusal problem={add.problem} />
    </Flex>
  );
}
