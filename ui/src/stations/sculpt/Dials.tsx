import { Box, Grid } from "@chakra-ui/react";
import { Turn } from "../../parts/Turn";
import { type Dial, standsAt, turned } from "./kinds";

/** The dials of a texture: a slide to feel, and a number to type. */
export function Dials<T extends object>({ of, dials, set }: { of: T; dials: Dial[]; set: (next: T) => void }) {
  return (
    <Grid templateColumns="repeat(2, minmax(0, 1fr))" gap="2px 22px">
      {dials.map((dial) => {
        const value = standsAt(of, dial);
        return (
          <Grid key={`${dial.at} ${dial.label}`} templateColumns="minmax(0, 1fr) auto" alignItems="center" columnGap="8px" title={dial.why}>
            <Box>
              <Box layerStyle="small" lineHeight="1.2">
                {dial.label}
              </Box>
              <input
                type="range"
                aria-label={`${dial.label}, slide`}
                min={dial.min}
                max={dial.max}
                step={dial.step}
                value={value}
                style={{ width: "100%", accentColor: "var(--chakra-colors-heather)" }}
                onChange={(e) => set(turned(of, dial, Number(e.target.value)))}
              />
            </Box>
            <Turn
              label={dial.label}
              hide
              unit={dial.unit}
              value={value}
              min={Math.min(dial.min, 0)}
              max={Math.max(dial.max * 10, 100)}
              step={dial.step}
              set={(x) => set(turned(of, dial, x))}
            />
          </Grid>
        );
      })}
    </Grid>
  );
}
