import { Box, Flex } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../app/api";
import { useKey } from "../app/keys";
import { useMaterials, useMe, usePiece, useRegions } from "../app/reads";
import { useInHand } from "../app/Shell";
import { Cap, Figure, Go, Heading, Plain, Refusal } from "../parts/controls";
import { duration, grams, millimetres } from "../parts/format";
import type { Layer, Section } from "../parts/section/geometry";
import { SectionDrawing } from "../parts/section/SectionDrawing";
import { Tag } from "../parts/Tag";
import { AddLayer } from "./AddLayer";
import { Findings } from "./Findings";
import { freshLayer, layerId } from "./kinds";
import { LayerPanel } from "./LayerPanel";
import { StepLog } from "./StepLog";
import { TwoVersions } from "./TwoVersions";
import { type Both, useSection } from "./useSection";

/** The piece page: its section, drawn and computed, and its log. */
export default function PiecePage() {
  const { code = "" } = useParams();
  const piece = usePiece(code);
  const me = useMe();
  const regions = useRegions();
  const materials = useMaterials();
  const section = useSection(code);
  const navigate = useNavigate();
  const [selected, setSelected] = useState("skin");
  const [adding, setAdding] = useState(false);
  const [trueScale, setTrueScale] = useState(false);
  const [open, setOpen] = useState<number>();
  const [reasons, setReasons] = useState<Record<string, string>>({});
  const [log, setLog] = useState(false);
  useInHand(code);

  const products = useMemo(() => new Map(materials.data?.map((p) => [p.slug, p])), [materials.data]);
  const { doc, live, state } = section;
  const layers = doc?.layers ?? [];
  const at = Math.max(
    0,
    layers.findIndex((l) => l.id === selected),
  );
  const walk = (by: number) => setSelected(layers[Math.max(0, Math.min(layers.length - 1, at + by))]?.id ?? "skin");
  const put = (next: Layer[], now = false) => doc && section.change({ ...doc, layers: next }, now);
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
  const addLayer = (p: Schemas["CraftMaterialProduct"]) => {
    const fresh = freshLayer(p, layerId());
    setAdding(false);
    if (!fresh) return;
    put([...layers.slice(0, at + 1), fresh, ...layers.slice(at + 1)], true);
    setSelected(fresh.id);
  };
  const coats = (by: number) => {
    const l = layers[at];
    if (l?.kind === "silicone") replace({ ...l, centre_mm: Math.max(0.1, Math.round(((l.centre_mm ?? 0) + by * 0.5) * 100) / 100) });
    else if (l?.coats) replace({ ...l, coats: Math.max(1, l.coats + by) });
  };

  useKey("A", "add a layer", () => setAdding(true));
  useKey("T", "true scale", () => setTrueScale(!trueScale));
  useKey("ArrowUp", "walk up the bands", () => walk(1));
  useKey("ArrowDown", "walk down the bands", () => walk(-1));
  useKey("Alt+ArrowUp", "move the band up", () => shift(1));
  useKey("Alt+ArrowDown", "move the band down", () => shift(-1));
  useKey("+", "thicker, one coat more", () => coats(1));
  useKey("-", "thinner, one coat less", () => coats(-1));
  useKey("Delete", "remove the band", removeLayer);
  useKey("Z", "undo", state && state.step > 1 ? () => void section.undo() : undefined);
  useKey("Y", "do again", state && state.last > state.step ? () => void section.redo() : undefined);
  useKey("L", "step log", () => setLog(!log));

  if (section.failed || (piece.error && !piece.data)) return <Refusal problem={(section.failed ?? piece.error) as never} />;
  if (!doc || !live || !piece.data || !state || !regions.data) return null;

  const refusedLayer = section.problem?.code === "never" ? (section.problem.data as Schemas["CraftRulesFinding"]) : undefined;
  const lead = me.data?.person?.role === "lead";
  const agree = () => section.agree(Object.entries(reasons).map(([id, reason]) => ({ id, reason })));
  const layer = layers[at] ?? layers[0];
  const problemHere = section.problem?.field.startsWith(`layers[${at}]`);

  return (
    <Flex direction="column" h="100%" minH="0">
      <Flex align="center" gap="16px" mb="6px">
        <Tag code={code} />
        <Box as="h1" fontSize="23px" fontWeight="700">
          {piece.data.name}
        </Box>
        <Box color="muted" flex="1" whiteSpace="nowrap" overflow="hidden" textOverflow="ellipsis">
          <Link to={`/brief/${code}`}>{piece.data.character_name}</Link> ·{" "}
          {state.drafted
            ? `draft on §${state.base}, ${section.saving === "saved" ? "saved" : section.saving === "saving" ? "saving" : "not saved yet"}`
            : state.latest
              ? `${code} §${state.latest}, agreed by ${state.agreed_by}`
              : "nothing agreed yet"}
          {(state.others ?? []).length > 0 && ` · ${state.others?.join(", ")} has a draft too`}
        </Box>
        <Plain h="34px" onClick={() => setAdding(true)}>
          <Cap>A</Cap> add a layer
        </Plain>
        <Plain h="34px" aria-pressed={trueScale} onClick={() => setTrueScale(!trueScale)}>
          <Cap>T</Cap> true scale
        </Plain>
        <Plain h="34px" aria-pressed={log} onClick={() => setLog(!log)}>
          <Cap>L</Cap> log
        </Plain>
      </Flex>
      <Flex flex="1" minH="0" gap="26px">
        <Box flex="1" minW="0" minH="0">
          {log ? (
            <StepLog piece={piece.data} />
          ) : (
            <SectionDrawing
              doc={doc}
              result={live.result}
              findings={live.findings ?? []}
              products={products}
              selected={selected}
              trueScale={trueScale}
              wearer={
                piece.data.performer
                  ? `${piece.data.performer}, ${regions.data.find((r) => r.name === piece.data.region)?.text ?? ""}`
                  : "no performer yet"
              }
              onSelect={setSelected}
              onFinding={setOpen}
              onResize={(id, where, mm, done) => {
                const l = layers.find((x) => x.id === id);
                if (l) replace(where === "centre" ? { ...l, centre_mm: mm } : { ...l, edge_mm: mm }, done);
              }}
            />
          )}
        </Box>
        <Flex direction="column" w="330px" flexShrink="0" minH="0" overflowY="auto" gap="14px" pe="4px">
          {refusedLayer ? (
            <RefusedLayer
              finding={refusedLayer}
              products={products}
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
          <Box>
            <Heading aside={`at ${live.room.temp_c.toFixed(1)} °C`}>What follows from it</Heading>
            <Figure label="At the centre" why="the piece itself: film, body and latex">
              {millimetres(live.result.centre_mm)}
            </Figure>
            <Figure label="At the edge">{millimetres(live.result.edge_mm)}</Figure>
            <Figure label="Worn mass" why="everything above the skin, solids only">
              {grams(live.result.worn_g)}
            </Figure>
            <Figure label="Waiting" why="drying and curing one after another, at the room's air">
              {live.result.waiting_s ? duration(live.result.waiting_s) : "none"}
            </Figure>
          </Box>
          <LayerPanel
            layer={layer}
            index={at}
            products={materials.data ?? []}
            result={live.result.layers?.[at]}
            problem={section.problem}
            change={(next) => replace(next)}
            move={shift}
            remove={removeLayer}
          />
          <Findings
            findings={live.findings ?? []}
            open={open}
            setOpen={setOpen}
            reasons={reasons}
            setReason={lead ? (id, r) => setReasons({ ...reasons, [id]: r }) : undefined}
          />
          <details>
            <summary>Materials in one copy</summary>
            {live.result.materials?.map((m) => (
              <Figure key={m.slug} label={m.name}>
                {grams(m.grams)}
              </Figure>
            ))}
          </details>
          <Why doc={doc} result={live.result} products={products} />
          <Flex gap="8px" wrap="wrap" align="center" pb="6px">
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
              <Go act={() => navigate(`/mix?piece=${code}`)}>Mix for it</Go>
            ) : (
              <Go act={() => setAdding(true)}>Add a layer</Go>
            )}
          </Flex>
        </Flex>
      </Flex>
      {adding && <AddLayer products={materials.data ?? []} pick={addLayer} close={() => setAdding(false)} />}
    </Flex>
  );
}

