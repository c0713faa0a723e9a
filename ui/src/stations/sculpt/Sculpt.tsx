import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useMemo, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../app/api";
import { useKey } from "../../app/keys";
import { usePiece } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Cap, Plain, Teach } from "../../parts/controls";
import { Leaves } from "../../parts/Leaves";
import { RoomHead } from "../../parts/Room";
import { Profile } from "../../parts/relief/Profile";
import { ReliefView } from "../../parts/relief/ReliefView";
import type { Light, Point } from "../../parts/relief/relief";
import { Eye } from "./Eye";
import { Conflicted, Foot, Status } from "./Foot";
import { Gate } from "./Gate";
import { House } from "./House";
import { InClay } from "./InClay";
import { Layers } from "./Layers";
import { Overlay, type Shape } from "./Overlay";
import { Paint } from "./Paint";
import { Photos } from "./Photos";
import { Print } from "./Print";
import { RegionLeaf } from "./RegionLeaf";
import { withShape } from "./Shapes";
import { Split } from "./Split";
import { type Step, type TextureDraft, useRelief, useTexture } from "./useTexture";
import { Volume } from "./Volume";
import { Work } from "./Work";

/** The sculpting room: a look becomes relief, and relief becomes work for hands. */
export default function Sculpt() {
  const { code } = useParams();
  return code ? <One key={code} code={code} /> : <InClay />;
}

const leaves = ["Work", "Texture", "Region", "Eye", "Relief or paint", "Paint", "Gate", "Pictures", "House", "Volume"] as const;

function One({ code }: { code: string }) {
  const piece = usePiece(code);
  useInHand(code);
  if (!piece.data) return null;
  return <Desk piece={piece.data} />;
}

