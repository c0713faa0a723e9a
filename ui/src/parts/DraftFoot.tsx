import { Box } from "@chakra-ui/react";
import { useState } from "react";
import type { Problem, Schemas } from "../app/api";
import { useMe } from "../app/reads";
import { Go, Plain } from "./controls";

/** What a foot needs of a person's draft. */
interface Drafted {
  view?: { state: Schemas["DocumentState"] };
  waiting: boolean;
  problem?: Problem;
  touch: () => unknown;
  agree: () => Promise<unknown>;
  undo: () => Promise<unknown>;
  redo: () => Promise<unknown>;
  drop: () => Promise<unknown>;
}

/** Agreeing a document, undo and redo; an apprentice drafts, others agree. */
export function DraftFoot({
  draft,
  agree,
  empty,
  wrong,
  small,
}: {
  draft: Drafted;
  agree: string;
  /** There is nothing in it yet. */
  empty: boolean;
  /** It cannot be meant as it stands. */
  wrong: boolean;
  small?: boolean;
}) {
  const { view } = draft;
  const me = useMe();
  const [busy, setBusy] = useState(false);
  if (!view) return null;
  const open = !empty && (view.state.drafted || draft.waiting || view.state.latest === 0);
  return (
    <>
      {open && me.data?.person?.role === "apprentice" && <Box color="muted">A fabricator or a lead agrees it.</Box>}
      {open && me.data?.person?.role !== "apprentice" && (
        <Go
          disabled={busy || wrong}
          {...(small ? { h: "40px", px: "20px", fontSize: "15.5px" } : {})}
          act={async () => {
            setBusy(true);
            if (!view.state.drafted && !draft.waiting) draft.touch();
            await draft.agree();
            setBusy(false);
          }}
        >
          {agree}
        </Go>
      )}
      <Plain h="34px" disabled={view.state.step === 0 && !draft.problem} onClick={() => void draft.undo()}>
        Undo
      </Plain>
      <Plain h="34px" disabled={view.state.last <= view.state.step} onClick={() => void draft.redo()}>
        Redo
      </Plain>
      {view.state.drafted && view.state.latest > 0 && (
        <Plain h="34px" onClick={() => void draft.drop()}>
          Drop the draft
        </Plain>
      )}
    </>
  );
}
