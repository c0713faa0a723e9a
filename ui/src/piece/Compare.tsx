import { Box, Flex, Grid } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import { useAct } from "../app/act";
import { api, ask, type Schemas } from "../app/api";
import { useRead } from "../app/read";
import { Choose, Entry, Heading, Pick, Plain, Refusal, Teach } from "../parts/controls";
import { duration, grams, millimetres } from "../parts/format";

type Version = Schemas["PieceSectionVersion"];
type Figures = Schemas["PieceFigures"];

const money = (minor: number) => (minor / 100).toFixed(2);
const rows: [string, (f: Figures) => string][] = [
  ["At the centre", (f) => millimetres(f.centre_mm)],
  ["At the edge", (f) => millimetres(f.edge_mm)],
  ["Worn mass", (f) => grams(f.worn_g)],
  ["Hands on", (f) => duration(f.hands_s)],
  ["Waiting", (f) => duration(f.waiting_s)],
  ["Material of a copy", (f) => money(f.cost_minor)],
];

/** Planned, agreed, built: what differs between any two, and what that means for what is made. */
export function Compare({ code, seen, take }: { code: string; seen?: string; take: (key: string) => void }) {
  const versions = useRead({
    queryKey: ["section", code, "versions"],
    queryFn: () => ask(api.GET("/api/pieces/{code}/section/versions", { params: { path: { code } } })),
  });
  const list = versions.data ?? [];
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const older = from || first(list, seen);
  const newer = to || second(list, older);
  const compared = useRead({
    queryKey: ["section", code, "differences", older, newer],
    queryFn: () => ask(api.GET("/api/pieces/{code}/section/differences", { params: { path: { code }, query: { from: older, to: newer } } })),
    enabled: !!older && !!newer && older !== newer,
  });
  if (!versions.data) return null;
  if (list.length === 0)
    return <Teach>Nothing is kept yet. Every draft, every agreed version and every copy as it was built can be compared here.</Teach>;
  const pick = (value: string, set: (v: string) => void, label: string) => (
    <Pick label={label} value={value} set={set}>
      {list.map((v) => (
        <option key={v.key} value={v.key}>
          {v.text}
        </option>
      ))}
    </Pick>
  );
  const d = compared.data;
  return (
    <Flex direction="column" gap="14px">
      <Grid templateColumns="1fr auto 1fr" gap="8px" alignItems="center">
        {pick(older, setFrom, "From")}
        <Box color="muted">against</Box>
        {pick(newer, setTo, "To")}
      </Grid>
      {older === newer && <Box color="muted">Choose two different ones.</Box>}
      <Refusal problem={compared.error as never} />
      {d && (
        <>
          <Changes list={d.differences ?? []} />
          <Flex gap="8px" wrap="wrap">
            {[older, newer]
              .filter((key) => key !== "draft")
              .map((key) => (
                <Plain key={key} h="34px" onClick={() => take(key)}>
                  Go on from {list.find((v) => v.key === key)?.text}
                </Plain>
              ))}
          </Flex>
          <Table was={d.was} is={d.is} />
          {(d.effects?.length ?? 0) > 0 && (
            <Box>
              <Heading>What the second means for what is made</Heading>
              {d.effects?.map((e) => (
                <Flex key={e.copy} gap="10px" py="2px" data-effect={e.copy}>
                  <Box w="78px" fontWeight="600">
                    {e.copy}
                  </Box>
                  <Box flex="1" lineHeight="1.35">
                    <b>{e.what}</b>
                    {e.built ? ` (built to §${e.built}, ${e.state.replaceAll("_", " ")})` : ""}
                    <Box layerStyle="note">{e.text}</Box>
                  </Box>
                </Flex>
              ))}
            </Box>
          )}
        </>
      )}
      <Signed list={list} />
      <AsBuilt code={code} copies={list.filter((v) => v.what === "built").map((v) => v.key.slice(6))} />
    </Flex>
  );
}

