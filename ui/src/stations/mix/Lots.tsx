import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Problem, Schemas } from "../../app/api";
import { FewWords, WrongAt } from "../../parts/controls";
import { grams } from "../../parts/format";
import type { TakenLot } from "./useOrder";

interface Props {
  sheet: Schemas["MixSheet"];
  chosen: Record<string, TakenLot>;
  choose: (line: string, taken: TakenLot) => void;
  problem?: Problem;
}

/** The lines of a sheet in the order of pouring, each with what it is of the recipe, its lot, and why that one. */
export function Lots({ sheet, chosen, choose, problem }: Props) {
  const [open, setOpen] = useState<string>();
  // Both parts of a kit come from one pair: the first of them is asked.
  const leads = new Map<string, string>();
  for (const l of sheet.lines) if (!leads.has(l.material)) leads.set(l.material, l.ingredient);
  return (
    <Box as="table" w="100%">
      <thead>
        <Box as="tr" textAlign="left" layerStyle="small">
          <th>pour in this order</th>
          <Box as="th" textAlign="right">
            grams
          </Box>
          <Box as="th" ps="18px">
            lot
          </Box>
        </Box>
      </thead>
      <tbody>
        {sheet.lines.map((l) => {
          const lead = leads.get(l.material) === l.ingredient;
          const taken = chosen[l.ingredient];
          const first = l.choice.options?.find((o) => !o.refused)?.code;
          return (
            <Box as="tr" key={l.ingredient} borderTopWidth="1px" borderColor="line" verticalAlign="top" data-line={l.ingredient}>
              <Box as="td" py="5px">
                {l.name}
                <Box layerStyle="small">{l.of}</Box>
                {l.let_down && (
                  <Box layerStyle="small" color="gorse">
                    {l.let_down} {l.let_down_recipe && <Link to={`/mix?recipe=${l.let_down_recipe}`}>Mix a let-down to keep.</Link>}
                  </Box>
                )}
              </Box>
              <Box as="td" textAlign="right" fontWeight="600" whiteSpace="nowrap" py="5px">
                {l.top_up ? "as told" : grams(l.grams)}
              </Box>
              <Box as="td" ps="18px" py="5px">
                {l.tap ? (
                  <Box color="muted">from the tap</Box>
                ) : (
                  <Flex gap="10px" align="baseline" wrap="wrap">
                    <Box fontWeight="600" whiteSpace="nowrap" color={l.lot ? "ink" : "rust"}>
                      {l.lot || "none"}
                    </Box>
                    {lead && (
                      <Box
                        as="button"
                        color="muted"
                        textDecoration="underline"
                        whiteSpace="nowrap"
                        aria-expanded={open === l.ingredient}
                        onClick={() => setOpen(open === l.ingredient ? undefined : l.ingredient)}
                      >
                        {taken ? "chosen by hand" : "first to expire"}
                      </Box>
                    )}
                  </Flex>
                )}
                {open === l.ingredient &&
                  l.choice.options?.map((o) => (
                    <Flex key={o.code} gap="10px" fontSize="14px" data-lot={o.code}>
                      <Box w="64px">{o.code}</Box>
                      {o.refused ? (
                        <Box color="rust">{o.refused}</Box>
                      ) : (
                        <Box as="button" textDecoration="underline" onClick={() => choose(l.ingredient, { lot: o.code, why: taken?.why ?? "" })}>
                          {grams(o.usable_g)}, good for {o.days_left} days
                        </Box>
                      )}
                    </Flex>
                  ))}
                {taken && l.lot && first && l.lot !== first && (
                  <FewWords
                    label={`Why not ${first}`}
                    placeholder={`why not ${first}, which runs out first`}
                    value={taken.why}
                    set={(why) => choose(l.ingredient, { ...taken, why })}
                    max={200}
                  />
                )}
                <WrongAt problem={problem} name={`lots.${l.ingredient}`} />
              </Box>
            </Box>
          );
        })}
      </tbody>
    </Box>
  );
}
