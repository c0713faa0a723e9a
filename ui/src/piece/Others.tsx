import { Box } from "@chakra-ui/react";
import { api, ask } from "../app/api";
import { useRead } from "../app/read";
import { dayTime } from "../parts/format";

/** The method that was chosen in the brief, and the height it was ranked for. */
export function useChosen(code: string) {
  const advice = useRead({
    queryKey: ["advice", code, {}],
    queryFn: () => ask(api.POST("/api/pieces/{code}/advice", { params: { path: { code } }, body: {} })),
    staleTime: 60_000,
  });
  return advice.data && { method: advice.data.choices?.[0]?.method, height: advice.data.asked.height_mm };
}

/** Who else draws on this section; a click shows how theirs differs. */
export function Others({ code, names, look }: { code: string; names: string[]; look: (key: string) => void }) {
  const versions = useRead({
    queryKey: ["section", code, "versions"],
    queryFn: () => ask(api.GET("/api/pieces/{code}/section/versions", { params: { path: { code } } })),
    enabled: names.length > 0,
  });
  if (names.length === 0) return null;
  return (
    <Box fontSize="14px" mb="4px" h="21px" whiteSpace="nowrap" overflow="hidden" textOverflow="ellipsis" data-testid="others">
      {names.map((name) => {
        const draft = versions.data?.find((v) => v.by === name && v.key.startsWith("draft:"));
        return (
          <Box
            as="button"
            key={name}
            me="12px"
            textDecoration="underline"
            color="heather"
            {...{ disabled: !draft }}
            onClick={() => draft && look(draft.key)}
          >
            {name} has a draft too{draft && `, last changed ${dayTime(draft.at)}`}
          </Box>
        );
      })}
    </Box>
  );
}
