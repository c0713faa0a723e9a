import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Heading, Pick, Plain, Refusal } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { columns } from "../../parts/Room";
import { Tag } from "../../parts/Tag";

type Kit = Schemas["HandoverKit"];
type Report = Schemas["HandoverReport"];

const kindText: Record<string, string> = {
  feedback: "How it did",
  arrival: "How it arrived",
  lifted: "An edge lifted",
  itch: "It itches",
  reaction: "Skin reacted",
  colour: "Colour off",
  better: "A better way",
  wear: "Worn",
  touchup: "Touched up",
  removal: "Taken off",
  other: "A note",
};

/** What came back: reports as they come in, each with what it is about, and the kit itself, counted. */
export function BackLeaf({ kit }: { kit: Kit }) {
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 360px")} gap="30px">
      <Box>
        <Figures reports={kit.reports} />
        <Heading>Reports</Heading>
        {kit.reports.length === 0 && <Box color="muted">Nothing yet. What the artist writes stands here as it comes in.</Box>}
        {kit.reports.map((r) => (
          <OneReport key={r.id} r={r} kit={kit.code} />
        ))}
      </Box>
      <Box>{kit.handed_at && <ComesBack kit={kit} />}</Box>
    </Grid>
  );
}

/** Feedback by aspect, as figures. */
function Figures({ reports }: { reports: Report[] }) {
  const marked = reports.filter((r) => r.edge && r.colour && r.hold);
  const worn = Math.max(0, ...reports.map((r) => r.worn_h));
  if (marked.length === 0 && worn === 0) return null;
  const mean = (of: (r: Report) => number) => (marked.reduce((n, r) => n + of(r), 0) / marked.length).toFixed(1);
  return (
    <Flex gap="26px" mb="12px" wrap="wrap">
      {marked.length > 0 &&
        (
          [
            ["edge", mean((r) => r.edge ?? 0)],
            ["colour", mean((r) => r.colour ?? 0)],
            ["hold", mean((r) => r.hold ?? 0)],
          ] as const
        ).map(([name, n]) => (
          <Box key={name}>
            <Box fontSize="26px" fontWeight="700">
              {n}
            </Box>
            <Box layerStyle="small">
              {name}, of 5 ({marked.length})
            </Box>
          </Box>
        ))}
      {worn > 0 && (
        <Box>
          <Box fontSize="26px" fontWeight="700">
            {worn} h
          </Box>
          <Box layerStyle="small">worn</Box>
        </Box>
      )}
    </Flex>
  );
}

function OneReport({ r, kit }: { r: Report; kit: string }) {
  const [words, setWords] = useState("");
  const answer = useAct(() => ask(api.POST("/api/reports/{id}/answer", { params: { path: { id: r.id } }, body: { words } })));
  const skin = r.kind === "reaction" || r.kind === "itch";
  return (
    <Box py="8px" borderBottomWidth="1px" borderColor="line" data-report={r.kind}>
      <Flex gap="10px" align="center" wrap="wrap">
        <b>{kindText[r.kind] ?? r.kind}</b>
        {r.copy && <Tag code={r.copy} to={`/check/${r.copy}`} />}
        {r.layer && <Box>{r.layer}</Box>}
        {r.lot && (
          <Link to={`/stores/${r.lot.split(" ")[0]}`}>
            <u>lot {r.lot}</u>
          </Link>
        )}
        {r.stage && <Box layerStyle="small">{r.stage}</Box>}
        {r.step && <Box layerStyle="small">step: {r.step}</Box>}
        <Box layerStyle="small" flex="1" textAlign="end">
          {r.hour_h != null && `hour ${r.hour_h} · `}
          {dayTime(r.at)}
        </Box>
      </Flex>
      {r.edge != null && (
        <Box>
          edge {r.edge}, colour {r.colour}, hold {r.hold} of 5
        </Box>
      )}
      {r.worn_h > 0 && <Box>worn {r.worn_h} h</Box>}
      {r.light && <Box>in {r.light}</Box>}
      {r.words && <Box>{r.words}</Box>}
      {skin && (
        <Box color="rust">
          It stands as an incident:{" "}
          <Link to="/handover?leaf=Skin">
            <u>what lay there, and what it stops</u>
          </Link>
          . Its words are of somebody's health and are read there only.
        </Box>
      )}
      {!skin && r.pictures.length > 0 && (
        <Flex gap="8px" wrap="wrap" my="6px">
          {r.pictures.map((p) => (
            <a key={p.key} href={`/api/kits/${kit}/pictures/${p.sha256}`} target="_blank" rel="noreferrer">
              <img src={`/api/kits/${kit}/pictures/${p.sha256}`} alt={`sent with: ${kindText[r.kind]}`} height={90} loading="lazy" />
            </a>
          ))}
        </Flex>
      )}
      {r.answer ? (
        <Box color="yew">
          {r.answered_by}: {r.answer}
        </Box>
      ) : (
        <Flex gap="8px" align="end" mt="4px">
          <Box flex="1">
            <Entry label="Answer" name="words" value={words} set={setWords} problem={answer.problem} />
          </Box>
          <Plain disabled={!words.trim() || answer.busy} onClick={() => void answer.run()}>
            Answer
          </Plain>
        </Flex>
      )}
      <Refusal problem={answer.problem} />
    </Box>
  );
}

