import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading, Pick } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { differences } from "./differences";
import type { BriefDraft } from "./useBrief";

/** The agreed versions of the brief, and what differs between any two of them or the draft. */
export function Versions({ code, draft }: { code: string; draft: BriefDraft }) {
  const versions = useRead({
    queryKey: ["brief versions", code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/brief/versions", { params: { path: { code } } })),
  });
  const [older, setOlder] = useState("");
  const [newer, setNewer] = useState("now");
  const list = versions.data ?? [];
  if (list.length === 0)
    return <Box color="muted">Nothing is agreed yet. Each time the brief is agreed, what it said then is kept here for good.</Box>;
  const doc = (name: string): Schemas["PieceBrief"] | undefined => (name === "now" ? draft.doc : list.find((v) => String(v.number) === name)?.doc);
  const from = older || String(list[Math.min(draft.view?.state.drafted ? 0 : 1, list.length - 1)].number);
  const [a, b] = [doc(from), doc(newer)];
  const found = a && b ? differences(a, b) : [];
  return (
    <Flex direction="column" gap="14px">
      <Box>
        <Heading>Agreed</Heading>
        {list.map((v) => (
          <Flex key={v.number} gap="12px" py="1px">
            <Box w="40px" fontWeight="700">
              §{v.number}
            </Box>
            <Box flex="1">{v.agreed_by}</Box>
            <Box color="muted">{dayTime(v.agreed_at)}</Box>
            {v.signed.length > 0 && <Box color="rust">{v.signed.map((s) => `${s.id}: ${s.reason} (${s.by})`).join("; ")}</Box>}
          </Flex>
        ))}
      </Box>
      <Box>
        <Heading
          aside={
            <Flex gap="6px" align="center">
              <Pick label="Older version" value={from} set={setOlder} width="92px">
                {list.map((v) => (
                  <option key={v.number} value={v.number}>
                    §{v.number}
                  </option>
                ))}
              </Pick>
              to
              <Pick label="Newer version" value={newer} set={setNewer} width="110px">
                <option value="now">as it is now</option>
                {list.map((v) => (
                  <option key={v.number} value={v.number}>
                    §{v.number}
                  </option>
                ))}
              </Pick>
            </Flex>
          }
        >
          What differs
        </Heading>
        {found.length === 0 && <Box color="muted">Nothing: both say the same.</Box>}
        {found.map((d) => (
          <Grid key={d.what} templateColumns="130px 1fr 1fr" gap="10px" py="4px" borderBottomWidth="1px" borderColor="line" lineHeight="1.35">
            <Box color="muted">{d.what}</Box>
            <Box textDecoration={d.before ? "line-through" : undefined} textDecorationColor="var(--chakra-colors-rust)">
              {d.before || "nothing"}
            </Box>
            <Box>{d.after || "nothing"}</Box>
          </Grid>
        ))}
      </Box>
    </Flex>
  );
}