/** What every figure of the section was worked out from. */
function Why({
  doc,
  result,
  products,
}: {
  doc: Section;
  result: Schemas["CraftSectionResult"];
  products: Map<string, Schemas["CraftMaterialProduct"]>;
}) {
  return (
    <details>
      <summary>Why these figures?</summary>
      <Box color="muted" fontSize="14px">
        Mass of a layer: area × mean thickness × density of the finished material. A body falls smoothly from centre to edge, so its mean is the edge
        and three tenths of the rest.
        {doc.layers.map((l, i) => {
          const p = products.get(l.material ?? "");
          const r = result.layers[i];
          return (
            p &&
            r && (
              <Box key={l.id} mt="2px">
                {p.name}: {doc.area_cm2} cm² × {millimetres(r.mean_mm)} × {p.density} g/cm³ ({p.sources?.density ?? "default"}) → {grams(r.mass_g)}
              </Box>
            )
          );
        })}
        <Box mt="4px">Latex: its solids alone weigh, air between fibres does not. Drying: closed form, still room air, band −30/+50 %.</Box>
      </Box>
    </details>
  );
}

/** A choice that nobody can sign away was refused; what to take instead. */
function RefusedLayer({
  finding,
  products,
  take,
  close,
  message,
}: {
  finding: Schemas["CraftRulesFinding"];
  products: Map<string, Schemas["CraftMaterialProduct"]>;
  take: (p: Schemas["CraftMaterialProduct"]) => void;
  close: () => void;
  message: string;
}) {
  const instead = (finding.instead ?? []).map((slug) => products.get(slug)).filter((p) => p && freshLayer(p, "x"));
  return (
    <Box
      role="alert"
      bg="rustSoft"
      borderWidth="1.5px"
      borderColor="rust"
      borderRadius="3px 16px 16px 3px"
      px="16px"
      py="11px"
      data-refused={finding.id}
    >
      <Box fontWeight="700" color="rust">
        Refused: never for this wearer
      </Box>
      <Box my="6px">{message}</Box>
      {finding.settles && (
        <Box color="muted" fontSize="14px">
          {finding.settles}
        </Box>
      )}
      <Flex gap="8px" wrap="wrap" mt="8px">
        {instead.map(
          (p) =>
            p && (
              <Plain key={p.slug} h="36px" data-instead={p.slug} onClick={() => take(p)}>
                Take {p.name.toLowerCase()}
              </Plain>
            ),
        )}
        <Plain h="36px" onClick={close}>
          Leave it
        </Plain>
      </Flex>
    </Box>
  );
}
