import { Box, Grid } from "@chakra-ui/react";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading } from "../../parts/controls";
import { Notice } from "../../parts/Notice";
import { columns } from "../../parts/Room";
import { clockOf } from "./clock";

/** On set and after: how long each edge and medium lasts in that day's air, when to look, and how it comes off. */
export function DayLeaf({ code }: { code: string }) {
  const read = useRead({ queryKey: ["kit chair", code], queryFn: () => ask(api.GET("/api/kits/{code}/chair", { params: { path: { code } } })) });
  const v = read.data;
  if (!v) return null;
  return (
    <Grid templateColumns={columns("1fr 1fr")} gap="32px">
      <Box>
        <Heading aside={`${v.wear.hours} h`}>How long it holds</Heading>
        {v.wear.lasts.length === 0 && <Box color="muted">Nothing in it is glued.</Box>}
        {v.wear.lasts.map((p) => (
          <Notice key={p.piece} mb="8px" tone={p.p_touched < 0.8 ? "look" : "good"}>
            {p.words}
            {p.touch_h.length > 0 && (
              <b>
                {" "}
                Look at it at{" "}
                {p.touch_h
                  .slice(0, 4)
                  .map((h) => clockOf(v.run.ready_min + 60 * h))
                  .join(", ")}
                .
              </b>
            )}
            <Box layerStyle="small">
              {p.adhesive}; untouched all day in {Math.round(100 * p.p_last)} of 100, touched up in {Math.round(100 * p.p_touched)}
            </Box>
          </Notice>
        ))}
        {v.wear.media.map((m) => (
          <Box key={m.name}>
            {m.name}: about {Math.round(m.median_h)} h{" "}
            <Box as="span" layerStyle="small">
              {m.pieces.join(", ")}
            </Box>
          </Box>
        ))}
        <Box layerStyle="small" mt="6px">
          The handbook's estimates for glue, ours for media: within a factor 1.5, until the log of wear says better.
        </Box>
        <Heading>Carry</Heading>
        <Box>
          {v.wear.kit.adhesive_g.toFixed(1)} g of adhesive, {v.wear.kit.colour_g.toFixed(1)} g of colour, {v.wear.kit.powder_g.toFixed(1)} g of
          powder, swabs, a mirror.
        </Box>
      </Box>
      <Box>
        <Heading aside={`${Math.round(v.off.total_min)} min`}>Taking it off</Heading>
        <Box fontWeight="600">{v.off.never}</Box>
        {v.off.steps.map((s) => (
          <Box key={s.piece + s.words} py="4px" borderBottomWidth="1px" borderColor="line">
            <b>{s.piece}</b> {s.words}
            <Box layerStyle="small">
              {s.ml.toFixed(1)} ml, soaks {Math.round(s.soak_min)} min, off after {Math.round(s.off_min)} min
            </Box>
          </Box>
        ))}
        {v.off.warnings?.map((w) => (
          <Box key={w} color="gorse">
            {w.replaceAll("_", " ")}
          </Box>
        ))}
        <Box mt="8px">
          {v.off.rest_h == null
            ? "No glue there again without licensed advice."
            : `No glue there again for at least ${Math.round(v.off.rest_h)} hours.`}
        </Box>
        {v.off.again.map((a) => (
          <Box key={a}>{a}</Box>
        ))}
      </Box>
    </Grid>
  );
}
