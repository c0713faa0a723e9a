import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Figure, Heading, Pick, Teach } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import { Bar } from "./ScanList";
import { going, type Scan } from "./useScans";

export type Changed = Schemas["FormChanged"];

/** Two scans of one piece held against each other. */
export function Change({ scans, show }: { scans: Scan[]; show: (c: Changed | undefined) => void }) {
  const [later, setLater] = useState(scans[0]?.id);
  const [earlier, setEarlier] = useState(scans[1]?.id);
  const both = later !== undefined && earlier !== undefined && later !== earlier;
  const change = useRead({
    queryKey: ["scan change", later, earlier],
    enabled: both,
    queryFn: () => ask(api.POST("/api/scans/{id}/change", { params: { path: { id: later ?? 0 } }, body: { earlier: earlier ?? 0 } })),
    refetchInterval: (q) => (going(q.state.data?.job) ? 900 : false),
  });
  const found = change.data?.change;
  useEffect(() => {
    show(found);
    return () => show(undefined);
  }, [found, show]);
  if (scans.length < 2)
    return (
      <Teach>
        Two scans of the piece are held against each other: the clay and the first cast, say. There is {scans.length === 1 ? "one" : "none"} yet.
      </Teach>
    );
  const options = scans.map((s) => (
    <option key={s.id} value={String(s.id)}>
      {s.stage || s.name}
    </option>
  ));
  return (
    <Box>
      <Heading>What changed between two stages</Heading>
      <Flex gap="8px" align="center" wrap="wrap" mb="8px">
        <Pick label="The later one" value={String(later)} set={(x) => setLater(Number(x))} width="190px">
          {options}
        </Pick>
        against
        <Pick label="The earlier one" value={String(earlier)} set={(x) => setEarlier(Number(x))} width="190px">
          {options}
        </Pick>
      </Flex>
      {!both && <Box color="muted">Choose two different ones.</Box>}
      {going(change.data?.job) && <Bar share={change.data?.job.share ?? 0} words="Comparing" />}
      {(change.data?.job.state === "failed" || change.isError) && (
        <Box role="alert" color="rust">
          {change.data?.job.detail ?? change.error?.message}
        </Box>
      )}
      {found && (
        <>
          <Figure label="Moved, mean">{millimetres(found.mean_abs)}</Figure>
          <Figure label="On the whole" why="signed mean: above 0 the later one stands proud">
            {found.mean_signed < 0 ? "lower" : "higher"} by {millimetres(Math.abs(found.mean_signed))}
          </Figure>
          <Figure label="95 of 100 under">{millimetres(found.p95)}</Figure>
          <Figure label="Most">{millimetres(found.max)}</Figure>
          {found.far > 0.005 && <Figure label="Not reached by the other">{(100 * found.far).toFixed(0)} %</Figure>}
        </>
      )}
    </Box>
  );
}
