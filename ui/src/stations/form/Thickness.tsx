import { Box, Flex } from "@chakra-ui/react";
import { Figure, Heading } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import type { Marked } from "../../parts/surface/SurfaceView";
import { marksOf } from "./marks";
import type { Measured } from "./useScans";

/** Places as a list; choosing one rings it on the surface. */
export function Spots({ marks, spot, hold }: { marks: Marked[]; spot?: string; hold: (key: string) => void }) {
  return (
    <Flex direction="column" gap="2px">
      {marks.map((m, i) => (
        <Flex
          as="button"
          key={m.key}
          gap="9px"
          align="center"
          textAlign="start"
          py="3px"
          px="6px"
          bg={spot === m.key ? "heatherSoft" : "transparent"}
          aria-pressed={spot === m.key}
          onClick={() => hold(m.key)}
        >
          <Box
            w="22px"
            h="22px"
            borderRadius="full"
            bg={m.tone === "gorse" ? "gorseDot" : m.tone}
            color="#fffdf8"
            fontSize="12.5px"
            fontWeight="700"
            display="grid"
            placeItems="center"
          >
            {i + 1}
          </Box>
          {m.words}
        </Flex>
      ))}
    </Flex>
  );
}

const ml = (mm3: number) => `${(mm3 / 1000).toFixed(mm3 < 20_000 ? 1 : 0)} ml`;

/** How thick the appliance is, where it comes down to the core, how its edge runs out. */
export function Thickness({ m, spot, hold }: { m: Measured; spot?: string; hold: (key: string) => void }) {
  const t = m.thickness;
  const marks = marksOf("Thickness", m);
  return (
    <Flex direction="column" gap="12px">
      <Box>
        <Heading aside={t.core_contacts.length > 0 ? "would cast as holes" : undefined}>
          {marks.length === 0 ? "Nothing comes down to the core, nothing is too thin" : "To mend before it is moulded"}
        </Heading>
        <Spots marks={marks} spot={spot} hold={hold} />
        {t.scan_hole_area > 0 && (
          <Box color="gorse" fontSize="14px">
            The sculpt's scan has a hole of {(t.scan_hole_area / 100).toFixed(1)} cm² over the core: the volume is short by about that times the
            thickness round it.
          </Box>
        )}
        {t.hanging_area > 20 && (
          <Box color="gorse" fontSize="14px">
            {(t.hanging_area / 100).toFixed(1)} cm² hang over: what lies under them is not in the thickness.
          </Box>
        )}
      </Box>
      <Box>
        <Heading>Thickness off the core</Heading>
        <Figure label="Mean, median, most">
          {millimetres(t.mean)} · {millimetres(t.p50)} · {millimetres(t.max)}
        </Figure>
        <Figure label="Nine tenths lie in" why="5 and 95 of 100, by area">
          {millimetres(t.p5)} to {millimetres(t.p95)}
        </Figure>
        <Figure label="Least off the edge" why="8 mm or more from the edge line">
          {millimetres(t.interior_min)}
        </Figure>
        <Figure label={`Over ${m.limits.thick_mm} mm`} why="cures through slowly, weighs, is hot to wear">
          {t.thick_area > 0 ? `${(t.thick_area / 100).toFixed(1)} cm²` : "nowhere"}
        </Figure>
      </Box>
      <Box>
        <Heading>Edge</Heading>
        <Figure label="Length">{millimetres(t.edge_length)}</Figure>
        {t.edge_mode === "boundary" ? (
          <>
            <Figure label="Thick at the rim: mean, most">
              {millimetres(t.edge_thickness_mean)} · {millimetres(t.edge_thickness_max)}
            </Figure>
            <Figure label={`Thicker than ${millimetres(m.limits.edge_mm)}`}>
              <Box as="span" color={t.edge_over_limit > 0.1 ? "gorse" : "ink"}>
                {Math.round(100 * t.edge_over_limit)} % of it
              </Box>
            </Figure>
          </>
        ) : (
          <>
            <Figure label="Rises, a mm" why="from where it leaves the core">
              {t.edge_slope_mean.toFixed(2)} mm
            </Figure>
            <Figure label="To 1 mm thick in">{millimetres(t.edge_width_to_1mm)}</Figure>
          </>
        )}
      </Box>
      <Box>
        <Heading>Volume</Heading>
        <Figure label="Between core and sculpt" why="each core triangle to its offset, straight rulings">
          {ml(t.cavity_volume)}
        </Figure>
        {t.difference_volume !== undefined && (
          <Figure label="Sculpt less core" why="both scans are closed">
            {ml(t.difference_volume)}
          </Figure>
        )}
        <Figure label="Area × mean, a check" why="always lower on a round core">
          {(t.appliance_area / 100).toFixed(0)} cm² · {ml(t.area_x_mean)}
        </Figure>
      </Box>
    </Flex>
  );
}
