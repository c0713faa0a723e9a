import { Box, Flex } from "@chakra-ui/react";
import { Plain } from "../parts/controls";
import { clockTime } from "../parts/format";
import { useLineDown } from "./line";
import { outbox, useWaiting } from "./outbox";

/** Says that the server does not answer, and what waits for it. */
export function Line({ person }: { person: number }) {
  const down = useLineDown();
  const waiting = useWaiting(person);
  if (!down && waiting.length === 0) return null;
  return (
    <Box bg="gorseSoft" borderBottomWidth="1.5px" borderColor="ink" px="28px" py="8px" role="status" data-testid="line">
      {down && <b>The server cannot answer since {clockTime(new Date(down).toISOString())}. What you see is from before. </b>}
      {waiting.some((w) => !w.refused) && (
        <span>
          Waiting to be sent, once:{" "}
          {waiting
            .filter((w) => !w.refused)
            .map((w) => w.words)
            .join("; ")}
          . It is kept on this device.
        </span>
      )}
      {waiting
        .filter((w) => w.refused)
        .map((w) => (
          <Flex key={w.key} gap="12px" align="center">
            <Box flex="1">
              <b>{w.words}</b> was not taken: {w.refused}
            </Box>
            <Plain h="32px" onClick={() => outbox.drop(w.key)}>
              I have seen it
            </Plain>
          </Flex>
        ))}
    </Box>
  );
}
