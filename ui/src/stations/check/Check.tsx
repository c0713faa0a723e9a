import { Box, Checkbox, Flex, Grid, Image } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useCopies, useFound, usePiece } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Entry, Go, Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { isFree, isJudged, isOnBench, isOpen, madeFrom, stateWords } from "../../parts/copies";
import { dayTime, millimetres, words } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { PutRight } from "../../parts/PutRight";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { FoundPlaces } from "../../piece/Measured";

/** Where a copy is judged beside its reference: accepted, repaired or scrapped. */
export default function Check() {
  const { code } = useParams();
  const copies = useCopies();
  if (!copies.data) return null;
  const bench = copies.data.filter((c) => isOnBench(c.state));
  const waiting = bench.filter((c) => c.left_to_do === 0);
  const half = bench.filter((c) => c.left_to_do > 0);
  const judged = copies.data.filter((c) => isJudged(c.state)).slice(0, 6);
  const at = code ?? waiting[0]?.code ?? half[0]?.code;
  return (
    <Box>
      <RoomHead title="Check" aside="beside the reference, with who and why" />
      <Grid templateColumns={columns("280px minmax(0,1fr)")} gap="36px">
        <Box>
          <Heading>Waiting for a verdict</Heading>
          <Standing
            empty={<Box color="muted">Nothing waits.</Box>}
            items={waiting.map((c) => ({ code: c.code, text: words(c.state), to: `/check/${c.code}`, active: c.code === at }))}
          />
          {half.length > 0 && (
            <>
              <Box h="20px" />
              <Heading>Still being finished</Heading>
              <Standing
                empty={null}
                items={half.map((c) => ({
                  code: c.code,
                  text: c.left_to_do === 1 ? "one thing left" : `${c.left_to_do} things left`,
                  to: `/check/${c.code}`,
                  active: c.code === at,
                }))}
              />
            </>
          )}
          <Box h="20px" />
          <Heading>Judged</Heading>
          <Standing
            empty={<Box color="muted">Nothing yet.</Box>}
            items={judged.map((c) => ({ code: c.code, text: words(c.state), to: `/check/${c.code}`, note: c.reason, active: c.code === at }))}
          />
        </Box>
        {at ? <Judge code={at} key={at} /> : <Teach>A finished copy is laid beside its reference here and accepted, sent back or scrapped.</Teach>}
      </Grid>
    </Box>
  );
}

