import { Box, Flex } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { useParams } from "react-router";
import { useFound, useLayerKinds, useMaterials, useMe, usePiece, useRegions } from "../app/reads";
import { useInHand } from "../app/Shell";
import { Refusal } from "../parts/controls";
import { Leaves } from "../parts/Leaves";
import { type Layer, withCut } from "../parts/section/geometry";
import { SectionDrawing } from "../parts/section/SectionDrawing";
import { Acts } from "./Acts";
import { AddLayer } from "./AddLayer";
import { Begin } from "./Begin";
import { Compare } from "./Compare";
import { Figures } from "./Figures";
import { Findings } from "./Findings";
import { Fitting } from "./Fitting";
import { Head } from "./Head";
import type { KindFacts, Product } from "./kinds";
import { LayerPanel } from "./LayerPanel";
import { planned } from "./Measured";
import { Objection } from "./Objection";
import { Order } from "./Order";
import { Others, useChosen } from "./Others";
import { Proposals } from "./Proposals";
import { shaped } from "./Shape";
import { StepLog } from "./StepLog";
import { useBands } from "./useBands";
import { useSection } from "./useSection";
import { Whole } from "./Whole";

const leaves = ["Bands", "Order of work", "Fitting", "Whole", "Versions"] as const;
type Leaf = (typeof leaves)[number];

/** The piece page: its section, drawn and computed, and its log. */
export default function PiecePage() {
  const { code = "" } = useParams();
  // Another piece is another draft: nothing of this one's may stay.
  return <Page key={code} code={code} />;
}

function Page({ code }: { code: string }) {
  const piece = usePiece(code);
  const me = useMe();
  const regions = useRegions();
  const materials = useMaterials();
  const kinds = useLayerKinds();
  const section = useSection(code);
  const bands = useBands(section);
  const found = useFound(code).data;
  const chosen = useChosen(code);
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
  const { cuts, cut, cutIndex, layer } = bands;

  if (section.failed || (piece.error && !piece.data)) return <Refusal problem={(section.failed ?? piece.error) as never} />;
  if (!doc || !live || !piece.data || !state || !regions.data || !kinds.data || !cut) return null;

  const lead = me.data?.person?.role === "lead";
  const agree = () =>
    section.agree(
      Object.entries(reasons)
        .filter(([, reason]) => reason.trim())
        .map(([key, reason]) => ({ id: key.split("@")[0], at: key.slice(key.indexOf("@") + 1), reason })),
    );
  const choose = (id: string) => {
    bands.choose(id);
    setLeaf("Bands");
  };
  const add = (p: Product, kind: KindFacts) => {
    setAdding(false);
    bands.add(p, kind);
    setLeaf("Bands");
  };
  const findings = live.findings ?? [];
  const mine = findings.map((f, i) => ({ f, i })).filter(({ f }) => (f.cut ?? "") === (cut.id ?? "") || (!f.cut && cutIndex === 0));

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
      path={bands.path}
      change={(next) => bands.replace(next)}
      move={bands.shift}
      remove={bands.remove}
      swap={bands.at > 0 && bands.at < bands.layers.length - 1 ? () => section.swap(doc, cutIndex, bands.at) : undefined}
      found={found}
      take={bands.take}
    />
  );

  return (
    <Flex direction="column" h={{ lg: "100%" }} minH="0">
      <Head
        piece={piece.data}
        section={section}
        add={() => setAdding(true)}
        begin={() => setBeginning(true)}
        trueScale={trueScale}
        setTrueScale={setTrueScale}
        log={log}
        setLog={setLog}
      />
      <Flex direction={{ base: "column", lg: "row" }} flex="1" minH="0" gap="22px">
        <Flex direction="column" flex="1" minW="0" minH="0">
          {cuts.length > 1 && !log && (
            <Leaves
              of="the section"
              list={cuts.map(cutName)}
              leaf={cutName(cut, cutIndex)}
              choose={(n) => bands.setCut(cuts.map(cutName).indexOf(n))}
            />
          )}
          <Box flex="1" minH="0" h={{ base: log ? "auto" : "60vw", lg: "auto" }}>
            {log ? (
              <StepLog piece={piece.data} />
            ) : (
              <SectionDrawing
                cut={cut}
                result={live.result}
                findings={mine.map(({ f }) => f)}
                numbers={mine.map(({ i }) => i + 1)}
                products={products}
                selected={bands.selected}
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
                  const l = bands.layers.find((x) => x.id === id);
                  if (!l) return;
                  const next =
                    typeof where === "number" ? shaped(l, where, mm) : planned(l, where === "centre" ? { centre_mm: mm } : { edge_mm: mm });
                  bands.replace(next, done);
                }}
              />
            )}
          </Box>
        </Flex>
        <Flex direction="column" w={{ base: "100%", lg: "392px" }} flexShrink="0" minH="0">
          <Others
            code={code}
            names={state.others ?? []}
            look={(key) => {
              setOther(key);
              setLeaf("Versions");
            }}
          />
          <Leaves of="the piece" list={leaves} leaf={leaf} choose={setLeaf} />
          <Flex
            direction="column"
            flex="1"
            minH="0"
            overflowY={{ lg: "auto" }}
            gap="14px"
            pe={{ lg: "6px" }}
            pt="10px"
            role="tabpanel"
            aria-label={leaf}
            tabIndex={0}
          >
            <Objection section={section} products={products} kinds={kinds.data} add={add} />
            {leaf === "Bands" && (
              <>
                {layer.kind !== "skin" && band}
                {layer.kind === "skin" && figures}
                <Proposals code={code} />
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
                setCut={bands.setCut}
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
          <Acts
            code={code}
            section={section}
            empty={cuts.every((c) => c.layers.length < 2)}
            agree={() => void agree()}
            begin={() => setBeginning(true)}
            add={() => setAdding(true)}
          />
        </Flex>
      </Flex>
      {adding && <AddLayer products={materials.data ?? []} kinds={kinds.data} pick={add} close={() => setAdding(false)} />}
      {beginning && (
        <Begin
          code={code}
          chosen={chosen?.method}
          heightMM={chosen?.height ?? 4}
          begin={(from) => {
            setBeginning(false);
            bands.setCut(0);
            void section.begin(from);
          }}
          close={() => setBeginning(false)}
        />
      )}
    </Flex>
  );
}

const cutName = (c: { name?: string }, i: number) => c.name || `cut ${i + 1}`;
