import { Box, Grid } from "@chakra-ui/react";
import { colour as v } from "../../parts/colour";
import { Heading, Teach } from "../../parts/controls";
import { duration } from "../../parts/format";
import type { Judged, Step } from "./useTexture";

/** The stamps that are pressed, drawn at their ratio; the one in hand stands out. */
export function Bench({ judged, step }: { judged: Judged; step?: Step }) {
  const { stamps, needles } = judged.work;
  if (stamps.length === 0 && needles.length === 0) return <Teach>Hand tools only: no stamps to make for this one.</Teach>;
  const largest = Math.max(...stamps.map((s) => s.a_width_mm), 1);
  return (
    <Box>
      <Heading aside={judged.work.make_stamps_hours > 0 ? `${duration(judged.work.make_stamps_hours * 3600)} to make` : undefined}>
        Stamps on the bench
      </Heading>
      <Grid templateColumns="repeat(auto-fill, minmax(94px, 1fr))" gap="6px 2px" alignItems="end">
        {stamps.map((s) => {
          const rx = Math.max(5, (27 * s.a_width_mm) / largest);
          const ry = (rx * s.a_height_mm) / s.a_width_mm;
          const here = step?.stamp === s.id;
          return (
            <Box
              key={s.id}
              textAlign="center"
              title={`Tube ${s.od_mm.toFixed(1)} mm outside; fill it and hollow it ${s.hollow_mm.toFixed(1)} mm. ${s.worth ? `Worth making: ${s.press_a + s.press_b} presses, worth it from ${s.break_even}.` : `Carve these by hand: ${s.press_a + s.press_b} presses, a stamp is worth it from ${s.break_even}.`}`}
            >
              <svg
                viewBox="-30 -26 60 52"
                width="60"
                height="52"
                role="img"
                aria-label={`${s.id}: ${s.a_width_mm.toFixed(1)} by ${s.a_height_mm.toFixed(1)} mm`}
              >
                <ellipse rx={rx} ry={ry} fill={v("sheet")} stroke={here ? v("heather") : v("ink")} strokeWidth={here ? 3.4 : 1.8} />
                <path d={`M${-rx * 0.5} ${-ry * 0.1}q${rx * 0.5} ${ry * 0.6} ${rx} 0`} fill="none" stroke={v("muted")} strokeWidth="1.3" />
              </svg>
              <Box fontWeight="700" lineHeight="1.1">
                {s.a_width_mm.toFixed(1)} mm
              </Box>
              <Box fontSize="12.5px" color="muted" lineHeight="1.25" whiteSpace="nowrap">
                {s.id} · tube {s.od_mm.toFixed(1)}
                <br />
                to {s.squash.toFixed(2)} · {s.ends === 2 ? "2 ends" : "1 end"}
                <br />
                {s.press_a + s.press_b} presses
                {s.worth ? "" : ": carve"}
              </Box>
            </Box>
          );
        })}
      </Grid>
      {needles.length > 0 && (
        <Box fontSize="14px" mt="4px" lineHeight="1.3">
          {needles.map((n) => n.text).join(", ")}
        </Box>
      )}
    </Box>
  );
}
