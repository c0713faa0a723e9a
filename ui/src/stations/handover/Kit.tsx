import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Go, Heading, Plain, Refusal } from "../../parts/controls";
import { day, dayTime } from "../../parts/format";
import { Leaves } from "../../parts/Leaves";
import { Notice } from "../../parts/Notice";
import { PutRight } from "../../parts/PutRight";
import { columns } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { BackLeaf } from "./BackLeaf";
import { CopySheets } from "./CopySheets";
import { DayLeaf } from "./DayLeaf";
import { MorningLeaf } from "./MorningLeaf";
import { Packing } from "./Packing";
import { Rung } from "./Rung";

const leaves = ["Packing", "Morning", "On set and off", "Came back", "Papers and page"] as const;
type Leaf = (typeof leaves)[number];

/** One kit: what is in it, its morning, its day, what came back, its papers and the artist's page. */
export function Kit({ code }: { code: string }) {
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const path = { params: { path: { code } } };
  const kit = useRead({ queryKey: ["kit", code], queryFn: () => ask(api.GET("/api/kits/{code}", path)) });
  const hand = useAct(() => ask(api.POST("/api/kits/{code}/hand", path)));
  if (kit.error && !kit.data) return <Refusal problem={kit.error as never} />;
  if (!kit.data) return null;
  const k = kit.data;
  const leaf: Leaf = leaves.find((l) => l === search.get("leaf")) ?? "Packing";
  return (
    <Box>
      <Flex gap="14px" align="center" mb="10px" wrap="wrap">
        <Tag code={code} />
        <Box fontSize="19px" fontWeight="700">
          {k.performer || k.artist}
        </Box>
        <Box color="muted" flex="1">
          {k.performer && `for ${k.artist} · `}
          {k.days.map((d) => `${day(d.day)}, ${d.place}`).join(" · ")}
          {k.scene && ` · ${k.scene}`}
          {k.note && ` · ${k.note}`}
        </Box>
        {!k.handed_at ? (
          leaf === "Packing" && <Go act={() => void hand.run()}>It left the shop</Go>
        ) : (
          <Box fontWeight="600">
            {k.back_at
              ? `Came back ${dayTime(k.back_at)}`
              : k.received_at
                ? `Received ${dayTime(k.received_at)}, signed by ${k.signed_name}`
                : `Handed over ${dayTime(k.handed_at)}`}
          </Box>
        )}
      </Flex>
      {!k.handed_at && k.copies.length > 0 && (
        <Box mb="10px">
          <PutRight
            label="packed wrong: take it apart"
            act="Take it apart"
            run={async (reason) => {
              await ask(api.POST("/api/kits/{code}/unpack", { ...path, body: { reason } }));
              navigate("/handover");
            }}
          />
        </Box>
      )}
      <Refusal problem={hand.problem} />
      <Leaves of={code} list={leaves} leaf={leaf} choose={(l) => setSearch(l === "Packing" ? {} : { leaf: l }, { replace: true })} />
      <Box pt="14px">
        {leaf === "Packing" && <Packing code={code} kit={k} left={!!k.handed_at} />}
        {leaf === "Morning" && <MorningLeaf code={code} />}
        {leaf === "On set and off" && <DayLeaf code={code} />}
        {leaf === "Came back" && <BackLeaf kit={k} />}
        {leaf === "Papers and page" && <Papers kit={k} />}
      </Box>
    </Box>
  );
}

