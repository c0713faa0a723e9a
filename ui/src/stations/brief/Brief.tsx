import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useMemo, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { api, ask, type Problem, type Schemas } from "../../app/api";
import { useKey } from "../../app/keys";
import { useRead } from "../../app/read";
import { useMe, usePiece, usePieces, useRegions } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Go, Heading, Pick, Plain, Refusal, Teach } from "../../parts/controls";
import { newId } from "../../parts/id";
import { Leaves } from "../../parts/Leaves";
import { type Kind, MapDesk, type Mark, useDesk } from "../../parts/map/MapDesk";
import { useNet } from "../../parts/map/useForm";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { Asked } from "./Asked";
import { Begun } from "./Begun";
import { Body } from "./Body";
import { Character } from "./Character";
import { Cost } from "./Cost";
import { Foot, Told } from "./Follows";
import { Marks } from "./Marks";
import { Method } from "./Method";
import { References } from "./References";
import { type BriefDraft, useBrief } from "./useBrief";
import { useOwnMarks } from "./useOwnMarks";
import { Versions } from "./Versions";
import { Wearer } from "./Wearer";
import { Worn } from "./Worn";

/** Who wears it, where, how long, how near the camera; what must stay free; the reference pinned. */
export default function Brief() {
  const { code } = useParams();
  if (!code) return <All />;
  return code.includes("-") ? <One key={code} code={code} /> : <Character code={code} />;
}

function All() {
  const pieces = usePieces();
  const navigate = useNavigate();
  if (!pieces.data) return null;
  const list = pieces.data;
  const characters = [...new Map(list.map((p) => [p.character_code, p])).values()];
  return (
    <Box>
      <RoomHead
        title="Briefs"
        aside={`${list.length} pieces, ${characters.length} characters`}
        acts={<Go act={() => navigate("/brief/new")}>Begin a piece</Go>}
      />
      {characters.length === 0 && <Teach>Every piece begins here: say who wears it and where, and it gets its code and tag.</Teach>}
      <Grid templateColumns="repeat(auto-fill, minmax(350px, 1fr))" gap="18px 34px">
        {characters.map((c) => (
          <Box key={c.character_code}>
            <Heading
              aside={
                <Box as="button" textDecoration="underline" onClick={() => navigate(`/brief/${c.character_code}`)}>
                  looks and card
                </Box>
              }
            >
              {c.character_code} · {c.character_name}
            </Heading>
            <Box layerStyle="note" mb="4px">
              {c.performer ?? "no performer yet"}
            </Box>
            <Standing
              empty={null}
              items={list
                .filter((p) => p.character_code === c.character_code)
                .map((p) => ({
                  code: p.code,
                  text: p.name,
                  to: `/brief/${p.code}`,
                  note: p.brief_number ? `brief §${p.brief_number}, ${p.copies_good} of ${p.copies_wanted} copies good` : "brief not agreed yet",
                }))}
            />
          </Box>
        ))}
      </Grid>
    </Box>
  );
}

const leaves = ["Asked", "On the map", "Method", "Worn", "Wearer", "Pictures", "Hours and cost", "Versions"] as const;

function One({ code }: { code: string }) {
  const piece = usePiece(code);
  useInHand(code);
  if (!piece.data) return null;
  return <Open piece={piece.data} />;
}

