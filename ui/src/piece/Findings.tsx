import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../app/api";
import { Heading } from "../parts/controls";
import { Settle } from "./Settle";

type Finding = Schemas["CraftRulesFinding"];

const said: Record<string, string> = { never: "never", stop: "stop", warn: "mind", tip: "tip" };
const tone: Record<string, string> = { never: "rust", stop: "rust", warn: "gorse", tip: "yew" };
const soft: Record<string, string> = { never: "rustSoft", stop: "rustSoft", warn: "gorseSoft", tip: "yewSoft" };

/** Names a finding at its place, as the server does. */
export const keyOf = (f: Finding) => `${f.id}@${placeOf(f)}`;
export const placeOf = (f: Finding) => [f.cut ?? "", f.below ?? "", f.above ?? ""].join("|").replace(/^\|+|\|+$/g, "");

interface Props {
  findings: Finding[];
  open?: number;
  setOpen: (i: number | undefined) => void;
  /** A lead's reasons for going on in spite of a stop, by finding and place. */
  reasons: Record<string, string>;
  setReason?: (key: string, reason: string) => void;
  products: Map<string, Schemas["CraftMaterialProduct"]>;
}

/** The knots in words: reason, remedy, and what would settle it. */
export function Findings({ findings, open, setOpen, reasons, setReason, products }: Props) {
  const [all, setAll] = useState(false);
  if (findings.length === 0) {
    return (
      <Box>
        <Heading aside={<Link to="/rules">all rules</Link>}>No knots</Heading>
        <Box color="muted">Nothing in the rule book speaks against this build-up.</Box>
      </Box>
    );
  }
  const shown = all ? findings : findings.slice(0, 4);
  return (
    <Box>
      <Heading aside={<Link to="/rules">all rules</Link>}>{findings.length === 1 ? "One knot" : `${findings.length} knots`}</Heading>
      {shown.map((f, i) => (
        <Flex key={keyOf(f) + f.reason} gap="12px" py="5px" data-finding={f.id}>
          <Box pt="4px">
            <Box w="15px" h="15px" transform="rotate(45deg)" bg={soft[f.severity]} borderWidth="1.5px" borderColor={tone[f.severity]} />
          </Box>
          <Box flex="1">
            <Box as="button" textAlign="left" aria-expanded={open === i} onClick={() => setOpen(open === i ? undefined : i)}>
              <b>{i + 1}</b>{" "}
              <Box as="span" color={tone[f.severity]} fontWeight="600">
                {said[f.severity]}
              </Box>{" "}
              {f.reason}
            </Box>
            {open === i && (
              <Box layerStyle="note" mt="3px">
                {f.remedy} {f.settles && `Settled by: ${f.settles}`} ({f.id})
                {(f.instead?.length ?? 0) > 0 && (
                  <Box mt="3px">
                    Take instead, no known conflict:
                    <Box as="ul" ps="16px">
                      {f.instead?.map((slug, k) => (
                        <Box as="li" key={slug}>
                          {products.get(slug)?.name ?? slug}
                          {f.changes?.[k] && <>: {f.changes[k]}</>}
                        </Box>
                      ))}
                    </Box>
                  </Box>
                )}
              </Box>
            )}
            {open === i && f.product && f.substance && <Settle product={f.product} substance={f.substance} />}
            {f.severity === "stop" && setReason && (
              <Input
                size="sm"
                mt="4px"
                px="10px"
                bg="sheet"
                borderColor="line"
                aria-label={`Reason to go on in spite of ${f.id}`}
                placeholder="a lead's reason to go on"
                value={reasons[keyOf(f)] ?? ""}
                onChange={(e) => setReason(keyOf(f), e.target.value)}
              />
            )}
          </Box>
        </Flex>
      ))}
      {findings.length > 4 && (
        <Box as="button" color="muted" textDecoration="underline" onClick={() => setAll(!all)}>
          {all ? "fewer" : `all ${findings.length}`}
        </Box>
      )}
    </Box>
  );
}