function Desk({ piece: p }: { piece: Schemas["PieceView"] }) {
  const draft = useTexture(p.code);
  const { doc, view } = draft;
  const [search] = useSearchParams();
  const [leaf, setLeaf] = useState<(typeof leaves)[number] | undefined>(() => leaves.find((l) => l === search.get("leaf")));
  const [light, setLight] = useState<Light>({ azimuth: 305, altitude: 24 });
  const [cutting, setCutting] = useState(true);
  const [cut, setCut] = useState<[Point, Point]>();
  const [shape, setShape] = useState<Shape>();
  const [held, setHeld] = useState<string>();
  const at = leaf ?? (view?.begun && view.doc.layers.length > 0 ? "Work" : "Region");
  const looked = useRelief(doc, at === "Paint");
  const judged = looked.judged ?? view?.judged;
  const found = useMemo(() => [...(judged?.found ?? []), ...(view?.surface.findings ?? [])], [judged, view]);

  const outline = looked.sent?.outline;
  const box = useMemo<[number, number, number, number]>(() => {
    const points = outline?.[0] ?? [];
    if (points.length === 0) return [0, 0, 100, 100];
    const xs = points.map((q) => q[0]);
    const ys = points.map((q) => q[1]);
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  }, [outline]);
  useEffect(() => {
    setCut([
      [box[0] + 0.05 * (box[2] - box[0]), (box[1] + box[3]) / 2],
      [box[2] - 0.05 * (box[2] - box[0]), (box[1] + box[3]) / 2],
    ]);
  }, [box]);

  const step = inHand(judged?.work.steps ?? [], view?.ticks.map((t) => t.key) ?? [], held);
  const finish = () => {
    const least = shape?.kind === "guide" ? 2 : shape?.kind === "landmark" ? 1 : 3;
    if (shape && doc && shape.index === undefined && shape.points.length >= least) draft.change(withShape(doc, shape), true);
    setShape(undefined);
  };
  useKey("Enter", "the line is finished", shape && shape.index === undefined ? finish : undefined);
  useKey("Escape", "let the line go", shape ? () => setShape(undefined) : undefined);
  useKey("L", "turn the light", () => setLight((l) => ({ ...l, azimuth: (l.azimuth + 30) % 360 })));
  useKey("X", "the cut", () => setCutting(!cutting));
  useKey("P", "print at true scale", doc && view?.begun ? () => window.open(`/api/pieces/${p.code}/texture.pdf?page=A4`, "_blank") : undefined);
  useKey("U", "a step back", view && view.state.step > 0 ? () => void draft.undo() : undefined);

  if (!doc || !view) return null;
  const wrong = draft.problem ?? looked.problem;
  const empty = doc.layers.length === 0;
  return (
    <Flex direction="column" h="100%" minH="0">
      <RoomHead
        code={p.code}
        to={`/piece/${p.code}`}
        title={p.name}
        aside={stateWords(draft)}
        acts={
          <Flex gap="14px" align="center" layerStyle="note">
            <Flex gap="6px" align="center" display={{ base: "none", lg: "flex" }}>
              <Cap>L</Cap> light <Cap>X</Cap> cut <Cap>P</Cap> print 1:1
            </Flex>
            <Print code={p.code} can={view.begun && !empty} />
          </Flex>
        }
      />
      <Grid templateColumns={{ base: "minmax(0, 1fr)", md: "minmax(0, 0.92fr) minmax(0, 1fr)" }} gap="24px" flex="1" minH="0">
        <Box minW="0">
          <ReliefView
            relief={looked.relief}
            box={box}
            light={light}
            turn={setLight}
            title={`Relief of ${p.code}`}
            height={404}
            cursor={shape && shape.index === undefined ? "crosshair" : undefined}
            onPoint={(q) => {
              if (!shape || shape.index !== undefined) return;
              const point: Point = [Math.round(10 * q[0]) / 10, Math.round(10 * q[1]) / 10];
              if (shape.kind === "landmark") {
                draft.change(withShape(doc, { ...shape, points: [point] }), true);
                setShape(undefined);
              } else setShape({ ...shape, points: [...shape.points, point] });
            }}
            over={(place) => (
              <Overlay
                place={place}
                doc={doc}
                outline={outline ?? []}
                guides={looked.sent?.guides ?? []}
                found={at === "Work" || at === "Eye" ? found : []}
                step={at === "Work" ? step : undefined}
                pressed={looked.sent?.pressed}
                rims={at === "Relief or paint" ? looked.sent?.rims : undefined}
                even={at === "Eye" ? judged?.repetition.spots : undefined}
                shape={shape}
                move={(points, done) => {
                  if (!shape) return;
                  setShape({ ...shape, points });
                  if (done && shape.index !== undefined) draft.change(withShape(doc, { ...shape, points }));
                }}
                cut={cutting && !shape && looked.relief ? cut : undefined}
                setCut={setCut}
              />
            )}
          >
            <Status looked={looked} empty={empty} />
          </ReliefView>
          <Flex gap="10px" mt="6px" align="center" minH="34px">
            {shape && shape.index === undefined && shape.kind !== "landmark" ? (
              <>
                <Plain h="32px" onClick={finish}>
                  Finished
                </Plain>
                <Plain h="32px" disabled={shape.points.length === 0} onClick={() => setShape({ ...shape, points: shape.points.slice(0, -1) })}>
                  A point back
                </Plain>
                <Plain h="32px" onClick={() => setShape(undefined)}>
                  Let it go
                </Plain>
              </>
            ) : (
              <Foot draft={draft} wrong={wrong?.status === 409 ? undefined : wrong} empty={empty} />
            )}
          </Flex>
          {wrong && <Conflicted draft={draft} />}
          {cutting && cut && looked.relief && !wrong && <Profile relief={looked.relief} from={cut[0]} to={cut[1]} />}
        </Box>
        <Flex direction="column" minH="0">
          <Leaves of="the sculpt" list={leaves} leaf={at} choose={setLeaf} />
          <Box flex="1" minH="0" overflowY="auto" pt="10px" pe="6px" role="tabpanel" aria-label={at} tabIndex={0}>
            {at === "Work" &&
              (judged ? (
                <Work code={p.code} draft={draft} view={view} judged={judged} found={found} step={step} hold={setHeld} />
              ) : (
                <Teach act={<Plain onClick={() => setLeaf("Texture")}>Choose a texture</Plain>}>
                  Choose a texture; stamps to make, rows to press, hours and clay follow from it.
                </Teach>
              ))}
            {at === "Texture" && <Layers doc={doc} change={draft.change} wrong={wrong} />}
            {at === "Region" && <RegionLeaf piece={p} doc={doc} change={draft.change} shape={shape} setShape={setShape} thickness={view.thickness} />}
            {at === "Eye" &&
              (judged ? <Eye judged={judged} found={found} /> : <Teach>Choose a texture; then it is judged here as an eye would.</Teach>)}
            {at === "Relief or paint" && <Split doc={doc} change={draft.change} judged={judged} />}
            {at === "Paint" && <Paint doc={doc} change={draft.change} looked={looked} />}
            {at === "Gate" && <Gate code={p.code} view={view} />}
            {at === "Pictures" && <Photos code={p.code} />}
            {at === "House" && <House code={p.code} doc={doc} change={draft.change} />}
            {at === "Volume" && <Volume piece={p} />}
          </Box>
        </Flex>
      </Grid>
    </Flex>
  );
}

/** The step that is next, or the one that was taken in hand. */
function inHand(steps: Step[], done: string[], held?: string): Step | undefined {
  return steps.find((s) => s.key === held && !done.includes(s.key)) ?? steps.find((s) => !done.includes(s.key));
}

function stateWords({ view, doc, waiting }: TextureDraft): string {
  if (!view || !doc) return "";
  const parts = [`seed ${doc.seed}`];
  parts.push(view.state.latest ? `§${view.state.latest} agreed by ${view.state.agreed_by}` : "nothing agreed yet");
  if (waiting) parts.push("not saved yet");
  else if (view.state.drafted) parts.push("draft saved");
  if (view.state.others.length) parts.push(`${view.state.others.join(", ")} draws too`);
  return parts.join(" · ");
}
