import { Box, Flex } from "@chakra-ui/react";
import { useNavigate } from "react-router";
import { useKey } from "../app/keys";
import { useOutlook } from "../app/reads";
import { Go, Plain } from "../parts/controls";
import type { Drafted } from "./useSection";

interface Props {
  code: string;
  section: Drafted;
  empty: boolean;
  agree: () => void;
  begin: () => void;
  add: () => void;
}

/** The next thing to do with the section, and the ways back. */
export function Acts({ code, section, empty, agree, begin, add }: Props) {
  const { state } = section;
  const before = !!state && state.step > 1;
  const after = !!state && state.last > state.step;
  useKey("Z", "undo", before ? () => void section.undo() : undefined);
  useKey("Y", "do again", after ? () => void section.redo() : undefined);
  if (!state) return null;
  return (
    <Flex gap="8px" wrap="wrap" align="center" pt="8px">
      {state.drafted ? (
        <>
          <Go act={agree}>Agree the section</Go>
          <Plain h="36px" disabled={!before} onClick={() => void section.undo()}>
            Undo
          </Plain>
          <Plain h="36px" disabled={!after} onClick={() => void section.redo()}>
            Again
          </Plain>
          <Plain h="36px" onClick={() => void section.drop()}>
            Drop the draft
          </Plain>
        </>
      ) : state.latest ? (
        <MakeIt code={code} />
      ) : empty ? (
        <Go act={begin}>Begin the section</Go>
      ) : (
        <Go act={add}>Add a layer</Go>
      )}
    </Flex>
  );
}

/** What comes after an agreed section: a mix, or a session in another way. */
function MakeIt({ code }: { code: string }) {
  const navigate = useNavigate();
  const outlook = useOutlook(code);
  if (!outlook.data) return null;
  return (
    <>
      {outlook.data.from_mix ? (
        <Go act={() => navigate(`/mix?piece=${code}`)}>Mix for it</Go>
      ) : (
        <Go act={() => navigate(`/build?piece=${code}`)}>Begin a session</Go>
      )}
      {outlook.data.days === 0 && <Box color="gorse">no shooting day to come asks for it</Box>}
    </>
  );
}
