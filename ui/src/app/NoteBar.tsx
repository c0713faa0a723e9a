import { Box, Flex, Input } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Go, Pick, Plain, Refusal } from "../parts/controls";
import { Tag } from "../parts/Tag";
import { useAct } from "./act";
import { outbox } from "./outbox";
import { useMe, usePieces } from "./reads";
import { Sheet } from "./Sheet";

const taps = ["clay checked", "release put on", "coat put on", "powdered", "trimmed", "seam filled", "photographed", "cleaned up"];

/** Notes what was just done on the piece in hand: one tap or one line. */
export function NoteBar({ code, close }: { code: string | undefined; close: () => void }) {
  const pieces = usePieces();
  const me = useMe();
  const [piece, setPiece] = useState(code ?? "");
  const [line, setLine] = useState("");
  const [key] = useState(() => crypto.randomUUID());
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const note = useAct(async (words: string) => {
    await outbox.add({
      key,
      person: me.data?.person?.id ?? 0,
      path: `/api/pieces/${encodeURIComponent(piece)}/notes`,
      body: { words },
      words: `“${words}” on ${piece}`,
      about: piece,
    });
    close();
  });
  const chosen = piece || pieces.data?.[0]?.code || "";
  useEffect(() => setPiece(chosen), [chosen]);
  return (
    <Sheet label="Note what was just done" close={close}>
      <Flex gap="12px" align="center" mb="12px">
        <Tag code={chosen} />
        <Box as="label" layerStyle="note">
          on{" "}
          <Pick label="Piece in hand" value={chosen} set={setPiece} width="150px">
            {pieces.data?.map((p) => (
              <option key={p.code} value={p.code}>
                {p.code} {p.name}
              </option>
            ))}
          </Pick>
        </Box>
      </Flex>
      <Flex wrap="wrap" gap="8px" mb="14px">
        {taps.map((t) => (
          <Plain key={t} h="44px" disabled={note.busy} onClick={() => void note.run(t)}>
            {t}
          </Plain>
        ))}
      </Flex>
      <Flex gap="10px">
        <Input
          ref={field}
          h="48px"
          px="14px"
          bg="sheet"
          borderColor="ink"
          borderWidth="1.5px"
          placeholder="or in your own words"
          aria-label="What was done"
          value={line}
          onChange={(e) => setLine(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && void note.run(line)}
        />
        <Go act={() => void note.run(line)} disabled={note.busy}>
          Note it
        </Go>
      </Flex>
      <Box mt="10px">
        <Refusal problem={note.problem} />
      </Box>
    </Sheet>
  );
}