function Open({ piece: p }: { piece: Schemas["PieceView"] }) {
  const [look, setLook] = useState("");
  const draft = useBrief(p.code, look);
  const { doc, view } = draft;
  const me = useMe();
  const kinds = useKinds();
  const regions = useRegions();
  const desk = useDesk(firstSheet(p, doc?.marks));
  // A link can open the brief at a leaf: ?leaf=Method.
  const [search] = useSearchParams();
  const [leaf, setLeaf] = useState<(typeof leaves)[number]>(() => leaves.find((l) => l === search.get("leaf")) ?? "Asked");
  const own = useOwnMarks(p, view, me.data?.person?.role !== "apprentice");
  const net = useNet(p.performer_id ?? 0, desk.sheet, view?.stamps[desk.sheet]);
  // The first area that is drawn says which part of the map is looked at.
  const [shown, setShown] = useState(false);
  useEffect(() => {
    if (!doc || shown) return;
    setShown(true);
    desk.setSheet(firstSheet(p, doc.marks));
  }, [doc, shown, p, desk]);
  useKey("U", "a step back", draft.view && draft.view.state.step > 0 ? () => void draft.undo() : undefined);
  const pieces = useMemo(() => (doc && view ? [{ code: p.code, name: p.name, marks: doc.marks }, ...view.others] : []), [doc, view, p.code, p.name]);
  if (!doc || !view || !kinds.data || !regions.data) return null;
  const lookWords = own.looks.length > 0;
  return (
    // On a narrow screen the map stands above the leaves and the room scrolls as one.
    <Flex direction="column" h={{ lg: "100%" }} minH="0">
      <RoomHead
        code={p.code}
        to={`/piece/${p.code}`}
        title={p.name}
        aside={`${p.performer ?? "no performer yet"} · ${head(doc, view)} · ${stateWords(draft)}`}
        acts={
          lookWords && (
            <Pick label="Look" value={view.look} set={setLook} width="150px">
              {own.looks.map((l) => (
                <option key={l.name} value={l.name}>
                  {l.code}
                </option>
              ))}
            </Pick>
          )
        }
      />
      <Grid
        templateColumns={columns("minmax(0, 1fr) minmax(0, 1.04fr)")}
        templateRows={{ base: "360px auto", lg: "minmax(0, 1fr)" }}
        gap="22px"
        flex="1"
        minH="0"
      >
        <MapDesk
          desk={desk}
          performer={p.performer_id ?? 0}
          stamps={view.stamps}
          pieces={pieces}
          look={own.look}
          wearer={own.wearer}
          areas={view.map.areas}
          openings={view.map.openings}
          kinds={kinds.data}
          title={`The wearer's map of ${p.code}`}
          print={`/api/pieces/${p.code}/map.svg?look=${encodeURIComponent(view.look)}`}
          edit={(c, points) => {
            const put = (list: Mark[]) => list.map((m) => (m.id === c.id ? { ...m, points } : m));
            if (c.of === "piece") draft.change({ marks: put(doc.marks) });
            else own.set?.(c.of, put(c.of === "look" ? own.look : own.wearer));
          }}
        />
        <Flex direction="column" minH="0">
          <Leaves of="the brief" list={leaves} leaf={leaf} choose={setLeaf} />
          <Box flex="1" minH="0" overflowY={{ lg: "auto" }} pt="10px" pe={{ lg: "6px" }} role="tabpanel" aria-label={leaf} tabIndex={0}>
            {leaf === "Asked" && (
              <Flex direction="column" gap="14px">
                <Asked code={p.code} draft={draft} />
                <Begun piece={p} />
              </Flex>
            )}
            {leaf === "On the map" && (
              <Flex direction="column" gap="12px">
                <Marks
                  desk={desk}
                  kinds={kinds.data}
                  regions={net?.regions ?? []}
                  result={view.map}
                  pictures={p.references}
                  of={{
                    piece: { marks: doc.marks, set: (marks) => draft.change({ marks }, true), name: p.code },
                    look: { marks: own.look, set: own.set && view.look ? (m) => own.set?.("look", m) : undefined, name: view.look },
                    wearer: {
                      marks: own.wearer,
                      set: own.set && p.performer_id ? (m) => own.set?.("wearer", m) : undefined,
                      name: p.performer ?? "the wearer",
                    },
                  }}
                />
                <Refusal problem={own.problem ?? mapProblem(draft.problem)}>
                  {own.problem && (
                    <Plain h="34px" alignSelf="start" onClick={own.letGo}>
                      Show what stands there
                    </Plain>
                  )}
                </Refusal>
                <Told view={view} />
              </Flex>
            )}
            {leaf === "Method" && <Method piece={p} />}
            {leaf === "Worn" && <Worn piece={p} draft={draft} />}
            {leaf === "Wearer" && (
              <Flex direction="column" gap="16px">
                <Wearer id={p.performer_id} />
                {p.performer_id && <Body id={p.performer_id} part={desk.sheet} />}
              </Flex>
            )}
            {leaf === "Pictures" && (
              <References
                piece={p}
                list={(text, picture) => draft.change({ features: [...doc.features, { id: newId(), text, region: "", picture }] }, true)}
              />
            )}
            {leaf === "Hours and cost" && <Cost code={p.code} draft={draft} />}
            {leaf === "Versions" && <Versions code={p.code} draft={draft} />}
          </Box>
          <Foot piece={p} draft={draft} show={() => setLeaf("On the map")} />
        </Flex>
      </Grid>
    </Flex>
  );
}

const mapProblem = (p: Problem | undefined) => (p?.field.startsWith("marks") ? p : undefined);

function firstSheet(p: Schemas["PieceView"], marks: Mark[] | undefined): string {
  if (marks?.[0]) return marks[0].sheet;
  const side = p.side || "L";
  const hand = ["hand_back", "knuckle", "finger"].includes(p.region);
  if (hand) return `hand_back_${side}`;
  if (p.region === "palm") return `palm_${side}`;
  if (["forearm", "upper_arm"].includes(p.region)) return `forearm_${side}`;
  return ["belly", "chest", "back"].includes(p.region) ? "belly" : "head";
}

const useKinds = () =>
  useRead<Kind[]>({ queryKey: ["map kinds"], queryFn: () => ask(api.GET("/api/map/kinds")), staleTime: Number.POSITIVE_INFINITY });

function head(doc: Schemas["PieceBrief"], view: Schemas["BriefView"]): string {
  const parts = [`${doc.camera} camera`];
  if (doc.wear_hours) parts.unshift(`worn ${doc.wear_hours} h`);
  if (view.wear.worst_day) parts.push(view.wear.worst_day);
  return parts.join(", ");
}

function stateWords({ view, waiting }: BriefDraft): string {
  if (!view) return "";
  const agreed = view.state.latest ? `§${view.state.latest} agreed by ${view.state.agreed_by}` : "nothing agreed yet";
  if (waiting) return `${agreed}, not saved yet`;
  return view.state.drafted ? `${agreed}, draft saved` : agreed;
}
