import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Entry, Heading, Plain } from "../parts/controls";
import { Sheet } from "./Sheet";
import { type Question, useQuestion } from "./why";

/** Asks why an act goes on in spite of what speaks against it. Mounted once, for every act of every room. */
export function SayWhy() {
  const question = useQuestion();
  return question ? <Asked key={question.detail} question={question} /> : null;
}

function Asked({ question }: { question: Question }) {
  const [why, setWhy] = useState("");
  const { finding } = question;
  const form = useRef<HTMLFormElement>(null);
  // Into the words at once: until then the keys of the room below would act.
  useEffect(() => form.current?.querySelector("textarea")?.focus(), []);
  const leave = () => question.answer(undefined);
  return (
    <Sheet label="Why go on?" close={leave} width="560px">
      <form
        ref={form}
        data-testid="say-why"
        onSubmit={(e) => {
          e.preventDefault();
          if (why.trim()) question.answer(why.trim());
        }}
      >
        <Heading>{finding?.severity === "stop" ? "Held back: a lead may sign it" : "Something speaks against it"}</Heading>
        <Box mb="14px">{question.detail}</Box>
        {finding?.settles && (
          <Box mb="14px" color="muted">
            What would settle it: {finding.settles}
          </Box>
        )}
        <Entry label="Why you go on" name="because" value={why} set={setWhy} rows={2} hint="It is kept with what you do." />
        <Flex gap="10px" mt="14px">
          <Plain type="submit" h="44px" disabled={!why.trim()}>
            Go on
          </Plain>
          <Plain type="button" h="44px" onClick={leave}>
            Leave it
          </Plain>
        </Flex>
      </form>
    </Sheet>
  );
}