/** What leaves on paper, the artist's link, and what it was made from. */
function Papers({ kit: k }: { kit: Schemas["HandoverKit"] }) {
  const code = k.code;
  const path = { params: { path: { code } } };
  const sheet = useRead({ queryKey: ["kit-sheet", code], queryFn: () => ask(api.GET("/api/kits/{code}/sheet", path)) });
  const from = useRead({
    queryKey: ["trace", "kit", code],
    queryFn: () => ask(api.GET("/api/trace/{kind}/{code}", { params: { path: { kind: "kit", code }, query: { direction: "backward" } } })),
  });
  const [link, setLink] = useState<Schemas["HandoverNewLinkAnswer"]>();
  const make = useAct(async () => setLink(await ask(api.POST("/api/kits/{code}/links", { ...path, body: { days: 14 } }))));
  const withdraw = useAct(async (id: number) => {
    await ask(api.DELETE("/api/kits/{code}/links/{id}", { params: { path: { code, id } } }));
    setLink(undefined);
  });
  const papers: [string, string][] = [
    ["sheet.pdf", "Hand-over sheet"],
    ["packing.pdf", "Packing list"],
    ["run.pdf", "Run of the morning"],
    ["performer.pdf", "The wearer's card"],
    ["removal.pdf", "Taking it off"],
    ["day.ics", "The day as iCalendar"],
    ["kit.json", "The kit as JSON"],
  ];
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 320px")} gap="32px">
      <Box>{sheet.data && <CopySheets copies={sheet.data.copies} cautions={sheet.data.cautions} />}</Box>
      <Flex direction="column" gap="16px">
        <Box>
          <Heading>Papers</Heading>
          <Flex direction="column" gap="6px" align="start">
            {papers.map(([file, text]) => (
              <a key={file} href={`/api/kits/${code}/${file}`} target="_blank" rel="noreferrer">
                {text}
                {file.endsWith(".pdf") && ", PDF"}
              </a>
            ))}
            <a href={`/api/kits/${code}/label.pdf${link ? `?link=${encodeURIComponent(link.token)}` : ""}`} target="_blank" rel="noreferrer">
              Label with {link ? "the artist's link" : "this kit's page"} as QR code, PDF
            </a>
            <a href={`/api/kits/${code}/labels.pdf${link ? `?link=${encodeURIComponent(link.token)}` : ""}`} target="_blank" rel="noreferrer">
              A label for every copy, PDF
            </a>
          </Flex>
        </Box>
        <Box>
          <Heading>The artist's page</Heading>
          {link ? (
            <Notice tone="good" mb="8px">
              <Box as="a" {...{ href: link.url }} fontWeight="600" wordBreak="break-all" data-testid="artist-link">
                {link.url}
              </Box>
              <Box layerStyle="note" mt="4px">
                Shown this once; only its fingerprint is kept. Copy it now, or print the label, which carries it. It works until{" "}
                {dayTime(link.expires_at)}.
              </Box>
            </Notice>
          ) : (
            <Plain disabled={make.busy} onClick={() => void make.run()}>
              Make a link for {k.artist.split(" ")[0]}
            </Plain>
          )}
          {k.links.map((l) => (
            <Flex key={l.id} fontSize="14px" gap="10px" mt="4px">
              <Box flex="1" color={l.works ? "ink" : "muted"}>
                made {dayTime(l.created_at)}, {l.withdrawn_at ? "withdrawn" : l.works ? `works until ${day(l.expires_at)}` : "run out"}
                <Box layerStyle="small">{l.asked_at ? `its page asked last ${dayTime(l.asked_at)}` : "its page was never opened"}</Box>
              </Box>
              {l.works && (
                <Box as="button" color="rust" textDecoration="underline" onClick={() => void withdraw.run(l.id)}>
                  withdraw
                </Box>
              )}
            </Flex>
          ))}
          <Refusal problem={make.problem ?? withdraw.problem} />
        </Box>
        <Rung artist={k.artist} />
        <Box>
          <Heading>Made from</Heading>
          {Object.entries(from.data ?? {}).map(([kind, codes]) => (
            <Flex key={kind} gap="10px" fontSize="14px">
              <Box w="48px" color="muted">
                {kind}
              </Box>
              <Box flex="1">
                {codes.map((c, i) => (
                  <span key={c}>
                    {i > 0 && ", "}
                    <Link to={placeOf(kind, c)}>{c}</Link>
                  </span>
                ))}
              </Box>
            </Flex>
          ))}
        </Box>
      </Flex>
    </Grid>
  );
}

/** Where a thing that a kit was made from is looked at. */
function placeOf(kind: string, code: string): string {
  const piece = code.split("/")[0]?.split(" ")[0] ?? code;
  const at: Record<string, string> = {
    lot: `/stores/${code}`,
    mix: `/mix/${code}`,
    copy: `/check/${code}`,
    mould: `/mould?mould=${encodeURIComponent(code)}`,
    form: "/form",
    sculpt: `/sculpt/${piece}`,
  };
  return at[kind] ?? "/";
}
