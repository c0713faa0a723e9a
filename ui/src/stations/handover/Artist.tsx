import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Problem } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { day, dayTime } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { Tag } from "../../parts/Tag";
import { CopySheets } from "./CopySheets";
import { forgetLink, useReports } from "./useReports";

/** The makeup artist's page, made for a phone: what it is, sign for it, report back. */
export default function Artist() {
  const { token = "" } = useParams();
  const path = { params: { path: { token } } };
  const page = useRead({ queryKey: ["artist", token], queryFn: () => ask(api.GET("/api/artist/{token}", path)) });
  const ended = (page.error as Problem | null)?.code === "link_ended";
  useEffect(() => {
    if (ended) void forgetLink(token);
  }, [ended, token]);
  const [name, setName] = useState("");
  const sign = useAct(() => ask(api.POST("/api/artist/{token}/receipt", { ...path, body: { name } })));
  if (page.error && !page.data) {
    return (
      <Box p="24px" maxW="560px" mx="auto" fontSize="18px">
        <Box fontWeight="700" fontSize="24px" mb="10px">
          Yewmoor
        </Box>
        {(page.error as Problem).message}
      </Box>
    );
  }
  if (!page.data) return null;
  const a = page.data;
  return (
    <Box maxW="560px" mx="auto" px="18px" py="18px" fontSize="16.5px">
      <Flex align="center" gap="12px" mb="4px">
        <Tag code={a.kit} />
        <Box fontWeight="700" fontSize="20px">
          {a.production}
        </Box>
      </Flex>
      <Box color="muted" mb="14px">
        For {a.artist} · {day(a.day)}, {a.place}
        {a.note && <Box>{a.note}</Box>}
      </Box>
      {a.received_at ? (
        <Notice tone="good" mb="16px" data-testid="received">
          Received {dayTime(a.received_at)}, signed by <b>{a.signed_name}</b>.
        </Notice>
      ) : (
        <Box mb="18px">
          <Heading>Is it all there? Sign for it</Heading>
          <Box mb="8px">{a.copies.map((c) => c.code).join(", ")}</Box>
          <Entry label="Your name" name="name" value={name} set={setName} problem={sign.problem} />
          <Box mt="10px">
            <Go big w="100%" act={() => void sign.run()} disabled={sign.busy}>
              Received
            </Go>
          </Box>
          <Refusal problem={sign.problem} />
        </Box>
      )}
      <CopySheets copies={a.copies} cautions={a.cautions} />
      <Box my="16px">
        <a href={`/api/artist/${token}/sheet.pdf`}>The same as a sheet to print</a>
      </Box>
      <ReportBack token={token} />
      {a.reports.map((r) => (
        <Box key={r.at} color="muted" mt="8px">
          You wrote {dayTime(r.at)}: edge {r.edge}, colour {r.colour}, hold {r.hold} of 5. {r.words}
        </Box>
      ))}
    </Box>
  );
}

function ReportBack({ token }: { token: string }) {
  const [marks, setMarks] = useState({ edge: 0, colour: 0, hold: 0 });
  const [worn, setWorn] = useState("");
  const [words, setWords] = useState("");
  const [key, setKey] = useState(() => crypto.randomUUID());
  const { send, waiting } = useReports(token);
  const report = async () => {
    const sent = await send.run({ key, ...marks, worn_h: Number(worn) || 0, words });
    if (sent === undefined) return;
    setKey(crypto.randomUUID());
    setMarks({ edge: 0, colour: 0, hold: 0 });
    setWords("");
  };
  const complete = marks.edge > 0 && marks.colour > 0 && marks.hold > 0;
  return (
    <Box>
      <Heading>How did it do?</Heading>
      {(["edge", "colour", "hold"] as const).map((k) => (
        <Flex key={k} align="center" gap="8px" py="4px">
          <Box flex="1">{{ edge: "The edge vanished", colour: "The colour matched", hold: "It held" }[k]}</Box>
          {[1, 2, 3, 4, 5].map((n) => (
            <Box
              as="button"
              key={n}
              aria-label={`${k} ${n} of 5`}
              aria-pressed={marks[k] === n}
              w="46px"
              h="46px"
              borderRadius="full"
              borderWidth="1.5px"
              borderColor="ink"
              bg={n <= marks[k] ? "yew" : "transparent"}
              color={n <= marks[k] ? "onYew" : "ink"}
              onClick={() => setMarks({ ...marks, [k]: n })}
            >
              {n}
            </Box>
          ))}
        </Flex>
      ))}
      <Grid templateColumns="110px 1fr" gap="10px" mt="6px">
        <Entry label="Worn, hours" name="worn_h" value={worn} set={setWorn} problem={send.problem} />
        <Entry label="In your words" name="words" value={words} set={setWords} problem={send.problem} />
      </Grid>
      <Flex mt="10px">
        <Plain h="56px" disabled={!complete || send.busy} onClick={() => void report()}>
          {complete ? "Send it to the workshop" : "Give each a mark first"}
        </Plain>
      </Flex>
      <Refusal problem={send.problem} />
      {waiting.length > 0 && (
        <Notice mt="10px" role="status" data-testid="waiting-reports">
          {waiting.length === 1 ? "A report waits" : `${waiting.length} reports wait`} on this device and {waiting.length === 1 ? "is" : "are"} sent
          by {waiting.length === 1 ? "itself" : "themselves"}. Leave this page open, or come back to it.
        </Notice>
      )}
    </Box>
  );
}