function Judge({ code }: { code: string }) {
  const copy = useRead({ queryKey: ["copy", code], queryFn: () => ask(api.GET("/api/copies/{code}", { params: { path: { code } } })) });
  const piece = usePiece(copy.data?.piece);
  const found = useFound(copy.data?.piece).data;
  const navigate = useNavigate();
  const [reason, setReason] = useState("");
  const [outcome, setOutcome] = useState<Schemas["CheckOutcome"]>();
  const judge = useAct(async (verdict: "accept" | "repair" | "scrap") => {
    setOutcome(await ask(api.POST("/api/copies/{code}/verdict", { params: { path: { code } }, body: { verdict, reason } })));
    setReason("");
  });
  const features = useRead({
    queryKey: ["features", code],
    queryFn: () => ask(api.GET("/api/copies/{code}/features", { params: { path: { code } } })),
  });
  const see = useAct((feature: string, there: boolean) =>
    ask(api.POST("/api/copies/{code}/features/{feature}", { params: { path: { code, feature } }, body: { there } })),
  );
  useInHand(copy.data?.piece);
  if (copy.error && !copy.data) return <Refusal problem={copy.error as never} />;
  if (!copy.data) return null;
  const c = copy.data;
  const photo = c.ticks.find((t) => t.item === "photograph")?.sha256;
  const reference = piece.data?.references[0];
  const open = isOpen(c.state);
  return (
    <Box>
      <Flex gap="14px" align="center" mb="10px">
        <Tag code={code} />
        <Tag code={c.piece} to={`/piece/${c.piece}`} />
        <b>{c.piece_name}</b>
        <Box color="muted">
          {stateWords(c.state)}
          {c.reason && `: ${c.reason}`}
        </Box>
      </Flex>
      <Flex mb="14px" h="240px">
        <Side sha={photo} text={photo ? "the copy" : "no photograph yet"} />
        <Side sha={reference?.sha256} text={reference?.caption ?? "no reference is pinned"} />
      </Flex>
      <Grid templateColumns={columns("minmax(0,1fr) 300px")} gap="30px">
        <Box>
          {outcome && (
            <Notice tone={outcome.needs_run ? "look" : "good"} mb="12px" data-testid="outcome">
              {outcome.words}
              {outcome.needs_run && (
                <Box mt="8px">
                  <Go act={() => navigate(`/build?piece=${c.piece}`)}>Begin another run</Go>
                </Box>
              )}
            </Notice>
          )}
          {open && !outcome && (features.data?.length ?? 0) > 0 && (
            <Box mb="12px">
              <Heading aside="all of them on this copy, before it is accepted">Must not be left out</Heading>
              <Flex gap="4px 18px" wrap="wrap">
                {features.data?.map((f) => (
                  <Checkbox.Root key={f.id} checked={!!f.seen} onCheckedChange={(e) => void see.run(f.id, e.checked === true)}>
                    <Checkbox.HiddenInput />
                    <Checkbox.Control borderColor="ink" borderRadius="full" />
                    <Checkbox.Label>
                      {f.text}
                      <Box as="span" layerStyle="small">
                        {f.seen ? `, ${f.seen.by}` : ""}
                      </Box>
                    </Checkbox.Label>
                  </Checkbox.Root>
                ))}
              </Flex>
              <Refusal problem={see.problem} />
            </Box>
          )}
          {open && !outcome && (
            <>
              {c.missing.length > 0 && <Box mb="10px">Still to do before it can be accepted: {c.missing.map(words).join(", ")}.</Box>}
              <Entry label="Why" name="reason" value={reason} set={setReason} problem={judge.problem} placeholder="what was seen, for the next run" />
              <Flex gap="12px" mt="12px" wrap="wrap" align="center">
                <Go act={() => void judge.run("accept")} disabled={judge.busy || c.missing.length > 0}>
                  Accept it
                </Go>
                <Plain h="48px" disabled={judge.busy} onClick={() => void judge.run("repair")}>
                  Send back for repair
                </Plain>
                <Plain h="48px" color="rust" disabled={judge.busy} onClick={() => void judge.run("scrap")}>
                  Scrap it
                </Plain>
              </Flex>
            </>
          )}
          {["accepted", "repair", "scrapped"].includes(c.state) && (
            <Box mb="10px">
              <PutRight
                label="take the verdict back"
                act="Take it back"
                run={async (why) => {
                  await ask(api.POST("/api/copies/{code}/verdict/back", { params: { path: { code } }, body: { reason: why } }));
                  setOutcome(undefined);
                }}
              />
            </Box>
          )}
          {isFree(c.state) && !outcome && <Plain onClick={() => navigate("/handover")}>Pack it into a kit</Plain>}
          {outcome && isFree(outcome.state) && <Go act={() => navigate("/handover")}>Pack it into a kit</Go>}
          <Box mt="10px">
            <Refusal problem={judge.problem} />
          </Box>
        </Box>
        <Box>
          {found && found.scan > 0 && (
            <Box mb="14px">
              <Heading aside={<Link to={`/form/${c.piece}`}>on its form</Link>}>Measured on the sculpt</Heading>
              {found.places.length > 0 ? <FoundPlaces found={found} /> : "Nothing to look at: no core contact, nothing too thin."}
              <Box layerStyle="note">
                {millimetres(found.mean_mm)} mean, {millimetres(found.most_mm)} at most, {millimetres(found.least_mm)} at least off the edge.
              </Box>
            </Box>
          )}
          <Heading>Its story</Heading>
          {c.journal.map((j) => (
            <Box key={j.id} fontSize="14px" py="1px">
              <Box as="span" color="muted">
                {dayTime(j.at)}
              </Box>{" "}
              {j.act} {j.words}
            </Box>
          ))}
          <Box fontSize="14px" mt="8px">
            Made by section §{c.section_number}, {madeFrom({ ...c, mould: undefined })}
            {c.mould && (
              <>
                , out of{" "}
                <Link to={`/mould?mould=${encodeURIComponent(c.mould)}`} style={{ textDecoration: "underline" }}>
                  {c.mould}
                </Link>
              </>
            )}
            .
          </Box>
        </Box>
      </Grid>
    </Box>
  );
}

function Side({ sha, text }: { sha?: string; text: string }) {
  return (
    <Box flex="1" bg="#8d8d8d" position="relative" overflow="hidden">
      {sha && <Image src={`/api/files/${sha}?width=1600`} alt={text} w="100%" h="100%" objectFit="cover" />}
      <Box position="absolute" left="10px" bottom="8px" color="white" bg="rgba(0,0,0,.55)" px="8px" borderRadius="4px">
        {text}
      </Box>
    </Box>
  );
}
