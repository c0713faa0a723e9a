import { Flex } from "@chakra-ui/react";
import type { Schemas } from "../app/api";
import { Plain, Refusal } from "../parts/controls";
import type { KindFacts, Product } from "./kinds";
import { Refused } from "./Refused";
import { TwoVersions } from "./TwoVersions";
import type { Both, Drafted } from "./useSection";

interface Props {
  section: Drafted;
  products: Map<string, Product>;
  kinds: KindFacts[];
  add: (p: Product, kind: KindFacts) => void;
}

/** What the server said no to: a layer that may never be, somebody else's draft, or anything else. */
export function Objection({ section, products, kinds, add }: Props) {
  const { problem } = section;
  if (problem?.code === "never")
    return (
      <Refused
        finding={problem.data as Schemas["CraftRulesFinding"]}
        products={products}
        kinds={kinds}
        take={add}
        close={section.clearProblem}
        message={problem.message}
      />
    );
  return (
    <Refusal problem={problem}>
      {(problem?.code === "draft_moved" || problem?.code === "newer_agreed") && (
        <>
          {problem.data !== undefined && <TwoVersions both={problem.data as Both} products={products} />}
          <Flex gap="8px">
            <Plain h="34px" onClick={() => void section.carry(true)}>
              Keep mine
            </Plain>
            <Plain h="34px" onClick={() => void section.carry(false)}>
              Take the other
            </Plain>
          </Flex>
        </>
      )}
    </Refusal>
  );
}
