import { Box, Flex, Grid } from "@chakra-ui/react";
import { keepPreviousData } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { Equipment } from "../../app/Equipment";
import { useRead } from "../../app/read";
import { useMe } from "../../app/reads";
import { useSettled } from "../../app/useSettled";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { dayTime, duration, grams } from "../../parts/format";
import { Dot } from "../../parts/hatches";
import { fields } from "../../parts/Room";
import { Trials } from "./Trials";

type Conditions = Schemas["BriefConditions"];
type Advice = Schemas["CraftAdviseAdvice"];

/** The methods ranked for this brief, why, what would turn it round, and what was chosen. */
export function Method({ piece }: { piece: Schemas["PieceView"] }) {
  const code = piece.code;
  const [tried, setTried] = useState<Conditions>({});
  const asked = useSettled(tried);
  const advice = useRead({
    queryKey: ["advice", code, asked],
    queryFn: () => ask(api.POST("/api/pieces/{code}/advice", { params: { path: { code } }, body: asked })),
    placeholderData: keepPreviousData,
  });
  const [open, setOpen] = useState<string>();
  // A condition that is still being typed may be refused for a moment: what
  // was worked out before stays on the screen.
  const last = useRef(advice.data);
  if (advice.data) last.current = advice.data;
  const v = last.current;
  if (!v) return <Refusal problem={advice.error as never} />;
  const otherwise = Object.keys(tried).length > 0;
  const chosen = v.choices?.[0];
  const name = (slug: string) => v.methods?.find((m) => m.slug === slug)?.name ?? slug;
  return (
    <Flex direction="column" gap="14px">
      <Box data-testid="chosen-method">
        {chosen ? (
          <>
            <b>{name(chosen.method)}</b> was chosen by {chosen.by}, {dayTime(chosen.at)}
            {chosen.place > 1 && `, against ${name(chosen.advised)}`}.{chosen.reason && ` “${chosen.reason}”`}{" "}
            <Link to={`/piece/${code}`}>To its section</Link>
          </>
        ) : (
          <Box as="span" color="muted">
            No method is chosen yet. Open one below to see why it stands where it stands, and choose it.
          </Box>
        )}
      </Box>
      <Tried asked={v.asked} tried={tried} set={setTried} />
      <Refusal problem={advice.error as never} />
      <Box>
        <Heading aside={otherwise ? "as tried, not as the brief says" : "for this brief, this wearer, this shop"}>The methods, best first</Heading>
        {v.methods?.map((m) => (
          <Row
            key={m.slug}
            m={m}
            best={v.methods?.[0]?.name ?? ""}
            code={code}
            open={open === m.slug}
            toggle={() => setOpen(open === m.slug ? undefined : m.slug)}
            tried={otherwise}
          />
        ))}
      </Box>
      <Box>
        <Heading>What would turn it round</Heading>
        {v.turns?.length === 0 && <Box color="muted">No single condition, as far as it can be turned, puts another method first.</Box>}
        {v.turns?.map((t) => (
          <Box key={t.condition + t.at} fontSize="14.5px" py="1px" data-turn={t.condition}>
            {t.text}{" "}
            <Box as="span" color="muted">
              Now {t.from}.
            </Box>
          </Box>
        ))}
      </Box>
      <Trials piece={piece} list={v.trials ?? []} methods={v.methods ?? []} />
      <Equipment />
      {(v.choices?.length ?? 0) > 1 && (
        <details>
          <summary>Chosen before</summary>
          {v.choices?.slice(1).map((c) => (
            <Box key={c.at} fontSize="14.5px">
              {dayTime(c.at)}: {name(c.method)}, {c.by}
              {c.reason && `: ${c.reason}`}
            </Box>
          ))}
        </details>
      )}
    </Flex>
  );
}

/** One method: its place and score, what holds it back, and every criterion when it is opened. */
function Row({ m, best, code, open, toggle, tried }: { m: Advice; best: string; code: string; open: boolean; toggle: () => void; tried: boolean }) {
  const bars = m.bars ?? [];
  const never = bars.some((b) => b.severity === "never");
  return (
    <Box borderBottomWidth="1px" borderColor="line" data-method={m.slug} data-rank={m.rank}>
      <Flex as="button" w="100%" textAlign="left" gap="9px" py="4px" align="center" aria-expanded={open} onClick={toggle}>
        <Box w="20px" textAlign="right" color="muted">
          {m.rank}
        </Box>
        <Dot family={m.family} />
        <Box flex="1" fontWeight={m.rank === 1 ? 700 : 500} lineHeight="1.25">
          {m.name}
          {bars.map((b) => (
            <Box key={b.text} color="rust" fontSize="13.5px" fontWeight="500">
              {b.severity}: {b.text} {/^[A-Z]+-/.test(b.id) && `(${b.id})`}
            </Box>
          ))}
        </Box>
        <Box w="146px" layerStyle="small" textAlign="right" lineHeight="1.25">
          {grams(m.mass_g)} · {duration(m.hands_s)}
          <Box>
            {m.layers === 1 ? "1 layer" : `${m.layers} layers`}, wait {duration(m.wait_s)}
          </Box>
        </Box>
        <Meter score={m.score} muted={bars.length > 0} />
      </Flex>
      {open && (
        <Box ps="29px" pb="10px" fontSize="14px">
          <Box color="muted" mb="4px">
            {m.text} One copy: {m.layers === 1 ? "one layer" : `${m.layers} layers`} to the height, {duration(m.hands_s)} of hands,{" "}
            {duration(m.wait_s)} of waiting, {(m.cost_minor / 100).toFixed(2)} of material.
          </Box>
          <Grid templateColumns="118px 44px 1fr" gap="1px 10px">
            {m.scores?.flatMap((s) => [
              <Box key={s.criterion}>{s.criterion}</Box>,
              <Tiny key={`${s.criterion} score`} score={s.score} weight={s.weight} />,
              <Box key={`${s.criterion} why`}>
                {s.text}{" "}
                <Box as="span" color="muted">
                  ({s.entry})
                </Box>
              </Box>,
            ])}
          </Grid>
          {!tried && !never && <Take m={m} best={best} code={code} />}
          {never && <Box color="rust">It cannot be chosen, with whatever reason: only the facts could change.</Box>}
        </Box>
      )}
    </Box>
  );
}

