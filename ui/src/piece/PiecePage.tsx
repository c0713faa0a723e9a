import { Box, Flex } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../app/api";
import { useKey } from "../app/keys";
import { useFound, useLayerKinds, useMaterials, useMe, useOutlook, usePiece, useRegions } from "../app/reads";
import { useInHand } from "../app/Shell";
import { Cap, Go, Plain, Refusal } from "../parts/controls";
import { Leaves } from "../parts/Leaves";
import { cutsOf, type Layer, natureOf, withCut } from "../parts/section/geometry";
import { SectionDrawing } from "../parts/section/SectionDrawing";
import { Tag } from "../parts/Tag";
import { AddLayer } from "./AddLayer";
import { Begin } from "./Begin";
import { Compare } from "./Compare";
import { Figures } from "./Figures";
import { Findings } from "./Findings";
import { Fitting } from "./Fitting";
import { freshLayer, halves, type KindFacts, layerId, type Product } from "./kinds";
import { LayerPanel } from "./LayerPanel";
import { asMeasured, type Found, planned } from "./Measured";
import { Order } from "./Order";
import { Others, useChosen } from "./Others";
import { Refused } from "./Refused";
import { StepLog } from "./StepLog";
import { TwoVersions } from "./TwoVersions";
import { type Both, useSection } from "./useSection";
import { Whole } from "./Whole";

const leaves = ["Bands", "Order of work", "Fitting", "Whole", "Versions"] as const;
type Leaf = (typeof leaves)[number];

