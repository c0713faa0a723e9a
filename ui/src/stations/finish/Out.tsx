import { Box } from "@chakra-ui/react";

/** Takes one row of a plan's list out; undo brings it back. */
export function Out({ act }: { act: () => void }) {
  return (
    <Box as="button" textDecoration="underline" fontSize="14px" onClick={act}>
      out
    </Box>
  );
}