/** The older side: what somebody wants to look at, else what the newer one rests on. */
function first(list: Version[], seen?: string): string {
  if (seen) return seen;
  const agreed = list.filter((v) => v.what === "agreed");
  const drafted = list.some((v) => v.key === "draft");
  return (drafted ? agreed[0] : (agreed[1] ?? agreed[0]))?.key ?? list[0]?.key ?? "";
}

/** The newer side: one's own draft, else the newest agreed one. */
function second(list: Version[], older: string): string {
  const others = list.filter((v) => v.key !== older);
  return (others.find((v) => v.key === "draft") ?? others.find((v) => v.what === "agreed") ?? others[0])?.key ?? older;
}

function Changes({ list }: { list: Schemas["CraftSectionDifference"][] }) {
  return (
    <Box>
      <Heading>{list.length === 0 ? "No difference" : list.length === 1 ? "One difference" : `${list.length} differences`}</Heading>
      {list.map((x) => (
        <Box key={`${x.cut}${x.layer}${x.what}${x.text}`} py="3px" lineHeight="1.35" data-difference={x.what}>
          <b>{x.text}</b> {x.what}
          {x.was && <Box layerStyle="note">was {x.was}</Box>}
          {x.is && <Box fontSize="14px">is {x.is}</Box>}
        </Box>
      ))}
    </Box>
  );
}

function Table({ was, is }: { was: Figures; is: Figures }) {
  const cell = (text: ReactNode, strong = false) => (
    <Box textAlign="right" fontWeight={strong ? 600 : 400}>
      {text}
    </Box>
  );
  return (
    <Grid templateColumns="1fr 90px 90px" gap="1px 10px" fontSize="14.5px">
      <Box color="muted">Figures</Box>
      {cell("first")}
      {cell("second")}
      {rows.flatMap(([label, say]) => [
        <Box key={label}>{label}</Box>,
        <Box key={`${label} was`}>{cell(say(was))}</Box>,
        <Box key={`${label} is`}>{cell(say(is), say(was) !== say(is))}</Box>,
      ])}
    </Grid>
  );
}

function Signed({ list }: { list: Version[] }) {
  const signed = list.flatMap((v) => (v.signed ?? []).map((g) => ({ ...g, of: v.text })));
  if (signed.length === 0) return null;
  return (
    <Box>
      <Heading>Signed in spite of a stop</Heading>
      {signed.map((g) => (
        <Box key={`${g.of}${g.id}${g.at}`} fontSize="14.5px">
          {g.of} {g.id}: {g.reason} ({g.by})
        </Box>
      ))}
    </Box>
  );
}

/** A copy that was built otherwise than agreed: what is on the screen is written down for it. */
function AsBuilt({ code, copies }: { code: string; copies: string[] }) {
  const [copy, setCopy] = useState(copies[0] ?? "");
  const [reason, setReason] = useState("");
  const act = useAct(async () => {
    await ask(api.POST("/api/pieces/{code}/section/built", { params: { path: { code } }, body: { copy, reason } }));
    setReason("");
  });
  if (copies.length === 0) return null;
  return (
    <details>
      <summary>A copy was built otherwise</summary>
      <Box layerStyle="note" my="4px">
        Draw it as it really was, then write it down here. What was agreed stays as it is.
      </Box>
      <Grid templateColumns="130px 1fr auto" gap="8px" alignItems="end">
        <Choose label="Copy" name="copy" value={copy} set={setCopy} problem={act.problem}>
          {copies.map((c) => (
            <option key={c} value={c}>
              {c}
            </option>
          ))}
        </Choose>
        <Entry label="Why" name="reason" value={reason} set={setReason} problem={act.problem} />
        <Plain onClick={() => void act.run()}>Write it down</Plain>
      </Grid>
      <Refusal problem={act.problem} />
    </details>
  );
}
