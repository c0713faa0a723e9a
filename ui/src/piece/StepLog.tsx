import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../app/act";
import { api, ask, type Schemas } from "../app/api";
import { Heading, Plain, Refusal } from "../parts/controls";
import { clockTime, day, duration } from "../parts/format";

/** What happened to a piece, newest first, with gaps shown and steps that can be completed later. */
export function StepLog({ piece }: { piece: Schemas["PieceView"] }) {
  const [completing, setCompleting] = useState<number>();
  const [words, setWords] = useState("");
  const complete = useAct(async (id: number) => {
    await ask(
      api.POST("/api/pieces/{code}/notes", { params: { path: { code: piece.code } }, body: { words, key: crypto.randomUUID(), completes: id } }),
    );
    setCompleting(undefined);
    setWords("");
  });
  const move = useAct((away: boolean) => ask(api.POST("/api/pieces/{code}/away", { params: { path: { code: piece.code } }, body: { away } })));
  const rows = [...(piece.journal ?? [])].reverse();
  return (
    <Box h="100%" overflowY="auto" pe="10px">
      <Heading aside="N notes a step">What happened to {piece.code}</Heading>
      <Flex align="center" gap="14px" layerStyle="note" mb="4px">
        {piece.put_away_at ? `Put away ${day(piece.put_away_at)}: it stands on no screen of the work in hand.` : "In work."}
        <Plain h="30px" onClick={() => void move.run(!piece.put_away_at)}>
          {piece.put_away_at ? "Bring it back" : "Put it away"}
        </Plain>
      </Flex>
      <Refusal problem={complete.problem ?? move.problem} />
      {rows.map((r, i) => (
        <Box key={r.id}>
          {(i === 0 || day(rows[i - 1].at) !== day(r.at)) && (
            <Box fontWeight="600" mt="10px">
              {day(r.at)}
            </Box>
          )}
          <Flex gap="14px" py="3px" align="baseline" borderBottomWidth="1px" borderColor="line">
            <Box w="48px" color="muted">
              {clockTime(r.at)}
            </Box>
            <Box flex="1">
              <b>{r.code !== piece.code ? `${r.code} ` : ""}</b>
              {r.act === "step" ? "" : `${r.act}${r.words ? ": " : ""}`}
              {r.words}
              {r.completed?.map((c) => (
                <Box key={c} color="muted">
                  later: {c}
                </Box>
              ))}
              {completing === r.id && (
                <Flex gap="8px" my="4px">
                  <Input
                    h="36px"
                    px="10px"
                    bg="sheet"
                    autoFocus
                    value={words}
                    aria-label="What else"
                    onChange={(e) => setWords(e.target.value)}
                    onKeyDown={(e) => e.key === "Enter" && void complete.run(r.id)}
                  />
                  <Plain h="36px" onClick={() => void complete.run(r.id)}>
                    Add
                  </Plain>
                </Flex>
              )}
            </Box>
            <Box color="muted">{r.who}</Box>
            {r.act === "step" && completing !== r.id && (
              <Box as="button" color="muted" textDecoration="underline" onClick={() => setCompleting(r.id)}>
                complete
              </Box>
            )}
          </Flex>
          {r.gap_s ? (
            <Box color="gorse" fontSize="14px" py="2px" ps="62px">
              nothing noted for {duration(r.gap_s)} before this
            </Box>
          ) : null}
        </Box>
      ))}
    </Box>
  );
}
