import { Box, Grid } from "@chakra-ui/react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useClock } from "../../app/reads";
import { colour as v } from "../../parts/colour";
import { clockTime, dayTime, duration, isoDay, millimetres } from "../../parts/format";
import { hatch } from "../../parts/hatches";
import { Notice } from "../../parts/Notice";

type Band = Schemas["BuildBand"];

/** How high the bands stand together, and the least that one can be read at, px. */
const STACK = 320;
const LEAST = 44;

/** How high each band is drawn: as it went on, but none too low to be read. */
export function heights(bands: Pick<Band, "high_mm">[]): number[] {
  const whole = bands.reduce((sum, b) => sum + b.high_mm, 0);
  return bands.map((b) => Math.round(Math.min(80, Math.max(LEAST, whole > 0 ? (STACK * b.high_mm) / whole : LEAST))));
}

const family = (b: Band) => (b.fibre ? "fibre" : b.family);

/** The work sheet of a session: each layer as high as it went on, and the water still in it as a tide. */
export function Buildup({ run }: { run: string }) {
  const sheet = useRead({
    queryKey: ["buildup", run],
    queryFn: () => ask(api.GET("/api/runs/{code}/buildup", { params: { path: { code: run } } })),
    refetchInterval: 60_000,
  });
  if (!sheet.data || sheet.data.bands.length === 0) return null;
  const bands = sheet.data.bands;
  const high = heights(bands);
  const top = bands.reduce((at, b, i) => (b.on_at ? i : at), -1);
  const trapped = bands.filter((b) => b.trapped);
  const wet = bands.some((b) => b.coat);
  return (
    <Box as="section" aria-label="What is built so far" data-testid="buildup">
      <Box as="ol" listStyleType="none" m="0" p="0">
        {bands
          .map((b, i) => <BandRow key={b.seq} band={b} high={high[i]} air={i === top} mark={trapped.indexOf(b) + 1} next={i === top + 1} />)
          .reverse()}
      </Box>
      <Row left={sheet.data.on} right={sheet.data.drinks ? "drinks from below" : ""} quiet>
        <svg width="100%" height="34" aria-hidden="true" style={{ display: "block" }}>
          <rect x="0.75" y="0" width="calc(100% - 1.5px)" height="33" fill={hatch(sheet.data.on_family)} stroke={v("ink")} strokeWidth="1.5" />
        </svg>
      </Row>
      {trapped.map((b, i) => (
        <Notice key={b.seq} mt="12px">
          <b>{i + 1} · mind.</b> {b.trapped}
        </Notice>
      ))}
      {wet && (
        <Box layerStyle="small" textAlign="center" mt="12px">
          each band as high as its wet coat; the blue tide is the water that is still in it
        </Box>
      )}
    </Box>
  );
}

function Row({ left, right, quiet, children }: { left: React.ReactNode; right: React.ReactNode; quiet?: boolean; children: React.ReactNode }) {
  return (
    <Grid
      templateColumns={{ base: "88px minmax(60px,1fr) 118px", md: "116px minmax(120px,1fr) 190px" }}
      gap="12px"
      alignItems="center"
      color={quiet ? "muted" : "ink"}
    >
      <Box textAlign="right" lineHeight="1.2">
        {left}
      </Box>
      {children}
      <Box lineHeight="1.2">{right}</Box>
    </Grid>
  );
}

function BandRow({ band: b, high, air, mark, next }: { band: Band; high: number; air: boolean; mark: number; next: boolean }) {
  const name = b.coat && (b.of ?? 0) > 1 ? `coat ${b.coat}` : b.name;
  return (
    <Box as="li" data-band={b.seq} data-state={b.state} data-water={b.water.toFixed(3)}>
      <Row
        quiet={!b.on_at && !next}
        left={
          <>
            <Box as="span" fontWeight={air || next ? 600 : 400}>
              {name}
            </Box>
            {(b.fibre || b.zones.length > 0) && (
              <Box as="span" display="block" layerStyle="small">
                {b.zones.length > 0 ? `${b.zones.join(", ")} only` : b.fibre?.toLowerCase().split(",")[0]}
              </Box>
            )}
          </>
        }
        right={<Said band={b} air={air} />}
      >
        <svg width="100%" height={high} aria-hidden="true" style={{ display: "block", overflow: "visible" }}>
          {b.on_at ? (
            <>
              <rect x="0.75" y="0" width="calc(100% - 1.5px)" height={high} fill={hatch(family(b))} stroke={v("ink")} strokeWidth="1.5" />
              {b.water > 0.005 && (
                <rect
                  x="1.5"
                  y={high - high * b.water}
                  width="calc(100% - 3px)"
                  height={high * b.water}
                  fill={v("tide")}
                  opacity="0.82"
                  style={{ transition: "y 0.6s, height 0.6s" }}
                />
              )}
              {air && <line x1="0" x2="100%" y1="0" y2="0" stroke={v("heather")} strokeWidth="3" />}
              {air && <circle cx="0" cy="0" r="5.5" fill={v("heather")} />}
            </>
          ) : (
            <rect
              x="0.75"
              y="0.75"
              width="calc(100% - 1.5px)"
              height={high - 1.5}
              fill="none"
              stroke={v("muted")}
              strokeWidth="1.2"
              strokeDasharray="6 5"
            />
          )}
          {mark > 0 && <Diamond n={mark} y={high / 2} />}
        </svg>
      </Row>
    </Box>
  );
}

function Diamond({ n, y }: { n: number; y: number }) {
  return (
    <svg x="50%" y={y - 12} width="24" height="24" overflow="visible" aria-hidden="true">
      <path d="M0 12 12 0 24 12 12 24z" fill={v("gorseSoft")} stroke={v("gorse")} strokeWidth="1.5" />
      <text x="12" y="16.5" textAnchor="middle" fontSize="13" fontWeight="700" fill={v("ink")}>
        {n}
      </text>
    </svg>
  );
}

/** What stands beside a band. */
function Said({ band: b, air }: { band: Band; air: boolean }) {
  const today = useClock().data?.now;
  if (!b.on_at) return <Box layerStyle="small">planned, {millimetres(b.high_mm)}</Box>;
  const at = (iso: string) => (today && isoDay(new Date(iso)) === isoDay(new Date(today)) ? clockTime(iso) : dayTime(iso));
  const band = b.band_s ? ` ± ${duration(b.band_s)}` : "";
  let words = "on";
  if (b.state === "dry") words = b.dry_at ? `dry ${at(b.dry_at)}` : "dry";
  if (b.state === "wet" || b.state === "drying")
    words = `${b.state === "wet" ? "wet" : `${Math.round(100 * b.water)} % of its water`}, ${b.dry_at ? `dry ${at(b.dry_at)}${band}` : "not dry in sixty days"}`;
  return (
    <>
      <Box fontWeight={air ? 600 : 400} fontSize="14.5px" title={b.from.join(", ")}>
        {words}
      </Box>
      <Box layerStyle="small" fontSize="12.5px">
        {[`${at(b.on_at)}, ${b.by}`, b.below ? `on ${b.below}` : b.from.join(", ")].filter(Boolean).join(" · ")}
      </Box>
    </>
  );
}
