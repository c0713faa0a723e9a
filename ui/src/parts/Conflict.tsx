import { Box, Flex } from "@chakra-ui/react";
import type { Problem } from "../app/api";
import { Plain, Refusal } from "./controls";

interface Props<D> {
  problem?: Problem;
  /** Keeps one's own over the other, or takes the other. */
  settle: (mine: boolean) => unknown;
  /** A version in a few words. */
  say: (doc: D) => string;
}

/** What stood in the way of a draft; where somebody agreed another version meanwhile, both are told and either may be kept. */
export function Conflict<D>({ problem, settle, say }: Props<D>) {
  if (!problem) return null;
  const both = problem.status === 409 ? (problem.data as { yours?: D; theirs?: D; who?: string } | undefined) : undefined;
  return (
    <Refusal problem={problem}>
      {both?.yours && both.theirs && (
        <>
          <Box fontSize="14px">
            Yours: {say(both.yours)}. The other, {both.who}: {say(both.theirs)}.
          </Box>
          <Flex gap="10px">
            <Plain h="34px" onClick={() => void settle(true)}>
              Keep mine over it
            </Plain>
            <Plain h="34px" onClick={() => void settle(false)}>
              Take the other
            </Plain>
          </Flex>
        </>
      )}
    </Refusal>
  );
}
