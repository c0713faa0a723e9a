import { Box, Grid } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { Heading } from "../../parts/controls";
import { day } from "../../parts/format";
import { ofDay, ofPiece, worstFirst } from "../../parts/standing";

/** The next shooting days: what each needs and what is there. */
export function RunUp({ days, standing, now }: { days: Schemas["PlanDay"][]; standing?: Schemas["PlanStanding"][]; now: Date }) {
  if (days.length === 0) return null;
  const first = days[0];
  return (
    <Box>
      <Heading>The run-up: {first.working_days === 1 ? "one working day" : `${first.working_days} working days`} to the first shooting day</Heading>
      {/* As many whole days as there is room for: the rest stand on Plan. */}
      <Grid templateColumns="repeat(auto-fill, minmax(128px, 1fr))" gridAutoRows="0" templateRows="auto" columnGap="8px" overflow="hidden">
        {days.slice(0, 6).map((d) => {
          const st = standing?.find((s) => s.id === d.id);
          const whole = ofDay(st);
          return (
            <Box
              key={d.id}
              data-day={d.id}
              minW="0"
              bg={!st ? "sheet" : whole.bad ? "gorseSoft" : "yewSoft"}
              borderWidth="1.5px"
              borderColor="ink"
              borderRadius="3px 14px 3px 3px"
              px="10px"
              py="7px"
              fontSize="13.5px"
              lineHeight="1.3"
            >
              <Box fontWeight="700">{day(d.day)}</Box>
              <Box color="muted">
                {d.place}, {d.temp_c} °C
              </Box>
              {whole.text && <Box fontWeight={whole.bad ? 700 : 400}>{whole.text}</Box>}
              {worstFirst(d.needs, st)
                .slice(0, 4)
                .map((n) => {
                  const piece = ofPiece(st, n.piece, "");
                  return (
                    <Box key={n.piece}>
                      {n.piece} {n.good}/{n.wanted}
                      {piece.bad && <b> {piece.text}</b>}
                    </Box>
                  );
                })}
              {d.needs.length > 4 && <Box color="muted">and {d.needs.length - 4} more</Box>}
            </Box>
          );
        })}
      </Grid>
      <Box layerStyle="small">
        Copies good of those wanted. Gorse: by the plan it is late, or something of it is in no plan. Counted on {day(now.toISOString())}.
      </Box>
    </Box>
  );
}
