import { Box, Flex, Grid } from "@chakra-ui/react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { Problem } from "../../app/api";
import { useCopies, useMould, usePieces } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Heading, Pick, Refusal, Teach } from "../../parts/controls";
import { isOnBench, isRepair, madeFrom, stateWords } from "../../parts/copies";
import { Leaves } from "../../parts/Leaves";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { CameAgain, CameOut } from "../../piece/CameOut";
import { useCopy, usePlan } from "./bench";
import { Edges } from "./Edges";
import { HairLeaf } from "./HairLeaf";
import { InsertsLeaf } from "./InsertsLeaf";
import { LoadsLeaf } from "./LoadsLeaf";
import { Work } from "./Work";

const leaves = ["Work", "Edges and seams", "Hair", "Inserts and worn", "Weights and closures"] as const;
type Leaf = (typeof leaves)[number];

/** Leaves that are of the plan, not of one copy. */
const ofPlan = (l: Leaf) => l !== "Work" && l !== "Edges and seams";

/** The finishing bench: what is to be done to a copy, and the plan of hair, inserts and weights that it is done by. */
export default function Finish() {
  const { code } = useParams();
  const copies = useCopies();
  const pieces = usePieces();
  const [search, setSearch] = useSearchParams();
  const go = useNavigate();
  if (!copies.data || !pieces.data) return null;
  const here = copies.data.filter((c) => isOnBench(c.state));
  const look = search.get("look");
  const chosen = search.get("piece");
  const at = look || chosen ? undefined : (code ?? here[0]?.code);
  const leaf = leaves.find((l) => l === search.get("leaf")) ?? "Work";
  const open = (l: Leaf) => {
    const next = new URLSearchParams(search);
    if (l === "Work") next.delete("leaf");
    else next.set("leaf", l);
    setSearch(next, { replace: true });
  };
  return (
    <Box>
      <RoomHead
        title="Finish"
        aside={here.length === 1 ? "one copy on the bench" : `${here.length} copies on the bench`}
        acts={
          <Pick label="The plan of a piece" value={chosen ?? ""} set={(p) => go(p ? `/finish?piece=${p}&leaf=Hair` : "/finish")} width="270px">
            <option value="">a piece's plan, without a copy</option>
            {pieces.data.map((p) => (
              <option key={p.code} value={p.code}>
                {p.code}, {p.name}
              </option>
            ))}
          </Pick>
        }
      />
      <Grid templateColumns={columns("230px minmax(0,1fr)")} gap="30px">
        <Box order={{ base: 2, lg: 0 }}>
          <Heading>On the bench</Heading>
          <Standing
            empty={<Box color="muted">Nothing is made and unfinished.</Box>}
            items={here.map((c) => ({
              code: c.code,
              text: isRepair(c.state) ? `repair: ${c.reason}` : c.left_to_do === 0 ? "done, to be checked" : `${c.left_to_do} left`,
              to: `/finish/${c.code}${leaf === "Work" ? "" : `?leaf=${encodeURIComponent(leaf)}`}`,
              active: c.code === at,
            }))}
          />
        </Box>
        {at ? (
          <OfCopy code={at} key={at} leaf={leaf} open={open} />
        ) : look || chosen ? (
          <OfPlan of={look ? `look-${look}` : (chosen ?? "")} key={look ?? chosen} leaf={leaf} open={open} />
        ) : (
          <Teach>
            When a copy is made it stands here until everything on its list is done. Hair, inserts and weights can be planned before: choose a piece
            above.
          </Teach>
        )}
      </Grid>
    </Box>
  );
}

function OfCopy({ code, leaf, open }: { code: string; leaf: Leaf; open: (l: Leaf) => void }) {
  const copy = useCopy(code);
  const mould = useMould(copy.data?.mould);
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
          {stateWords(c.state)}
          {c.reason && `: ${c.reason}`}, {madeFrom(c)}
        </Box>
      </Flex>
      <Leaves of="finish" list={leaves} leaf={leaf} choose={open} />
      <Box pt="12px">
        {leaf === "Work" && (
          <>
            <Work copy={c} />
            {mould.data && (
              <Box mt="18px" maxW="820px">
                <Heading aside={<Link to={`/mould?mould=${encodeURIComponent(mould.data.code)}`}>{mould.data.code}</Link>}>
                  How it came out of its mould
                </Heading>
                {mould.data.marks
                  .filter((k) => k.copy === code)
                  .map((k) => (
                    <Box key={k.id} fontSize="14.5px">
                      <b>{k.kind}</b>
                      {k.place && `, ${k.place}`} {k.words}{" "}
                      <Box as="span" color="muted">
                        {k.who}
                      </Box>
                    </Box>
                  ))}
                <CameOut key={code} mould={mould.data} of={code} />
                <CameAgain mould={mould.data} />
              </Box>
            )}
          </>
        )}
        {leaf === "Edges and seams" && <Edges code={code} piece={c.piece} />}
        {ofPlan(leaf) && <PlanLeaf leaf={leaf} of={c.piece} copy={code} />}
      </Box>
    </Box>
  );
}

/** A plan without a copy in hand: of a piece, or of a look that has none. */
function OfPlan({ of, leaf, open }: { of: string; leaf: Leaf; open: (l: Leaf) => void }) {
  const list = leaves.filter(ofPlan);
  const at = list.find((l) => l === leaf) ?? "Hair";
  useInHand(of.startsWith("look-") ? undefined : of);
  return (
    <Box minW="0">
      <Leaves of="finish" list={list} leaf={at} choose={open} />
      <Box pt="12px">
        <PlanLeaf leaf={at} of={of} />
      </Box>
    </Box>
  );
}

/** One draft for the three leaves of a plan. */
function PlanLeaf({ leaf, of, copy }: { leaf: Leaf; of: string; copy?: string }) {
  const draft = usePlan(of, copy);
  const v = draft.view;
  if (!v) return draft.failed ? <Refusal problem={draft.failed as unknown as Problem} /> : null;
  return (
    <>
      {!copy && (
        <Flex gap="14px" align="center" mb="10px">
          {!of.startsWith("look-") && <Tag code={of} to={`/piece/${of}`} />}
          <b>{v.name}</b>
          {of.startsWith("look-") && <Box color="muted">what is done on the wearer's own, without a piece</Box>}
        </Flex>
      )}
      {leaf === "Hair" && <HairLeaf draft={draft} of={of} copy={copy} />}
      {leaf === "Inserts and worn" && <InsertsLeaf draft={draft} of={of} copy={copy} />}
      {leaf === "Weights and closures" && <LoadsLeaf draft={draft} of={of} />}
    </>
  );
}
