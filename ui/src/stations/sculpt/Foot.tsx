import { Box, Flex } from "@chakra-ui/react";
import { Conflict } from "../../parts/Conflict";
import { DraftFoot } from "../../parts/DraftFoot";
import type { Both, Looked, TextureDraft } from "./useTexture";

/** Agreeing, undo and redo; and what was refused. */
export function Foot({ draft, wrong, empty }: { draft: TextureDraft; wrong?: { message: string }; empty: boolean }) {
  return (
    <>
      <DraftFoot draft={draft} agree="Agree the plan" empty={empty} wrong={!!wrong} small />
      {wrong && (
        <Box color="rust" fontWeight="600" fontSize="14.5px" lineHeight="1.25" role="alert">
          {wrong.message}
        </Box>
      )}
    </>
  );
}

/** Two versions of one plan, to keep either. */
export function Conflicted({ draft }: { draft: TextureDraft }) {
  if (draft.problem?.status !== 409) return null;
  return (
    <Conflict<Both["yours"]>
      problem={draft.problem}
      settle={draft.settle}
      say={(doc) => doc.layers.map((l) => l.name || l.kind).join(", ") || "no texture"}
    />
  );
}

/** What the relief is doing just now. */
export function Status({ looked, empty }: { looked: Looked; empty: boolean }) {
  const words = empty ? "No texture yet." : looked.busy === "fine" ? "sharpening …" : looked.busy === "coarse" ? "…" : "";
  if (!words) return null;
  return (
    <Flex position="absolute" left="10px" top="8px" gap="10px" align="center" color="#1d1a17" fontSize="14px" role="status">
      {words}
      {looked.busy === "fine" && (
        <Box as="button" textDecoration="underline" onClick={looked.stop}>
          stop
        </Box>
      )}
    </Flex>
  );
}
