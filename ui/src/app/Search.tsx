import { Box, Flex, Input } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { Tag } from "../parts/Tag";
import { api, ask } from "./api";
import { useRead } from "./read";
import { Sheet } from "./Sheet";

/** Finds anything: a code, a performer, a lot, a place. */
export function Search({ close }: { close: () => void }) {
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const hits = useRead({
    queryKey: ["search", words],
    enabled: words.trim() !== "",
    queryFn: () => ask(api.GET("/api/search", { params: { query: { words } } })),
  });
  const list = hits.data ?? [];
  const go = (i: number) => {
    if (!list[i]) return;
    navigate(list[i].link);
    close();
  };
  return (
    <Sheet label="Find anything" close={close}>
      <Input
        ref={field}
        value={words}
        h="48px"
        fontSize="18px"
        bg="sheet"
        borderColor="ink"
        borderWidth="1.5px"
        px="14px"
        placeholder="A code, a name, a lot, a place"
        aria-label="Find anything"
        onChange={(e) => {
          setWords(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(at + 1, list.length - 1));
          if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          if (e.key === "Enter") go(at);
          if (e.key === "Escape") close();
        }}
      />
      <Box role="listbox" mt="10px" maxH="380px" overflowY="auto">
        {list.map((h, i) => (
          <Flex
            as="button"
            role="option"
            aria-selected={i === at}
            key={`${h.kind}${h.code}${h.link}`}
            w="100%"
            gap="14px"
            align="center"
            textAlign="left"
            px="10px"
            py="7px"
            borderRadius="8px"
            bg={i === at ? "heatherSoft" : "transparent"}
            onClick={() => go(i)}
          >
            <Box w="92px" layerStyle="small">
              {h.kind}
            </Box>
            {h.code && <Tag code={h.code} />}
            <Box flex="1">{h.text}</Box>
          </Flex>
        ))}
        {hits.isSuccess && list.length === 0 && (
          <Box px="10px" color="muted">
            Nothing of that name is here.
          </Box>
        )}
      </Box>
    </Sheet>
  );
}