/** Counts what comes back: each copy by what it still is, and what is left of what went along. */
function ComesBack({ kit }: { kit: Kit }) {
  const path = { params: { path: { code: kit.code } } };
  const contents = useRead({ queryKey: ["kit contents", kit.code], queryFn: () => ask(api.GET("/api/kits/{code}/contents", path)) });
  const [back, setBack] = useState<Record<string, "again" | "spent" | "lost">>({});
  const [left, setLeft] = useState<Record<string, string>>({});
  const [words, setWords] = useState("");
  const open = kit.copies.filter((c) => c.back === "");
  const items = (contents.data?.items ?? []).filter((i) => i.packed_at && i.back == null);
  const count = useAct(async () => {
    await ask(
      api.POST("/api/kits/{code}/return", {
        ...path,
        body: {
          copies: Object.entries(back).map(([code, b]) => ({ code, back: b })),
          items: Object.entries(left)
            .filter(([, n]) => n.trim() !== "" && Number.isFinite(Number(n.replace(",", "."))))
            .map(([item, n]) => ({ item, amount: Number(n.replace(",", ".")) })),
          words,
        },
      }),
    );
    setBack({});
    setLeft({});
  });
  const some = Object.keys(back).length > 0 || Object.values(left).some((n) => n.trim() !== "");
  return (
    <Box>
      <Heading>{kit.back_at ? `Came back ${dayTime(kit.back_at)}` : "It comes back"}</Heading>
      {kit.copies
        .filter((c) => c.back !== "")
        .map((c) => (
          <Box key={c.code}>
            {c.code}: {c.back === "again" ? "may be worn again" : c.back === "spent" ? "spent" : "not there"}
          </Box>
        ))}
      {open.map((c) => (
        <Flex key={c.code} gap="10px" align="center" mb="6px">
          <Tag code={c.code} />
          <Pick
            label={`How ${c.code} came back`}
            value={back[c.code] ?? ""}
            set={(b) => setBack(b ? { ...back, [c.code]: b as "again" } : omit(back, c.code))}
            width="200px"
          >
            <option value="">still out</option>
            <option value="again">may be worn again</option>
            <option value="spent">not to be worn again</option>
            <option value="lost">not there</option>
          </Pick>
        </Flex>
      ))}
      {items.map((i) => (
        <Flex key={i.key} gap="10px" align="center">
          <Box flex="1">{i.name}</Box>
          <Entry label={`left, ${i.unit}`} name={i.key} value={left[i.key] ?? ""} set={(n) => setLeft({ ...left, [i.key]: n })} width="110px" />
        </Flex>
      ))}
      {(open.length > 0 || items.length > 0) && (
        <>
          <Entry label="In words" name="words" value={words} set={setWords} problem={count.problem} />
          <Plain mt="8px" disabled={!some || count.busy} onClick={() => void count.run()}>
            Count it
          </Plain>
        </>
      )}
      <Refusal problem={count.problem} />
    </Box>
  );
}

function omit<T>(of: Record<string, T>, key: string): Record<string, T> {
  const { [key]: _, ...rest } = of;
  return rest;
}
