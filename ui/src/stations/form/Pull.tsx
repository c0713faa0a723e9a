import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { Entry, Figure, Heading, Pick, Plain, Refusal } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import { marksOf } from "./marks";
import { Computing } from "./ScanList";
import { Spots } from "./Thickness";
import type { Measured, Scan } from "./useScans";

const cm2 = (mm2: number) => `${(mm2 / 100).toFixed(mm2 < 1000 ? 2 : 1)} cm²`;

/** How the mould leaves the sculpt: the pull, what locks, the parting line, the vents. */
export function Pull({ m, scan, spot, hold }: { m: Measured; scan: Scan; spot?: string; hold: (key: string) => void }) {
  const p = m.pull;
  const [mode, setMode] = useState(p.mode);
  const [dir, setDir] = useState(p.direction.map((x) => x.toFixed(2)).join(" "));
  const measure = useAct((best: boolean) => {
    const d = dir
      .trim()
      .split(/[\s,;]+/)
      .map(Number);
    return ask(
      api.POST("/api/scans/{id}/measure", {
        params: { path: { id: scan.id } },
        body: { mode: best ? "" : mode, dir: best ? undefined : d.length === 3 && d.every(Number.isFinite) ? d : [0, 0, 0] },
      }),
    );
  });
  const marks = marksOf("Pull", m);
  const locks = p.undercut_area > 5;
  return (
    <Flex direction="column" gap="12px">
      <Box>
        <Heading aside={m.best ? "the best of those tried" : "as it was asked for"}>
          {locks ? "What locks, and where air is caught" : "Nothing locks in this pull"}
        </Heading>
        <Spots marks={marks} spot={spot} hold={hold} />
        {locks && (
          <Box color="rust" fontSize="14px" mt="4px">
            A rigid cast in a rigid mould stays in (MLD-4). Fill it, turn the pull, or add a part line; a silicone mould lets go while the undercut is
            shallower than half its wall.
          </Box>
        )}
      </Box>
      <Box>
        <Heading>Pull</Heading>
        <Figure label="Undercut">
          {cm2(p.undercut_area)}, {(100 * p.undercut_fraction).toFixed(1)} % of it
        </Figure>
        <Figure label="Steep, under 3°">{cm2(p.low_draft_area)}</Figure>
        <Figure label="Draft, mean and middle">
          {p.draft_mean.toFixed(0)}° · {p.draft_p50.toFixed(0)}°
        </Figure>
        <Figure label="Parting line">
          {millimetres(p.parting_length)} in {p.parting_loops === 1 ? "one loop" : `${p.parting_loops} loops`}
        </Figure>
        {p.vertical_wall_area > 100 && (
          <Box fontSize="14px" color="muted">
            {cm2(p.vertical_wall_area)} stand upright: the line may lie anywhere on them; the lowest practical place is shown.
          </Box>
        )}
        <Figure label="Shadow on the board" why="area seen along the pull">
          {cm2(p.projected_area)}
        </Figure>
      </Box>
      <Box>
        <Heading>Another pull</Heading>
        <Flex gap="8px" align="end" wrap="wrap">
          <Pick label="How it opens" value={mode} set={(x) => setMode(x as typeof mode)} width="130px">
            <option value="two">two parts</option>
            <option value="one">open-faced</option>
          </Pick>
          <Entry label="Direction x y z" name="dir" value={dir} set={setDir} problem={measure.problem} width="160px" />
          <Plain h="36px" onClick={() => void measure.run(false)} disabled={measure.busy}>
            Try it
          </Plain>
          <Plain h="36px" onClick={() => void measure.run(true)} disabled={measure.busy}>
            Find the best
          </Plain>
        </Flex>
        <Computing scan={scan} />
        <Refusal problem={measure.problem} />
        <Box fontSize="13.5px" color="muted" mt="4px">
          One ray stands for a face: the error is up to one row of faces along a shadow's edge.
        </Box>
      </Box>
    </Flex>
  );
}