/** The piece page: its section, drawn and computed, and its log. */
export default function PiecePage() {
  const { code = "" } = useParams();
  const piece = usePiece(code);
  const me = useMe();
  const regions = useRegions();
  const materials = useMaterials();
  const kinds = useLayerKinds();
  const section = useSection(code);
  const found = useFound(code).data;
  const chosen = useChosen(code);
  const [selected, setSelected] = useState("skin");
  const [cutAt, setCut] = useState(0);
  const [adding, setAdding] = useState(false);
  const [beginning, setBeginning] = useState(false);
  const [trueScale, setTrueScale] = useState(false);
  const [open, setOpen] = useState<number>();
  const [reasons, setReasons] = useState<Record<string, string>>({});
  const [leaf, setLeaf] = useState<Leaf>("Bands");
  const [other, setOther] = useState<string>();
  const [log, setLog] = useState(false);
  useInHand(code);

  const products = useMemo(() => new Map(materials.data?.map((p) => [p.slug, p])), [materials.data]);
  const { doc, live, state } = section;
  const cuts = doc ? cutsOf(doc) : [];
  const cutIndex = Math.min(cutAt, Math.max(0, cuts.length - 1));
  const cut = cuts[cutIndex];
  const layers = cut?.layers ?? [];
  const at = Math.max(
    0,
    layers.findIndex((l) => l.id === selected),
  );
  const choose = (id: string) => {
    setSelected(id);
    const home = cuts.findIndex((c) => c.layers.some((l) => l.id === id));
    if (home >= 0) setCut(home);
    setLeaf("Bands");
  };
  const walk = (by: number) => setSelected(layers[Math.max(0, Math.min(layers.length - 1, at + by))]?.id ?? "skin");
  const put = (next: Layer[], now = false) => doc && section.change(withCut(doc, cutIndex, { layers: next }), now);
  const replace = (next: Layer, now = false) =>
    put(
      layers.map((l) => (l.id === next.id ? next : l)),
      now,
    );
  const shift = (by: 1 | -1) => {
    const to = at + by;
    if (at === 0 || to < 1 || to >= layers.length) return;
    const next = [...layers];
    [next[at], next[to]] = [next[to], next[at]];
    put(next, true);
  };
  const removeLayer = () => {
    if (at === 0) return;
    setSelected(layers[at - 1].id);
    put(
      layers.filter((_, i) => i !== at),
      true,
    );
  };
  const splitLayer = () => {
    const l = layers[at];
    if (!l || at === 0) return;
    const twin: Layer = { ...l, id: layerId() };
    const half = halves(l);
    if (!half) return;
    put([...layers.slice(0, at), { ...l, ...half[0] }, { ...twin, ...half[1] }, ...layers.slice(at + 1)], true);
    setSelected(twin.id);
  };
  const addLayer = (p: Product, kind: KindFacts) => {
    const fresh = freshLayer(p, kind, layerId());
    setAdding(false);
    if (fresh.extent === "centre_only" && cut) fresh.stop_mm = Math.min(fresh.stop_mm ?? 0, cut.half_width_mm);
    put([...layers.slice(0, at + 1), fresh, ...layers.slice(at + 1)], true);
    setSelected(fresh.id);
    setLeaf("Bands");
  };
  // The area goes with the thickness where the piece has one cut: then area times
  // mean is the volume that was measured.
  const takeMeasured = (f: Found) => {
    if (!doc || !cut) return;
    const next = layers.map((l, i) => (i === at ? asMeasured(l, f) : l));
    section.change(withCut(doc, cutIndex, cuts.length === 1 ? { layers: next, area_cm2: f.area_cm2 } : { layers: next }), true);
  };
  const coats = (by: number) => {
    const l = layers[at];
    if (!l || l.kind === "skin") return;
    if (natureOf(l) === "body") replace(planned(l, { centre_mm: Math.max(0.1, Math.round(((l.centre_mm ?? 0) + by * 0.5) * 100) / 100) }));
    else if (l.count !== undefined) replace({ ...l, count: Math.max(1, l.count + by) });
    else if (l.zone_coats?.length) replace({ ...l, zone_coats: l.zone_coats.map((n, i) => (i === 0 ? Math.max(0, n + by) : n)) });
    else if (l.coats) replace({ ...l, coats: Math.max(1, l.coats + by) });
  };
  const changeCut = (by: number) => cuts.length > 1 && setCut((cutIndex + by + cuts.length) % cuts.length);

  useKey("A", "add a layer", () => setAdding(true));
  useKey("T", "true scale", () => setTrueScale(!trueScale));
  useKey("ArrowUp", "walk up the bands", () => walk(1));
  useKey("ArrowDown", "walk down the bands", () => walk(-1));
  useKey("Alt+ArrowUp", "move the band up", () => shift(1));
  useKey("Alt+ArrowDown", "move the band down", () => shift(-1));
  useKey("+", "thicker, one coat more", () => coats(1));
  useKey("-", "thinner, one coat less", () => coats(-1));
  useKey("S", "split the band", splitLayer);
  useKey("C", "the next cut", cuts.length > 1 ? () => changeCut(1) : undefined);
  useKey("Delete", "remove the band", removeLayer);
  useKey("Z", "undo", state && state.step > 1 ? () => void section.undo() : undefined);
  useKey("Y", "do again", state && state.last > state.step ? () => void section.redo() : undefined);
  useKey("L", "step log", () => setLog(!log));

  if (section.failed || (piece.error && !piece.data)) return <Refusal problem={(section.failed ?? piece.error) as never} />;
  if (!doc || !live || !piece.data || !state || !regions.data || !kinds.data || !cut) return null;

  const refusedLayer = section.problem?.code === "never" ? (section.problem.data as Schemas["CraftRulesFinding"]) : undefined;
  const lead = me.data?.person?.role === "lead";
  const agree = () =>
    section.agree(
      Object.entries(reasons)
        .filter(([, reason]) => reason.trim())
        .map(([key, reason]) => ({ id: key.split("@")[0], at: key.slice(key.indexOf("@") + 1), reason })),
    );
  const layer = layers[at] ?? layers[0];
  const path = cutIndex === 0 ? `layers[${at}]` : `more[${cutIndex - 1}].layers[${at}]`;
  const problemHere = leaf === "Bands" && section.problem?.field.startsWith(path);
  const findings = live.findings ?? [];
  const mine = findings.map((f, i) => ({ f, i })).filter(({ f }) => (f.cut ?? "") === (cut.id ?? "") || (!f.cut && cutIndex === 0));
  const empty = cuts.every((c) => c.layers.length < 2);

  const figures = <Figures code={code} doc={doc} cut={cutIndex} live={live} products={products} found={found} />;
  // What is in hand stands first: the chosen band, or with none the figures.
  const band = (
    <LayerPanel
      code={code}
      layer={layer}
      cut={cut}
      kinds={kinds.data}
      products={materials.data ?? []}
      result={live.result.layers?.find((r) => r.id === layer.id)}
      problem={section.problem}
      path={path}
      change={(next) => replace(next)}
      move={shift}
      remove={removeLayer}
      swap={at > 0 && at < layers.length - 1 ? () => section.swap(doc, cutIndex, at) : undefined}
      found={found}
      take={takeMeasured}
    />
  );

  return (
    <Flex direction="column" h="100%" minH="0">
      <Flex align="center" gap="12px" mb="6px">
        <Tag code={code} />
        <Box as="h1" fontSize="23px" fontWeight="700" whiteSpace="nowrap">
          {piece.data.name}
        </Box>
        <Box color="muted" flex="1" whiteSpace="nowrap" overflow="hidden" textOverflow="ellipsis">
          <Link to={`/brief/${code}`}>{piece.data.character_name}</Link> ·{" "}
          {state.drafted
            ? `draft on §${state.base}, ${section.saving === "saved" ? "saved" : section.saving === "saving" ? "saving" : "not saved yet"}`
            : state.latest
              ? `${code} §${state.latest}, agreed by ${state.agreed_by}`
              : "nothing agreed yet"}
        </Box>
        <Plain h="34px" px="13px" onClick={() => setAdding(true)}>
          <Cap>A</Cap> add a layer
        </Plain>
        <Plain h="34px" px="13px" onClick={() => setBeginning(true)}>
          begin from
        </Plain>
        <Plain h="34px" px="13px" aria-pressed={trueScale} onClick={() => setTrueScale(!trueScale)}>
          <Cap>T</Cap> true scale
        </Plain>
        <Plain h="34px" px="13px" aria-pressed={log} onClick={() => setLog(!log)}>
          <Cap>L</Cap> log
        </Plain>
      </Flex>
      <Flex flex="1" minH="0" gap="22px">
        <Flex direction="column" flex="1" minW="0" minH="0">
          {cuts.length > 1 && !log && (
            <Leaves of="the section" list={cuts.map(cutName)} leaf={cutName(cut, cutIndex)} choose={(n) => setCut(cuts.map(cutName).indexOf(n))} />
          )}
          <Box flex="1" minH="0">
            {log ? (
              <StepLog piece={piece.data} />
            ) : (
              <SectionDrawing
                cut={cut}
                result={live.result}
                findings={mine.map(({ f }) => f)}
                numbers={mine.map(({ i }) => i + 1)}
                products={products}
                selected={selected}
                trueScale={trueScale}
                wearer={
                  piece.data.performer
                    ? `${piece.data.performer}, ${cut.name || (regions.data.find((r) => r.name === piece.data.region)?.text ?? "")}`
                    : "no performer yet"
                }
                onSelect={choose}
                onFinding={(i) => {
                  setLeaf("Bands");
                  setOpen(mine[i].i);
                }}
                onResize={(id, where, mm, done) => {
                  const l = layers.find((x) => x.id === id);
                  if (l) replace(planned(l, where === "centre" ? { centre_mm: mm } : { edge_mm: mm }), done);
                }}
              />
            )}
          </Box>
        </Flex>
        <Flex direction="column" w="392px" flexShrink="0" minH="0">
          <Others
            code={code}
            names={state.others ?? []}
            look={(key) => {
              setOther(key);
              setLeaf("Versions");
            }}
          />
          <Leaves of="the piece" list={leaves} leaf={leaf} choose={setLeaf} />
          <Flex direction="column" flex="1" minH="0" overflowY="auto" gap="14px" pe="6px" pt="10px" role="tabpanel" aria-label={leaf} tabIndex={0}>
            {refusedLayer ? (
              <Refused
                finding={refusedLayer}
                products={products}
                kinds={kinds.data}
                take={addLayer}
                close={section.clearProblem}
                message={section.problem?.message ?? ""}
              />
            ) : (
              !problemHere && (
                <Refusal problem={section.problem}>
                  {(section.problem?.code === "draft_moved" || section.problem?.code === "newer_agreed") && (
                    <>
                      {section.problem.data !== undefined && <TwoVersions both={section.problem.data as Both} products={products} />}
                      <Flex gap="8px">
                        <Plain h="34px" onClick={() => void section.carry(true)}>
                          Keep mine
                        </Plain>
                        <Plain h="34px" onClick={() => void section.carry(false)}>
                          Take the other
                        </Plain>
                      </Flex>
                    </>
                  )}
                </Refusal>
              )
            )}
            {leaf === "Bands" && (
              <>
                {layer.kind !== "skin" && band}
                {layer.kind === "skin" && figures}
                <Findings
                  findings={findings}
                  open={open}
                  setOpen={setOpen}
                  reasons={reasons}
                  setReason={lead ? (key, r) => setReasons({ ...reasons, [key]: r }) : undefined}
                  products={products}
                />
                {layer.kind !== "skin" && figures}
                {layer.kind === "skin" && band}
              </>
            )}
            {leaf === "Order of work" && <Order steps={live.result.steps ?? []} cautions={live.cautions ?? []} show={choose} />}
            {leaf === "Fitting" && (
              <Fitting
                code={code}
                doc={doc}
                result={live.result}
                company={live.company}
                change={(next) => section.change(next, true)}
                chooseFit={(id, fit) => {
                  const i = cuts.findIndex((c) => c.layers.some((l) => l.id === id));
                  if (i >= 0)
                    section.change(
                      withCut(doc, i, { layers: cuts[i].layers.map((l) => (l.id === id ? { ...l, fit: fit as Layer["fit"] } : l)) }),
                      true,
                    );
                }}
              />
            )}
            {leaf === "Whole" && (
              <Whole
                piece={piece.data}
                doc={doc}
                cut={cutIndex}
                setCut={setCut}
                products={materials.data ?? []}
                words={live.result.words ?? []}
                linesMM={live.lines_mm ?? {}}
                problem={section.problem}
                change={section.change}
                begin={(file) => void section.begin({ file })}
                fail={section.fail}
              />
            )}
            {leaf === "Versions" && <Compare key={other} code={code} seen={other} take={(key) => void section.begin({ piece: code, key })} />}
          </Flex>
          <Flex gap="8px" wrap="wrap" align="center" pt="8px">
            {state.drafted ? (
              <>
                <Go act={() => void agree()}>Agree the section</Go>
                <Plain h="36px" disabled={state.step <= 1} onClick={() => void section.undo()}>
                  Undo
                </Plain>
                <Plain h="36px" disabled={state.last <= state.step} onClick={() => void section.redo()}>
                  Again
                </Plain>
                <Plain h="36px" onClick={() => void section.drop()}>
                  Drop the draft
                </Plain>
              </>
            ) : state.latest ? (
              <MakeIt code={code} />
            ) : empty ? (
              <Go act={() => setBeginning(true)}>Begin the section</Go>
            ) : (
              <Go act={() => setAdding(true)}>Add a layer</Go>
            )}
          </Flex>
        </Flex>
      </Flex>
      {adding && <AddLayer products={materials.data ?? []} kinds={kinds.data} pick={addLayer} close={() => setAdding(false)} />}
      {beginning && (
        <Begin
          code={code}
          chosen={chosen?.method}
          heightMM={chosen?.height ?? 4}
          begin={(from) => {
            setBeginning(false);
            setCut(0);
            void section.begin(from);
          }}
          close={() => setBeginning(false)}
        />
      )}
    </Flex>
  );
}

const cutName = (c: { name?: string }, i: number) => c.name || `cut ${i + 1}`;

/** What comes after an agreed section: a mix, or a session in another way. */
function MakeIt({ code }: { code: string }) {
  const navigate = useNavigate();
  const outlook = useOutlook(code);
  if (!outlook.data) return null;
  return outlook.data.from_mix ? (
    <Go act={() => navigate(`/mix?piece=${code}`)}>Mix for it</Go>
  ) : (
    <Go act={() => navigate(`/build?piece=${code}`)}>Begin a session</Go>
  );
}
