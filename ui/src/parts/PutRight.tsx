import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../app/act";
import { FewWords, Plain, Refusal } from "./controls";

interface Props {
  /** What it is called before it is opened: take the verdict back. */
  label: string;
  /** What does it, once the reason is there. */
  act: string;
  run: (reason: string) => Promise<unknown>;
}

/** Takes something back that was a mistake, with the reason. The server says what depends on it. */
export function PutRight({ label, act, run }: Props) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const go = useAct(async () => {
    await run(reason);
    setOpen(false);
    setReason("");
  });
  if (!open)
    return (
      <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => setOpen(true)}>
        {label}
      </Box>
    );
  return (
    <Box>
      <Flex gap="8px" wrap="wrap">
        <FewWords label="What was wrong" placeholder="what was wrong" value={reason} set={setReason} max={200} />
        <Plain h="34px" disabled={go.busy || !reason.trim()} onClick={() => void go.run()}>
          {act}
        </Plain>
        <Plain h="34px" onClick={() => setOpen(false)}>
          Leave it
        </Plain>
      </Flex>
      <Refusal problem={go.problem} />
    </Box>
  );
}
