import { Box, Flex, Grid } from "@chakra-ui/react";
import { useRef, useState } from "react";
import type { Problem, Schemas } from "../app/api";
import { Choose, Entry, Heading, Plain } from "../parts/controls";
import { type Cut, cutsOf, type Section, withCut } from "../parts/section/geometry";
import { Tick } from "./BandMore";
import { CutLine } from "./CutLine";
import { Amount } from "./entries";
import { layerId, type Product } from "./kinds";

interface Props {
  piece: Schemas["PieceView"];
  doc: Section;
  cut: number;
  setCut: (i: number) => void;
  products: Product[];
  words: string[];
  linesMM: Record<string, number>;
  problem?: Problem;
  change: (next: Section, now?: boolean) => void;
  begin: (file: Schemas["PieceSectionFile"]) => void;
  fail: (message: string) => void;
}

const made: [string, string][] = [
  ["", "as its layers are usually made"],
  ["skin", "straight on the skin"],
  ["form", "on a form"],
  ["mould", "in a mould"],
];
const stuff: [string, string][] = [
  ["", "not said"],
  ["gypsum", "gypsum"],
  ["silicone_addition", "addition silicone"],
  ["silicone_condensation", "condensation silicone"],
  ["resin", "resin"],
  ["laminate", "glass laminate"],
  ["epoxy", "amine epoxy"],
  ["print", "printed resin"],
  ["sulphur_clay", "sulphur clay"],
  ["copper", "copper or brass"],
];

