import { Box, Flex, Grid } from "@chakra-ui/react";
import { colour as v } from "../../parts/colour";
import { Heading } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import type { Found, Judged } from "./useTexture";

/** How made the texture looks, from grown to by machine. */
export function Made({ judged }: { judged: Judged }) {
  const r = judged.repetition;
  const over = r.score >= 50;
  return (
    <Box
      title={`repeats on itself ${r.a.toFixed(2)} at ${r.lag_mm.toFixed(1)} mm, evenness ${r.r.toFixed(2)} of 2.15, neighbours alike ${r.same_pairs < 0 ? "no stamps" : r.same_pairs.toFixed(2)}`}
    >
      <Heading aside={`${r.score.toFixed(0)} of 100`}>Does it look made?</Heading>
      <svg
        viewBox="0 0 300 30"
        width="100%"
        height="30"
        preserveAspectRatio="none"
        role="img"
        aria-label={`Looks made: ${r.score.toFixed(0)} of 100, ${r.grade}`}
      >
        <rect x="0" y="8" width="300" height="10" fill={v("deep")} />
        <rect x="0" y="8" width={Math.max(4, 3 * r.score)} height="10" rx="3" fill={over ? v("gorse") : v("yew")} />
        <line x1="150" x2="150" y1="1" y2="26" stroke={v("rust")} strokeWidth="2.5" />
      </svg>
      <Flex justify="space-between" layerStyle="small" mt="-4px">
        <span>grown</span>
        <span>limit</span>
        <span>by machine</span>
      </Flex>
      {r.advice && (
        <Box fontSize="14.5px" lineHeight="1.35" mt="2px">
          {over ? "" : "Some pattern. "}
          {r.advice}
        </Box>
      )}
    </Box>
  );
}

/** What was found, numbered as on the relief. */
export function FoundList({ found }: { found: Found[] }) {
  return (
    <Flex direction="column" gap="6px">
      {found.map((f, i) => (
        <Box
          key={`${f.id}${f.words}`}
          bg={f.severity === "stop" ? "rustSoft" : f.severity === "warn" ? "gorseSoft" : "sheet"}
          borderWidth="1.5px"
          borderColor={f.severity === "stop" ? "rust" : f.severity === "warn" ? "gorse" : "line"}
          borderRadius="3px 14px 14px 3px"
          px="12px"
          py="6px"
          fontSize="14.5px"
          lineHeight="1.35"
        >
          <b>
            {i + 1} · {f.severity}:
          </b>{" "}
          {f.words} <Box as="span">{f.remedy}</Box>
        </Box>
      ))}
    </Flex>
  );
}

/** Everything that was worked out of a texture: how fine, how much, how alike. */
export function Eye({ judged, found }: { judged: Judged; found: Found[] }) {
  const { relief: r, fine } = judged;
  return (
    <Flex direction="column" gap="12px">
      <Made judged={judged} />
      <FoundList found={found} />
      <Grid templateColumns="1fr 1fr" gap="4px 26px">
        <Fact label="Covered">{(100 * r.coverage).toFixed(0)} %</Fact>
        <Fact label="Area">{(r.area_mm2 / 100).toFixed(1)} cm²</Fact>
        <Fact label="Deepest">{millimetres(-r.min_mm)}</Fact>
        <Fact label="Highest">{millimetres(r.max_mm)}</Fact>
        <Fact label="Step at the edge">{millimetres(r.edge_mm)}</Fact>
        <Fact label="Clay moved">
          {r.added_mm3 >= 50 ? `+${(r.added_mm3 / 1000).toFixed(1)} ml ` : ""}
          {r.taken_mm3 >= 50 ? `−${(r.taken_mm3 / 1000).toFixed(1)} ml` : ""}
        </Fact>
        <Fact label="Finest, wide and deep">
          {millimetres(fine.smallest_width_mm)}, {millimetres(fine.smallest_depth_mm)}
        </Fact>
        <Fact label="Held down to">{fine.hold_mm ? millimetres(fine.hold_mm) : "say mould and cast"}</Fact>
      </Grid>
      <Box>
        <Heading aside="wide · deep · to the next">Features</Heading>
        {fine.features.map((f) => (
          <Flex key={`${f.layer}${f.text}`} gap="10px" fontSize="14.5px">
            <Box flex="1">{f.text}</Box>
            <Box>{millimetres(f.width_mm)}</Box>
            <Box>{millimetres(f.depth_mm)}</Box>
            <Box w="64px" textAlign="right">
              {f.gap_mm ? millimetres(f.gap_mm) : "—"}
            </Box>
          </Flex>
        ))}
      </Box>
      {judged.spread.length > 0 && (
        <Box>
          <Heading>Unevenness</Heading>
          {judged.spread.map((s) => (
            <Box key={s.layer} fontSize="14.5px">
              {s.words}
              {s.angle_deg > 0 ? ` Turned by ${s.angle_deg.toFixed(0)}° about.` : ""}
            </Box>
          ))}
        </Box>
      )}
      <Box>
        <Heading aside="left · right of the middle">Counts</Heading>
        {judged.layers.map((l, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: bark comes as two of the same layer.
          <Flex key={i} gap="10px" fontSize="14.5px">
            <Box flex="1">
              {l.kind}:{" "}
              {[
                l.impressions && `${l.impressions} presses in ${l.rows} rows`,
                l.strokes && `${l.strokes} strokes, ${(l.lines_mm / 1000).toFixed(1)} m`,
                l.spots && `${l.spots} marks`,
                l.lumps && `${l.lumps} lumps`,
              ]
                .filter(Boolean)
                .join(", ")}
            </Box>
            <Box>
              {l.left} · {l.right}
            </Box>
          </Flex>
        ))}
      </Box>
    </Flex>
  );
}

function Fact({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Flex gap="10px" fontSize="14.5px">
      <Box flex="1" color="muted">
        {label}
      </Box>
      <Box fontWeight="600">{children}</Box>
    </Flex>
  );
}
