import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Cap, Heading, Plain } from "../parts/controls";
import { useKeys } from "./keys";
import { Sheet } from "./Sheet";

/** The keys that work on this screen, and how to switch them off. */
export function KeysHelp({ close }: { close: () => void }) {
  const { on, setOn, list } = useKeys();
  const [sound, setSound] = useState(localStorage.getItem("yewmoor.sound") !== "off");
  return (
    <Sheet label="Keys" close={close}>
      <Heading>Keys on this screen</Heading>
      <Grid templateColumns="1fr 1fr" gap="4px 24px" mb="14px">
        {list().map(([key, label]) => (
          <Flex key={key} gap="10px" align="center">
            <Box minW="84px">
              <Cap>{key}</Cap>
            </Box>
            {label}
          </Flex>
        ))}
      </Grid>
      <Box color="muted" mb="14px">
        They act while no field or button has the focus, and never from the burst of a scanner.
      </Box>
      <Flex gap="10px">
        <Plain onClick={() => setOn(!on)}>{on ? "Switch single keys off" : "Switch single keys on"}</Plain>
        <Plain
          onClick={() => {
            localStorage.setItem("yewmoor.sound", sound ? "off" : "on");
            setSound(!sound);
          }}
        >
          {sound ? "Switch the bell off" : "Switch the bell on"}
        </Plain>
        <Plain onClick={close}>Close</Plain>
      </Flex>
    </Sheet>
  );
}
