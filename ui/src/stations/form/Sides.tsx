import { Box } from "@chakra-ui/react";
import { Figure, Heading, Teach } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import type { Measured } from "./useScans";

/** How far left and right differ about the plane that the bare core is most alike about. */
export function Sides({ m }: { m: Measured }) {
  const s = m.sides;
  if (!s) return <Teach>{m.sides_not ?? "Left and right were not compared."}</Teach>;
  return (
    <Box>
      <Heading aside="about the core's own middle">Left against right</Heading>
      <Figure label="Differs, mean">{millimetres(s.mean_abs)}</Figure>
      <Figure label="One side stands proud by" why="signed mean; above 0 where the mirrored side stands proud">
        {s.mean_signed < 0 ? "−" : ""}
        {millimetres(Math.abs(s.mean_signed))}
      </Figure>
      <Figure label="95 of 100 under">{millimetres(s.p95)}</Figure>
      <Figure label="Most">{millimetres(s.max)}</Figure>
      <Box mt="8px" layerStyle="note">
        The side towards the plane's normal is mirrored and held against the other. A piece worn on one side only differs by all of itself.
      </Box>
    </Box>
  );
}
