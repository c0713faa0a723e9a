import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import type { Problem, Schemas } from "../../app/api";
import { grams } from "../../parts/format";

interface Props {
  sheet: Schemas["MixSheet"];
  chosen: Record<string, string>;
  choose: (ingredient: string, code: string) => void;
  problem?: Problem;
}

/** The lines of a sheet in the order of pouring, each with its lot and why that one. */
export function Lots({ sheet, chosen, choose }: Props) {
  const [open, setOpen] = useState<string>();
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
        {sheet.lines.map((l) => (
          <Box as="tr" key={l.ingredient} borderTopWidth="1px" borderColor="line" verticalAlign="top">
            <Box as="td" py="5px">
              {l.name}
              {l.let_down && (
                <Box layerStyle="small" color="gorse">
                  {l.let_down}
                </Box>
              )}
            </Box>
            <Box as="td" textAlign="right" fontWeight="600" whiteSpace="nowrap">
              {grams(l.grams)}
            </Box>
            <Box as="td" ps="18px">
              <Flex gap="10px" align="baseline">
                <Box fontWeight="600" whiteSpace="nowrap" color={l.lot ? "ink" : "rust"}>
                  {l.lot || "none"}
                </Box>
                {l.ingredient !== "B" && (
                  <Box
                    as="button"
                    color="muted"
                    textDecoration="underline"
                    whiteSpace="nowrap"
                    aria-expanded={open === l.ingredient}
                    onClick={() => setOpen(open === l.ingredient ? undefined : l.ingredient)}
                  >
                    {chosen[l.ingredient] ? "chosen by hand" : "first to expire"}
                  </Box>
                )}
              </Flex>
              {open === l.ingredient &&
                l.choice.options.map((o) => (
                  <Flex key={o.code} gap="10px" fontSize="14px" data-lot={o.code}>
                    <Box w="64px">{o.code}</Box>
                    {o.refused ? (
                      <Box color="rust">{o.refused}</Box>
                    ) : (
                      <Box as="button" textDecoration="underline" onClick={() => choose(l.ingredient, o.code)}>
                        {grams(o.usable_g)}, good for {o.days_left} days
                      </Box>
                    )}
                  </Flex>
                ))}
            </Box>
          </Box>
        ))}
      </tbody>
    </Box>
  );
}
