import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../app/api";
import { Amounts } from "../parts/Amounts";
import { Figure, Heading } from "../parts/controls";
import { duration, grams, millimetres } from "../parts/format";
import { cutsOf, type Section } from "../parts/section/geometry";
import type { Product } from "./kinds";
import type { Found } from "./Measured";

interface Props {
  code: string;
  doc: Section;
  cut: number;
  live: Pick<Schemas["PieceSectionView"], "result" | "company" | "room">;
  products: Map<string, Product>;
  found?: Found;
}

/** What follows from the section in figures, and what each was worked out from. */
export function Figures({ code, doc, cut, live, products, found }: Props) {
  const { result, company } = live;
  const here = result.cuts?.[cut];
  return (
    <>
      <Box>
        <Heading aside={`at about ${live.room.temp_c} °C`}>What follows from it</Heading>
        <Figure label="At the centre" why="the piece itself: film, body and latex">
          {millimetres(here?.centre_mm ?? result.centre_mm)}
        </Figure>
        <Figure label="At the edge">{millimetres(here?.edge_mm ?? result.edge_mm)}</Figure>
        {found && found.scan > 0 && (
          <Figure label="On the sculpt" why="mean thickness off the core, by its newest scan">
            <Link to={`/form/${code}`}>{millimetres(found.mean_mm)} mean</Link>
            {found.places.length > 0 && <Small> {found.places.length === 1 ? "one to mend" : `${found.places.length} to mend`}</Small>}
          </Figure>
        )}
        <Figure label="Worn mass" why="everything above the skin, solids only">
          {grams(result.worn_g)}
          {company.total_g > result.worn_g + 0.05 && <Small> of {grams(company.total_g)} in all</Small>}
        </Figure>
        <Figure label="Hands on" why="our own figures, until the shop's log replaces them">
          {duration(result.hands_s)}
        </Figure>
        <Figure label="Waiting" why="drying and curing one after another, at the room's air">
          {result.waiting_s ? duration(result.waiting_s) : "none"}
        </Figure>
        <Figure label="Material of a copy" why="what is drawn for it, wet, with waste and its share of the mould">
          {money(result.cost_minor)}
          {result.materials?.some((m) => m.price_default) && <Small> default prices</Small>}
        </Figure>
      </Box>
      <Amounts code={code} quiet />
      <details>
        <summary>Drawn for one copy, and what it costs</summary>
        {result.materials?.map((m) => (
          <Figure key={m.slug} label={m.name} why={m.area_cm2 ? `${m.area_cm2.toFixed(0)} cm² of it, every coat` : undefined}>
            {grams(m.grams)} <Small>{money(m.cost_minor)}</Small>
          </Figure>
        ))}
        <Box mt="6px" borderTopWidth="1px" borderColor="line" />
        {result.cost.map((c) => (
          <Figure key={c.part} label={costWords[c.part]} why={c.note}>
            {money(c.cost_minor)}
          </Figure>
        ))}
      </details>
      <Why doc={doc} result={result} products={products} />
    </>
  );
}

const money = (minor: number) => (minor / 100).toFixed(2);

/** The parts of what a copy costs, as they are said. */
const costWords: Record<Schemas["CraftSectionCostPart"]["part"], string> = {
  layers: "Its layers",
  fibre: "Tissue, gauze, cotton",
  release: "Release",
  waste: "Waste",
  mould: "Its share of the mould",
};

function Small({ children }: { children: React.ReactNode }) {
  return (
    <Box as="span" color="muted" fontWeight="400" fontSize="13.5px">
      {children}
    </Box>
  );
}

/** What every figure of the section was worked out from. */
function Why({ doc, result, products }: { doc: Section; result: Schemas["CraftSectionResult"]; products: Map<string, Product> }) {
  // Its rows are many: they are made when somebody asks.
  const [open, setOpen] = useState(false);
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Why these figures?</summary>
      {open && <Rows doc={doc} result={result} products={products} />}
    </details>
  );
}

function Rows({ doc, result, products }: { doc: Section; result: Schemas["CraftSectionResult"]; products: Map<string, Product> }) {
  const wider = result.body.area_cm2 / cutsOf(doc).reduce((sum, c) => sum + c.area_cm2, 0);
  return (
    <Box layerStyle="note">
      Mass of a layer: area × mean thickness × density of the finished material. A body has the mean of its own shape: as bodies usually fall, drawn
      by hand, as its texture stands, or as it was measured; where another volume or area is believed, everything goes by that.
      {cutsOf(doc).flatMap((c) =>
        c.layers.map((l) => {
          const p = products.get(l.material ?? "");
          const r = result.layers?.find((x) => x.id === l.id);
          return (
            p &&
            r && (
              <Box key={l.id} mt="2px">
                {p.name}: {(c.area_cm2 * wider).toFixed(1)} cm² × {millimetres(r.mean_mm)} × {p.density} g/cm³ ({p.sources?.density ?? "default"}) →{" "}
                {grams(r.mass_g)}
              </Box>
            )
          );
        }),
      )}
      <Box mt="4px">Latex: its solids alone weigh, air between fibres does not. Drying: closed form, still room air, band −30/+50 %.</Box>
    </Box>
  );
}
