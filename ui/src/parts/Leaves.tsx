import { Box, Flex } from "@chakra-ui/react";

interface Props<T extends string> {
  /** Whose leaves they are, for who hears it. */
  of: string;
  list: readonly T[];
  leaf: T;
  choose: (l: T) => void;
}

/** Leaves of one thing, one shown at a time; arrow keys walk them. */
export function Leaves<T extends string>({ of, list, leaf, choose }: Props<T>) {
  return (
    <Flex role="tablist" aria-label={`Leaves of ${of}`} gap="2px" borderBottomWidth="1.5px" borderColor="ink" wrap="wrap">
      {list.map((l, i) => (
        <Box
          key={l}
          as="button"
          role="tab"
          aria-selected={l === leaf}
          tabIndex={l === leaf ? 0 : -1}
          px="8px"
          py="4px"
          fontSize="14px"
          fontWeight={l === leaf ? 700 : 400}
          bg={l === leaf ? "sheet" : "transparent"}
          borderWidth={l === leaf ? "1.5px" : "0"}
          borderBottomWidth="0"
          borderColor="ink"
          borderRadius="3px 12px 0 0"
          mb="-1.5px"
          onClick={() => choose(l)}
          onKeyDown={(e) => {
            const by = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
            if (!by) return;
            e.stopPropagation();
            const next = (i + by + list.length) % list.length;
            choose(list[next]);
            (e.currentTarget.parentElement?.children[next] as HTMLElement | undefined)?.focus();
          }}
        >
          {l}
        </Box>
      ))}
    </Flex>
  );
}