/** What is said of the whole piece: its cuts and zones, what it is made in, how it is carried, and its files. */
export function Whole({ piece, doc, cut, setCut, products, words, linesMM, problem, change, begin, fail }: Props) {
  const cuts = cutsOf(doc);
  const here = cuts[cut] ?? doc;
  const m = doc.made ?? {};
  const support = doc.support ?? {};
  const field = (name: string) => (cut === 0 ? name : `more[${cut - 1}].${name}`);
  const at = (name: string) => problem?.at(field(name), name);
  const set = (next: Partial<Cut>) => change(withCut(doc, cut, next));
  // A further cut takes half of this one's area over, with the same layers to begin with.
  const add = () => {
    const area_cm2 = Math.round(here.area_cm2 * 5) / 10;
    const fresh: Cut = {
      id: layerId(),
      name: "",
      half_width_mm: here.half_width_mm,
      area_cm2,
      zones: here.zones,
      layers: here.layers.map((l) => ({ ...l, id: layerId() })),
    };
    const halved = withCut(doc, cut, { area_cm2 });
    change({ ...halved, more: [...(halved.more ?? []), fresh] }, true);
    setCut(cuts.length);
  };
  return (
    <Flex direction="column" gap="16px">
      <Box>
        <Heading
          aside={
            <Box as="button" textDecoration="underline" onClick={add}>
              one more cut
            </Box>
          }
        >
          {cuts.length > 1 ? `Cut ${cut + 1} of ${cuts.length}` : "Where it is cut"}
        </Heading>
        <Grid templateColumns="1fr 1fr" gap="8px">
          <Entry label="It runs over the" name="cut_name" value={here.name ?? ""} placeholder="brow, cheek …" set={(name) => set({ name })} />
          <Amount
            label="Centre to edge"
            kind="length"
            value={here.half_width_mm}
            unit="mm"
            name="half_width_mm"
            set={(half_width_mm) => set(fitTo(here, half_width_mm))}
            problem={at("half_width_mm")}
          />
          <Amount
            label="Stands for"
            kind="area"
            value={here.area_cm2}
            unit="cm²"
            name="area_cm2"
            set={(area_cm2) => set({ area_cm2 })}
            problem={at("area_cm2")}
          />
          {cut > 0 && (
            <Plain
              alignSelf="end"
              onClick={() => {
                setCut(0);
                change({ ...doc, more: (doc.more ?? []).filter((_, i) => i !== cut - 1) }, true);
              }}
            >
              Take this cut out
            </Plain>
          )}
        </Grid>
        <CutLine piece={piece} cut={here} mm={linesMM[here.id ?? ""]} set={(line) => set({ line })} reach={(mm) => set(fitTo(here, mm))} />
      </Box>
      <Zones cut={here} set={set} problem={problem} />
      <Box>
        <Heading>How it is made</Heading>
        <Grid templateColumns="1fr 1fr" gap="8px">
          <Pairs
            label="Built"
            name="made_on"
            value={m.on ?? ""}
            list={made}
            set={(on) => change({ ...doc, made: { ...m, on: on as typeof m.on } })}
          />
          <Pairs
            label="Form or mould of"
            name="made_of"
            value={m.of ?? ""}
            list={stuff}
            set={(of) => change({ ...doc, made: { ...m, of: of as typeof m.of } })}
          />
          <Pairs
            label="Release"
            name="release"
            value={m.release ?? ""}
            list={[["", "none said"], ...products.filter((p) => p.family === "release").map((p): [string, string] => [p.slug, p.name])]}
            set={(release) => change({ ...doc, made: { ...m, release } })}
          />
          <Pairs
            label="Coloured"
            name="paint_when"
            value={doc.paint_when ?? ""}
            list={[
              ["", "on the face"],
              ["before", "before it goes on"],
              ["partly", "partly before, the rest on the face"],
            ]}
            set={(w) => change({ ...doc, paint_when: w as typeof doc.paint_when })}
          />
        </Grid>
        <Flex as="label" gap="7px" align="center" mt="6px" fontSize="14.5px">
          <input type="checkbox" checked={!!m.sealed} onChange={(e) => change({ ...doc, made: { ...m, sealed: e.target.checked } })} />
          sealed, and cured through
        </Flex>
      </Box>
      <Box>
        <Heading>What carries it</Heading>
        <Entry
          label="Anchors, one a line"
          name="anchors"
          rows={2}
          value={(support.anchors ?? []).join("\n")}
          placeholder="webbing harness over both shoulders"
          set={(t) =>
            change({
              ...doc,
              support: {
                ...support,
                anchors: t
                  .split("\n")
                  .filter((x, i, all) => x.trim() !== "" || i === all.length - 1)
                  .slice(0, 12),
              },
            })
          }
        />
        <Pairs
          label="It should"
          name="movement"
          value={support.movement ?? ""}
          list={[
            ["", "not said"],
            ["still", "keep still"],
            ["follows", "follow the body"],
            ["swings", "swing"],
          ]}
          set={(movement) => change({ ...doc, support: { ...support, movement: movement as typeof support.movement } })}
        />
      </Box>
      <Box>
        <Heading>What touches the wearer with it</Heading>
        <Flex gap="4px 18px" wrap="wrap" fontSize="14.5px">
          {products
            .filter((p) => p.family === "glove" || p.family === "tool")
            .map((p) => {
              const list = doc.touching ?? [];
              const on = list.includes(p.slug);
              return (
                <Tick
                  key={p.slug}
                  on={on}
                  set={(is) => {
                    const touching = is ? [...list, p.slug] : list.filter((x) => x !== p.slug);
                    change({ ...doc, touching: touching.length > 0 ? touching : undefined });
                  }}
                >
                  {p.name.toLowerCase()}
                </Tick>
              );
            })}
        </Flex>
      </Box>
      <Box>
        <Heading>In words</Heading>
        <Box as="ol" ps="20px" fontSize="14.5px" lineHeight="1.45" data-testid="in-words">
          {counted(words).map(({ w, key }) => (
            <li key={key}>{w}</li>
          ))}
        </Box>
      </Box>
      <Files code={piece.code} begin={begin} fail={fail} />
    </Flex>
  );
}

/** Sentences with a key each, the same sentence told apart by how often it came before. */
function counted(words: string[]): { w: string; key: string }[] {
  const seen = new Map<string, number>();
  return words.map((w) => {
    const n = seen.get(w) ?? 0;
    seen.set(w, n + 1);
    return { w, key: `${w}${n}` };
  });
}

/** A cut of another width: zones follow the edge when it moves, and the coats by zone follow the zones. */
export function fitTo(cut: Cut, half_width_mm: number): Partial<Cut> {
  const zones = cut.zones ?? [];
  if (zones.length === 0) return { half_width_mm };
  const kept = zones.map((_, i) => i).filter((i) => zones[i].to_mm < half_width_mm || i === zones.length - 1);
  const next = kept.map((i, k) => (k === kept.length - 1 ? { ...zones[i], to_mm: half_width_mm } : zones[i]));
  return {
    half_width_mm,
    zones: next,
    layers: cut.layers.map((l) => (l.zone_coats?.length ? { ...l, zone_coats: kept.map((i) => l.zone_coats?.[i] ?? 1) } : l)),
  };
}