function Take({ m, best, code }: { m: Advice; best: string; code: string }) {
  const me = useMe();
  const [reason, setReason] = useState("");
  const act = useAct(() => ask(api.POST("/api/pieces/{code}/choice", { params: { path: { code } }, body: { method: m.slug, reason } })));
  if (me.data?.person?.role === "apprentice") return <Box color="muted">A fabricator or a lead chooses.</Box>;
  return (
    <Box mt="8px">
      <Grid templateColumns="1fr auto" gap="8px" alignItems="end">
        <Entry
          label={m.rank === 1 ? "Reason, if there is more to say" : `Why this and not ${best.toLowerCase()}`}
          name="reason"
          value={reason}
          set={setReason}
          problem={act.problem}
        />
        <Plain onClick={() => void act.run()}>Choose {m.name.toLowerCase()}</Plain>
      </Grid>
      <Refusal problem={act.problem} />
    </Box>
  );
}

/** A score as a bar with its figure. */
function Meter({ score, muted }: { score: number; muted: boolean }) {
  return (
    <Flex align="center" gap="7px" w="112px">
      <Box flex="1" h="9px" bg="deep" borderRadius="full" overflow="hidden">
        <Box h="100%" w={`${score}%`} bg={muted ? "muted" : "yew"} />
      </Box>
      <Box w="30px" textAlign="right" fontWeight="600">
        {score.toFixed(0)}
      </Box>
    </Flex>
  );
}

/** How good one criterion is, and by its height how much it weighs. */
function Tiny({ score, weight }: { score: number; weight: number }) {
  const tone = score >= 0.7 ? "yew" : score >= 0.4 ? "gorse" : "rust";
  return (
    <Box pt="7px" title={`${score.toFixed(2)}, weighs ${weight.toFixed(1)}`}>
      <Box h={`${Math.round(3 + 2.5 * Math.min(3, weight))}px`} bg="deep" borderRadius="2px">
        <Box h="100%" w={`${Math.max(4, score * 100)}%`} bg={tone} borderRadius="2px" />
      </Box>
    </Box>
  );
}

const pairs = {
  camera: ["close", "medium", "far"],
  water: ["none", "splashed", "rained on", "under water"],
  exertion: ["still", "acting", "walking", "running"],
} as const;

const numbers: [keyof Conditions & keyof Schemas["BriefAsked"], string][] = [
  ["height_mm", "height, mm"],
  ["wear_hours", "worn, h"],
  ["hottest_c", "hottest, °C"],
  ["days", "days worn"],
  ["lead_days", "days left"],
];

/** The conditions that can be tried otherwise; nothing of it touches the brief. */
function Tried({ asked, tried, set }: { asked: Schemas["BriefAsked"]; tried: Conditions; set: (c: Conditions) => void }) {
  return (
    <Box>
      <Heading
        aside={
          Object.keys(tried).length > 0 ? (
            <Box as="button" textDecoration="underline" color="heather" onClick={() => set({})}>
              as the brief says
            </Box>
          ) : (
            `${asked.region}, ${asked.area_cm2} cm²`
          )
        }
      >
        What if
      </Heading>
      <Grid templateColumns={fields("repeat(4, 1fr)")} gap="6px 10px">
        {numbers.map(([key, label]) => (
          <Count
            key={key}
            label={label}
            value={tried[key] as number | undefined}
            asked={asked[key] as number}
            set={(n) => set(without(tried, key, n))}
          />
        ))}
        {(Object.keys(pairs) as (keyof typeof pairs)[]).map((key) => (
          <Choose
            key={key}
            label={key}
            name={key}
            value={tried[key] ?? asked[key]}
            set={(x) => set(without(tried, key, x === asked[key] && !tried[key] ? undefined : x))}
          >
            {pairs[key].map((x) => (
              <option key={x} value={x}>
                {x}
              </option>
            ))}
          </Choose>
        ))}
      </Grid>
    </Box>
  );
}

function without(c: Conditions, key: keyof Conditions, value: unknown): Conditions {
  const next = { ...c, [key]: value };
  if (value === undefined) delete next[key];
  return next as Conditions;
}

/** A number that is taken as soon as it is one; emptied, it is as the brief says. */
function Count({ label, value, asked, set }: { label: string; value?: number; asked: number; set: (n: number | undefined) => void }) {
  const [text, setText] = useState<string>();
  const shown = text !== undefined && value !== undefined ? text : String(value ?? asked);
  return (
    <Entry
      label={label}
      name={label}
      value={shown}
      set={(t) => {
        setText(t);
        const n = parseFloat(t.replace(",", "."));
        if (t.trim() === "") set(undefined);
        else if (/^-?\d+([.,]\d+)?$/.test(t.trim())) set(n);
      }}
    />
  );
}
