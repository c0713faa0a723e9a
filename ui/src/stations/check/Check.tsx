import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { Problem, Schemas } from "../../app/api";
import { useCopies } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Go, Heading, Refusal, Teach } from "../../parts/controls";
import { isFree, isJudged, isOnBench, isOpen, madeFrom, stateWords, useWords } from "../../parts/copies";
import { dayTime, words } from "../../parts/format";
import { Leaves } from "../../parts/Leaves";
import { Notice } from "../../parts/Notice";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Beside } from "./Beside";
import { useCopy } from "./bench";
import { Faults } from "./Faults";
import { Features } from "./Features";
import { Trials } from "./Trials";
import { Verdict } from "./Verdict";
import { Yields } from "./Yields";

const leaves = ["Beside", "Faults", "Tried and measured", "Story", "How they come out"] as const;
type Leaf = (typeof leaves)[number];

/** Where a copy is judged beside what was asked, and where a fault is traced to its cause. */
export default function Check() {
  const { code } = useParams();
  const copies = useCopies();
  const [search, setSearch] = useSearchParams();
  if (!copies.data) return null;
  const bench = copies.data.filter((c) => isOnBench(c.state));
  const waiting = bench.filter((c) => c.left_to_do === 0);
  const half = bench.filter((c) => c.left_to_do > 0);
  const judged = copies.data.filter((c) => isJudged(c.state)).slice(0, 6);
  const at = code ?? waiting[0]?.code ?? half[0]?.code;
  const leaf = leaves.find((l) => l === search.get("leaf")) ?? "Beside";
  const open = (l: Leaf) => setSearch(l === "Beside" ? {} : { leaf: l }, { replace: true });
  return (
    <Box>
      <RoomHead title="Check" aside="beside what was asked, with who and why" />
      <Grid templateColumns={columns("215px minmax(0,1fr)")} gap="24px">
        <Box order={{ base: 2, lg: 0 }}>
          <Heading>Waiting for a verdict</Heading>
          <Standing
            empty={<Box color="muted">Nothing waits.</Box>}
            items={waiting.map((c) => ({ code: c.code, text: words(c.state), to: `/check/${c.code}`, active: c.code === at }))}
          />
          {half.length > 0 && (
            <>
              <Box h="20px" />
              <Heading>Still on the bench</Heading>
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
            items={judged.map((c) => ({
              code: c.code,
              text: c.use_as ? useWords[c.use_as] : words(c.state),
              to: `/check/${c.code}`,
              active: c.code === at,
            }))}
          />
        </Box>
        {at ? (
          <OfCopy code={at} key={at} leaf={leaf} open={open} />
        ) : (
          <Teach>A finished copy is laid beside what was asked here and accepted, sent back, kept for less or scrapped.</Teach>
        )}
      </Grid>
    </Box>
  );
}

function OfCopy({ code, leaf, open }: { code: string; leaf: Leaf; open: (l: Leaf) => void }) {
  const copy = useCopy(code);
  const navigate = useNavigate();
  const [outcome, setOutcome] = useState<Schemas["CheckOutcome"]>();
  // The feature whose place on the picture is being pointed at.
  const [pointing, setPointing] = useState<string>();
  useInHand(copy.data?.piece);
  if (copy.error && !copy.data) return <Refusal problem={copy.error as unknown as Problem} />;
  if (!copy.data) return null;
  const c = copy.data;
  return (
    <Box minW="0">
      <Flex gap="8px 14px" align="center" mb="8px" wrap="wrap">
        <Tag code={code} />
        <Tag code={c.piece} to={`/piece/${c.piece}`} />
        <b>{c.piece_name}</b>
        <Box color="muted">
          {c.use_as ? useWords[c.use_as] : stateWords(c.state)}
          {c.reason && `: ${c.reason}`}
        </Box>
      </Flex>
      {outcome && (
        <Notice tone={outcome.needs_run ? "look" : "good"} mb="12px" data-testid="outcome">
          {outcome.words}
          {outcome.needs_run && (
            <Box mt="8px">
              <Go act={() => navigate(`/build?piece=${c.piece}`)}>Begin another run</Go>
            </Box>
          )}
          {isFree(outcome.state) && (
            <Box mt="8px">
              <Go act={() => navigate("/handover")}>Pack it into a kit</Go>
            </Box>
          )}
        </Notice>
      )}
      <Leaves of="check" list={leaves} leaf={leaf} choose={open} />
      <Box pt="12px">
        {leaf === "How they come out" ? (
          <Yields />
        ) : (
          <Grid templateColumns={columns(leaf === "Faults" ? "minmax(0,1fr)" : "minmax(0,1fr) 300px")} gap="24px">
            <Box minW="0">
              {leaf === "Beside" && <Beside code={code} pointing={pointing} pointed={() => setPointing(undefined)} />}
              {leaf === "Faults" && <Faults copy={c} />}
              {leaf === "Tried and measured" && <Trials copy={c} />}
              {leaf === "Story" && <Story copy={c} />}
            </Box>
            {leaf !== "Faults" && (
              <Box minW="0">
                <Verdict copy={c} open={() => open("Faults")} judged={setOutcome} outcome={outcome} />
                {isOpen(c.state) && <Features copy={c} pointing={pointing} point={leaf === "Beside" ? setPointing : undefined} />}
              </Box>
            )}
          </Grid>
        )}
      </Box>
    </Box>
  );
}

/** What is in the record of it, and what it was made from. */
function Story({ copy: c }: { copy: Schemas["FinishCopy"] }) {
  return (
    <Box>
      <Heading>Its story</Heading>
      {c.journal.map((j) => (
        <Box key={j.id} fontSize="14.5px" py="1px">
          <Box as="span" color="muted">
            {dayTime(j.at)} {j.who}
          </Box>{" "}
          {j.act} {j.words}
        </Box>
      ))}
      <Box fontSize="14.5px" mt="8px">
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
  );
}
