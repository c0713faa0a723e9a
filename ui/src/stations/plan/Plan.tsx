import { Box, Flex } from "@chakra-ui/react";
import { Link, useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMe, useStanding } from "../../app/reads";
import { Teach } from "../../parts/controls";
import { day } from "../../parts/format";
import { Dot } from "../../parts/hatches";
import { Leaves } from "../../parts/Leaves";
import { RoomHead } from "../../parts/Room";
import { ofDay, ofPiece } from "../../parts/standing";
import { Tag } from "../../parts/Tag";
import { Money } from "./Money";
import { RunUp } from "./RunUp";
import { WhatIf } from "./WhatIf";

/** The shooting days in order and what each needs. */
export default function Plan() {
  const plan = useRead({ queryKey: ["plan"], queryFn: () => ask(api.GET("/api/plan")) });
  const lead = useMe().data?.person?.role === "lead";
  const [params, setParams] = useSearchParams();
  const leaves = lead ? (["Run-up", "What if", "Money"] as const) : (["Run-up", "What if"] as const);
  const leaf = leaves.find((l) => l === params.get("leaf")) ?? "Run-up";
  if (!plan.data) return null;
  return (
    <Box>
      <RoomHead title="The run-up" aside={`${plan.data.length} shooting days ahead`} />
      <Box mb="14px">
        <Leaves of="the plan" list={leaves} leaf={leaf} choose={(l) => setParams(l === "Run-up" ? {} : { leaf: l }, { replace: true })} />
      </Box>
      {leaf === "What if" && <WhatIf />}
      {leaf === "Money" && <Money />}
      {leaf === "Run-up" && <Days days={plan.data} />}
    </Box>
  );
}

function Days({ days }: { days: Schemas["PlanDay"][] }) {
  const standing = useStanding();
  return (
    <Box>
      {days.length === 0 && <Teach>No shooting day is known yet. Add the days in a piece's brief; what each needs then stands here.</Teach>}
      {days.length > 0 && <RunUp />}
      {days.map((d) => {
        const st = standing.data?.find((s) => s.id === d.id);
        const whole = ofDay(st);
        return (
          <Flex
            key={d.id}
            data-day={d.id}
            gap={{ base: "6px 22px", md: "22px" }}
            wrap={{ base: "wrap", md: "nowrap" }}
            py="10px"
            borderBottomWidth="1px"
            borderColor="line"
            align="start"
          >
            <Box w="150px">
              <Box fontWeight="700" fontSize="17px">
                {day(d.day)}
              </Box>
              <Box color="muted">in {d.working_days} working days</Box>
              {whole.text && (
                <Box color={!whole.bad ? "muted" : (st?.late_min ?? 0) > 0 ? "rust" : "gorse"} fontWeight={whole.bad ? 700 : 400}>
                  {whole.text}
                </Box>
              )}
            </Box>
            <Box w="210px">
              {d.place}
              <Box color="muted">
                {d.temp_c} °C, {Math.round(d.rh * 100)} % RH, {d.light}
              </Box>
            </Box>
            <Flex flex={{ base: "1 1 100%", md: "1" }} gap="10px 22px" wrap="wrap">
              {d.needs.map((n) => {
                const piece = ofPiece(st, n.piece, n.words);
                return (
                  <Flex key={n.piece} align="center" gap="8px">
                    <Dot family={n.family} />
                    <Tag code={n.piece} to={`/piece/${n.piece}`} />
                    <Box>
                      {n.good}/{n.wanted}{" "}
                      <Box as="span" color={piece.bad ? "gorse" : "muted"} fontWeight={piece.bad ? 700 : 400}>
                        {piece.text}
                      </Box>
                    </Box>
                  </Flex>
                );
              })}
              {d.needs.length === 0 && <Box color="muted">nothing is worn</Box>}
            </Flex>
            <Box w="110px" textAlign="right" color="muted">
              <Box as="span" display="block">
                <Link to={`/handover?day=${d.id}`}>
                  <u>pack a kit</u>
                </Link>
              </Box>
              {d.kits > 0 ? `${d.kits} ${d.kits === 1 ? "kit" : "kits"}, ${d.received} received` : "no kit yet"}
            </Box>
          </Flex>
        );
      })}
    </Box>
  );
}
