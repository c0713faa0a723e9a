import { Box, Flex, Grid } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useScale } from "../../app/useScale";
import { colour as v } from "../../parts/colour";
import { Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { day, dayTime } from "../../parts/format";
import { Notice } from "../../parts/Notice";

type Detail = Schemas["MouldDetail"];
type Drying = Schemas["MouldDrying"];

const W = 574;
const H = 270;
const [LEFT, RIGHT, TOP, BOTTOM] = [68, 18, 18, 34];

/** Weighings against time, the curve through them, and when it is dry. */
export function DryingPlot({ d }: { d: Drying }) {
  const on = d.weighings.filter((w) => w.counts);
  const from = d.from ? new Date(d.from).getTime() : 0;
  const hours = (iso: string) => (new Date(iso).getTime() - from) / 3.6e6;
  const points = on.map((w) => [hours(w.at), w.kg] as const);
  const end = Math.max(
    24,
    ...points.map((p) => p[0]),
    ...(d.dry_high ? [Math.min(hours(d.dry_high), 3 * Math.max(24, hours(d.dry_at ?? d.dry_high)))] : []),
  );
  const kgs = [...points.map((p) => p[1]), ...(d.curve ? [d.curve.m_inf_kg] : [])];
  const hi = Math.max(...kgs, 0.001);
  const lo = Math.min(...kgs, hi * 0.98);
  const pad = 0.12 * (hi - lo);
  const x = (h: number) => LEFT + (h / end) * (W - LEFT - RIGHT);
  const y = (kg: number) => TOP + ((hi + pad - kg) / (hi - lo + 2 * pad)) * (H - TOP - BOTTOM);
  const days = Array.from({ length: Math.floor(end / 24) + 1 }, (_, i) => i).filter((i) => i % Math.ceil(end / 24 / 9) === 0);
  const marks = Array.from({ length: 4 }, (_, i) => lo + ((hi - lo) * i) / 3);
  const words = d.curve
    ? `${points.length} weighings from ${hi.toFixed(3)} to ${points.at(-1)?.[1].toFixed(3)} kg; dry at ${d.curve.m_inf_kg.toFixed(3)} kg, about ${d.dry_at ? day(d.dry_at) : ""}`
    : `${points.length} weighings, no curve yet`;
  return (
    <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label={words} style={{ background: v("sheet"), border: `1.5px solid ${v("ink")}` }}>
      {d.dry_low && d.dry_high && (
        <rect
          x={Math.min(W - RIGHT, x(hours(d.dry_low)))}
          y={TOP}
          width={Math.max(2, Math.min(W - RIGHT, x(hours(d.dry_high))) - Math.min(W - RIGHT, x(hours(d.dry_low))))}
          height={H - TOP - BOTTOM}
          fill={v("yewSoft")}
        />
      )}
      {(points.length > 0 ? marks : []).map((kg) => (
        <g key={kg}>
          <line x1={LEFT} x2={W - RIGHT} y1={y(kg)} y2={y(kg)} stroke={v("line")} strokeWidth="1" />
          <text x={LEFT - 7} y={y(kg) + 4} textAnchor="end" fontSize="12" fill={v("muted")}>
            {kg.toFixed(2)} kg
          </text>
        </g>
      ))}
      {(points.length > 0 ? days : []).map((i) => (
        <text key={i} x={x(24 * i)} y={H - 12} textAnchor="middle" fontSize="12" fill={v("muted")}>
          {i === 0 ? "first" : `day ${i}`}
        </text>
      ))}
      {d.curve && (
        <>
          <line
            x1={LEFT}
            x2={W - RIGHT}
            y1={y(d.curve.m_inf_kg)}
            y2={y(d.curve.m_inf_kg)}
            stroke={v("yew")}
            strokeWidth="1.5"
            strokeDasharray="6 4"
          />
          <text x={LEFT + 8} y={y(d.curve.m_inf_kg) - 5} fontSize="12.5" fill={v("yew")}>
            comes to {d.curve.m_inf_kg.toFixed(3)} kg
          </text>
          <polyline
            points={d.line
              .filter(([h]) => h <= end)
              .map(([h, kg]) => `${x(h).toFixed(1)},${y(kg).toFixed(1)}`)
              .join(" ")}
            fill="none"
            stroke={v("contour")}
            strokeWidth="2"
          />
          {d.dry_at && hours(d.dry_at) <= end && (
            <g>
              <line x1={x(hours(d.dry_at))} x2={x(hours(d.dry_at))} y1={TOP} y2={H - BOTTOM} stroke={v("yew")} strokeWidth="2" />
              <text
                x={x(hours(d.dry_at)) + (x(hours(d.dry_at)) > W - 130 ? -6 : 6)}
                y={TOP + 13}
                textAnchor={x(hours(d.dry_at)) > W - 130 ? "end" : "start"}
                fontSize="13"
                fontWeight="700"
                fill={v("yew")}
              >
                dry {day(d.dry_at)}
              </text>
            </g>
          )}
        </>
      )}
      {points.map(([h, kg]) => (
        <circle key={h} cx={x(h)} cy={y(kg)} r="4.5" fill={v("gypsum")} stroke={v("ink")} strokeWidth="1.6" />
      ))}
      {points.length === 0 && (
        <text x={W / 2} y={H / 2} textAnchor="middle" fontSize="15" fill={v("muted")}>
          The first weighing stands here.
        </text>
      )}
    </svg>
  );
}

const ovenWords = { yes: "It may go into the oven", no: "It is not baked", gently: "Not into the oven; dry it gently" } as const;

/** May it go into the oven? The answer, with its reason. */
export function OvenAnswer({ m }: { m: Detail }) {
  const o = m.drying.oven;
  return (
    <Notice tone={o.may === "yes" ? "good" : o.may === "no" ? "stop" : "look"} data-testid="oven">
      <Box fontSize="18px" fontWeight="700">
        {ovenWords[o.may]}
      </Box>
      <Box fontSize="14.5px">{o.reason}</Box>
      {m.drying.open && (
        <Box fontSize="13.5px" color="muted" mt="3px">
          {m.drying.open}
        </Box>
      )}
    </Notice>
  );
}

/** A mould on the scale: typed, or as the bench scale reads. */
export function WeighIn({ m }: { m: Detail }) {
  const [kg, setKg] = useState("");
  const [place, setPlace] = useState(m.drying.weighings.at(-1)?.place || m.place);
  const [wrong, setWrong] = useState<number>();
  const scale = useScale();
  // The same key until the server has it, so that a lost answer weighs nothing twice.
  const key = useRef(crypto.randomUUID());
  const weigh = useAct(async (value: number, source: "typed" | "scale") => {
    await ask(api.POST("/api/moulds/weighings", { body: { code: m.code, kg: value, source, place, corrects: wrong, key: key.current } }));
    key.current = crypto.randomUUID();
    setKg("");
    setWrong(undefined);
  });
  const typed = Number(kg.replace(",", ".").replace(/\s*kg$/, ""));
  const shows = scale.reading && scale.reading.unit === "g" ? scale.reading.value / 1000 : undefined;
  return (
    <Box>
      <Heading aside={`${m.drying.weighings.length} so far`}>{wrong ? "Put a weighing right" : "Weigh it"}</Heading>
      <Grid templateColumns="120px minmax(0,1fr)" gap="8px" alignItems="end">
        <Entry label="Weight, kg" name="kg" value={kg} set={setKg} problem={weigh.problem} placeholder={m.last_kg?.toFixed(3) ?? "6.100"} />
        {!wrong && <Entry label="Where it dries" name="place" value={place} set={setPlace} problem={weigh.problem} placeholder="laths by the door" />}
      </Grid>
      <Flex gap="10px" mt="8px" align="center" wrap="wrap">
        <Go act={() => void weigh.run(typed, "typed")} disabled={weigh.busy || !(typed > 0)}>
          Write it down
        </Go>
        {shows !== undefined && (
          <Plain disabled={weigh.busy || !scale.reading?.stable || shows <= 0.01} onClick={() => void weigh.run(shows, "scale")}>
            Take {shows.toFixed(3)} kg from the scale
          </Plain>
        )}
        {wrong && <Plain onClick={() => setWrong(undefined)}>Leave it as it was</Plain>}
      </Flex>
      <Refusal problem={weigh.problem} />
      <Box mt="10px" maxH="190px" overflowY="auto" tabIndex={0} role="region" aria-label="Weighings">
        {[...m.drying.weighings].reverse().map((w) => (
          <Flex key={w.id} gap="10px" py="3px" borderBottomWidth="1px" borderColor="line" fontSize="14px" opacity={w.wrong ? 0.55 : 1}>
            <Box w="76px" fontWeight="600" textDecoration={w.wrong ? "line-through" : undefined}>
              {w.kg.toFixed(3)} kg
            </Box>
            <Box flex="1" color="muted">
              {dayTime(w.at)}, {w.who}
              {w.place && `, ${w.place}`}
              {w.source === "scale" && ", by the scale"}
              {!w.counts && !w.wrong && ", before it was moved"}
            </Box>
            {!w.wrong && (
              <Box as="button" textDecoration="underline" onClick={() => setWrong(w.id)} aria-label={`${w.kg.toFixed(3)} kg was wrong`}>
                was wrong
              </Box>
            )}
          </Flex>
        ))}
      </Box>
    </Box>
  );
}