function Pairs({
  label,
  name,
  value,
  list,
  set,
}: {
  label: string;
  name: string;
  value: string;
  list: [string, string][];
  set: (v: string) => void;
}) {
  return (
    <Choose label={label} name={name} value={value} set={set}>
      {list.map(([v, text]) => (
        <option key={v} value={v}>
          {text}
        </option>
      ))}
    </Choose>
  );
}

function Zones({ cut, set, problem }: { cut: Cut; set: (next: Partial<Cut>) => void; problem?: Problem }) {
  const zones = cut.zones ?? [];
  // A layer's coats by zone follow when zones come and go.
  const put = (next: NonNullable<Cut["zones"]>) =>
    set({
      zones: next.length > 1 ? next : undefined,
      layers: cut.layers.map((l) =>
        l.zone_coats?.length
          ? { ...l, zone_coats: next.length > 1 ? next.map((_, i) => l.zone_coats?.[Math.min(i, l.zone_coats.length - 1)] ?? 1) : undefined }
          : l,
      ),
    });
  const split = () => {
    if (zones.length === 0)
      put([
        { name: "centre", to_mm: Math.round(cut.half_width_mm * 5) / 10 },
        { name: "edge", to_mm: cut.half_width_mm },
      ]);
    else {
      const before = zones.at(-2)?.to_mm ?? 0;
      put([...zones.slice(0, -1), { name: "between", to_mm: Math.round((before + cut.half_width_mm) * 5) / 10 }, zones[zones.length - 1]]);
    }
  };
  return (
    <Box>
      <Heading
        aside={
          zones.length < 8 && (
            <Box as="button" textDecoration="underline" onClick={split}>
              {zones.length ? "one more zone" : "divide it"}
            </Box>
          )
        }
      >
        Zones, from centre to edge
      </Heading>
      {zones.length === 0 && <Box color="muted">One zone: every layer has the same coats from centre to edge.</Box>}
      {zones.map((z, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a zone is its place in the row; its name and end are being typed
        <Grid key={i} templateColumns="1fr 1fr auto" gap="8px" alignItems="end" mb="4px">
          <Entry label="Name" name={`zone_${i}`} value={z.name} set={(name) => put(zones.map((x, k) => (k === i ? { ...x, name } : x)))} />
          {i < zones.length - 1 ? (
            <Amount
              label="Ends at"
              kind="length"
              value={z.to_mm}
              unit="mm"
              name={`zones[${i}].to_mm`}
              set={(to_mm) => put(zones.map((x, k) => (k === i ? { ...x, to_mm } : x)))}
              problem={problem}
            />
          ) : (
            <Box pb="9px" color="muted">
              to the edge
            </Box>
          )}
          {i < zones.length - 1 && (
            <Plain h="36px" onClick={() => put(zones.filter((_, k) => k !== i))}>
              Join
            </Plain>
          )}
        </Grid>
      ))}
    </Box>
  );
}

function Files({ code, begin, fail }: { code: string; begin: (file: Schemas["PieceSectionFile"]) => void; fail: (m: string) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [name, setName] = useState("");
  const take = async (file: File | undefined) => {
    if (!file) return;
    setName(file.name);
    try {
      begin(JSON.parse(await file.text()) as Schemas["PieceSectionFile"]);
    } catch {
      fail(`${file.name} is no JSON. The section is as it was.`);
    }
  };
  return (
    <Box>
      <Heading>Paper and files</Heading>
      <Flex gap="8px 16px" wrap="wrap" fontSize="14.5px">
        <a href={`/api/pieces/${code}/section.pdf`} target="_blank" rel="noreferrer">
          Print at true scale
        </a>
        <a href={`/api/pieces/${code}/section.svg`} download={`${code}-section.svg`}>
          SVG, as drawn
        </a>
        <a href={`/api/pieces/${code}/section.svg?true_scale=1`} download={`${code}-section-true-scale.svg`}>
          SVG, true scale
        </a>
        <a href={`/api/pieces/${code}/section/file`} download={`${code}-section.json`}>
          JSON
        </a>
      </Flex>
      <Plain h="36px" mt="8px" onClick={() => input.current?.click()}>
        Take a section's file in
      </Plain>
      <input
        ref={input}
        type="file"
        accept="application/json,.json"
        hidden
        aria-label="A section's file"
        onChange={(e) => void take(e.target.files?.[0])}
      />
      {name && <Box layerStyle="small">{name}</Box>}
    </Box>
  );
}
