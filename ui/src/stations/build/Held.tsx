import { Flex, Input } from "@chakra-ui/react";
import { useState } from "react";
import { Plain } from "../../parts/controls";
import { Notice } from "../../parts/Notice";

/** What keeps a hand back, and the way on with a reason. */
export function Held({
  why,
  early,
  all,
  busy,
  price,
  children,
}: {
  why: string;
  /** What going on early costs. */
  price?: React.ReactNode;
  /** What going on is called, before and after the reason is asked for. */
  early: string;
  all: (reason: string) => void;
  busy: boolean;
  children?: React.ReactNode;
}) {
  const [asked, setAsked] = useState(false);
  const [reason, setReason] = useState("");
  return (
    <>
      <Notice mb="12px" data-testid="held-back">
        <b>Held back.</b> {why} {price}
      </Notice>
      {asked ? (
        <Flex gap="10px" align="center" wrap="wrap">
          <Input
            h="44px"
            px="12px"
            flex="1 1 220px"
            bg="sheet"
            borderColor="line"
            placeholder="why before its time"
            aria-label="Why before its time"
            maxLength={300}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
          />
          <Plain h="44px" flexShrink="0" disabled={busy} onClick={() => all(reason)}>
            {early} all the same
          </Plain>
        </Flex>
      ) : (
        <Flex gap="10px" wrap="wrap">
          {children}
          <Plain onClick={() => setAsked(true)}>{early} early</Plain>
        </Flex>
      )}
    </>
  );
}
