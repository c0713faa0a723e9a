import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import type { Problem, Schemas } from "../app/api";
import { TriedBefore } from "../app/TriedBefore";
import { Choose, Heading, Plain } from "../parts/controls";
import { duration } from "../parts/format";
import { type Cut, type Layer, natureOf } from "../parts/section/geometry";
import { BandMore } from "./BandMore";
import { Amount, Whole } from "./entries";
import type { KindFacts, Product } from "./kinds";
import { type Found, MeasuredBand, planned } from "./Measured";
import { Shape } from "./Shape";
import { Stirred } from "./Stirred";

interface Props {
  code: string;
  layer: Layer;
  cut: Cut;
  kinds: KindFacts[];
  products: Product[];
  result?: Schemas["CraftSectionLayerResult"];
  problem?: Problem;
  /** Where the layer stands in the document: layers[3], more[0].layers[2]. */
  path: string;
  change: (next: Layer) => void;
  move: (by: 1 | -1) => void;
  remove: () => void;
  /** What goes wrong if it changes places with the band above it. */
  swap?: () => Promise<Schemas["CraftRulesFinding"][]>;
  /** What a scan of the sculpt says of the piece, and taking it over into this band. */
  found?: Found;
  take: (found: Found) => void;
}

/** The chosen band in figures: everything that the drawing does with a finger, by keyboard. */
export function LayerPanel({ code, layer, cut, kinds, products, result, problem, path, change, move, remove, swap, found, take }: Props) {
  const kind = kinds.find((k) => k.kind === layer.kind);
  const here = (name: string) => problem?.at(`${path}.${name}`, name);
  if (layer.kind === "skin") {
    return (
      <Box>
        <Heading>Skin</Heading>
        <Box color="muted">The wearer's own. What is known of it stands in the brief. Add a layer to build on it.</Box>
      </Box>
    );
  }
  const nature = natureOf(layer);
  const set = (next: Partial<Layer>) => change({ ...layer, ...next });
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" color="rust" onClick={remove} textDecoration="underline">
            remove
          </Box>
        }
      >
        {kind?.text}
      </Heading>
      <Choose label="Material" name="material" value={layer.material ?? ""} set={(material) => set({ material })} problem={here("material")}>
        {products
          .filter((p) => kind?.families?.includes(p.family))
          .map((p) => (
            <option key={p.slug} value={p.slug}>
              {p.name}
            </option>
          ))}
      </Choose>
      <TriedBefore materials={[layer.material ?? "", ...(layer.with ?? []).map((w) => w.material)]} />
      <Grid templateColumns="1fr 1fr" gap="8px" mt="8px">
        {nature === "body" && (
          <>
            <Length
              label="At the centre"
              name="centre_mm"
              value={layer.centre_mm}
              set={(centre_mm) => change(planned(layer, { centre_mm }))}
              problem={here("centre_mm")}
            />
            <Length
              label="At the edge"
              name="edge_mm"
              value={layer.edge_mm}
              set={(edge_mm) => change(planned(layer, { edge_mm }))}
              problem={here("edge_mm")}
            />
          </>
        )}
        {nature === "film" && (
          <>
            {!layer.zone_coats?.length && (
              <Whole label="Coats" name="coats" value={layer.coats ?? 1} set={(coats) => set({ coats })} problem={here("coats")} />
            )}
            <Length
              label={layer.kind === "latex" ? "One coat, wet" : "One coat, dry"}
              name="coat_mm"
              value={layer.coat_mm}
              set={(coat_mm) => set({ coat_mm })}
              problem={here("coat_mm")}
            />
          </>
        )}
        {nature === "things" && (
          <>
            <Whole label="How many" name="count" value={layer.count ?? 1} set={(count) => set({ count })} problem={here("count")} />
            <Amount
              label="One weighs"
              kind="mass"
              value={layer.each_g}
              unit="g"
              name="each_g"
              set={(each_g) => set({ each_g })}
              problem={here("each_g")}
            />
            <Length label="They stand" name="centre_mm" value={layer.centre_mm} set={(centre_mm) => set({ centre_mm })} problem={here("centre_mm")} />
          </>
        )}
        {nature === "hair" && (
          <>
            <Whole
              label="Hairs a cm²"
              name="hairs_cm2"
              value={layer.hairs_cm2 ?? 30}
              set={(hairs_cm2) => set({ hairs_cm2 })}
              problem={here("hairs_cm2")}
            />
            <Length label="Length" name="length_mm" value={layer.length_mm} set={(length_mm) => set({ length_mm })} problem={here("length_mm")} />
          </>
        )}
        {layer.kind === "latex" && (
          <>
            <Choose
              label="Fibre in each coat"
              name="fibre"
              value={layer.fibre ?? ""}
              set={(fibre) => set({ fibre: fibre || undefined })}
              problem={here("fibre")}
            >
              <option value="">none</option>
              {products
                .filter((p) => p.family === "fibre")
                .map((p) => (
                  <option key={p.slug} value={p.slug}>
                    {p.name}
                  </option>
                ))}
            </Choose>
            <Amount
              label="Between coats"
              kind="duration"
              value={layer.between_s}
              unit="min"
              factor={60}
              name="between_s"
              placeholder="each dried"
              set={(between_s) => set({ between_s })}
              clear={() => set({ between_s: undefined })}
              problem={here("between_s")}
            />
          </>
        )}
        <Choose
          label="Reaches"
          name="extent"
          value={layer.extent || "to_edge"}
          set={(extent) =>
            set({ extent: extent as Layer["extent"], stop_mm: extent === "to_edge" ? undefined : layer.stop_mm || Math.min(12, cut.half_width_mm) })
          }
          problem={here("extent")}
        >
          <option value="to_edge">to the edge</option>
          <option value="centre_only">centre only</option>
          <option value="past_edge">on to the skin</option>
        </Choose>
        {layer.extent && layer.extent !== "to_edge" && (
          <Length
            label={layer.extent === "centre_only" ? "Stops at" : "Past the edge"}
            name="stop_mm"
            value={layer.stop_mm}
            set={(stop_mm) => set({ stop_mm })}
            problem={here("stop_mm")}
          />
        )}
      </Grid>
      {nature === "body" && <Shape code={code} layer={layer} change={change} here={here} />}
      {layer.material && <Stirred layer={layer} products={products} set={set} here={here} />}
      {nature === "body" && <MeasuredBand code={code} layer={layer} found={found} take={take} />}
      {result?.dry_s ? (
        <Box color="muted" mt="8px" fontSize="14px">
          One coat is ready for the next after about {duration(result.recoat_s ?? 0)}; dry through in about {duration(result.dry_s)} when each is
          dried first. Band −30/+50 %.
        </Box>
      ) : null}
      <BandMore layer={layer} cut={cut} kind={kind} set={set} here={here} />
      <Flex gap="8px" mt="10px" wrap="wrap">
        <Plain h="36px" onClick={() => move(1)}>
          Move up
        </Plain>
        <Plain h="36px" onClick={() => move(-1)}>
          Move down
        </Plain>
        {swap && <WhatIf key={layer.id} swap={swap} />}
      </Flex>
    </Box>
  );
}

function Length({ label, name, value, set, problem }: { label: string; name: string; value?: number; set: (mm: number) => void; problem?: Problem }) {
  return <Amount label={label} kind="length" value={value ?? 0} unit="mm" name={name} set={set} problem={problem} />;
}

/** Turns the order of two bands round in thought, and says what would come up. */
function WhatIf({ swap }: { swap: () => Promise<Schemas["CraftRulesFinding"][]> }) {
  const [told, setTold] = useState<string[]>();
  const ask = async () => {
    try {
      const found = await swap();
      setTold(found.length ? found.map((f) => `${f.id}: ${f.reason}`) : ["No rule speaks against it."]);
    } catch (e) {
      setTold([e instanceof Error ? e.message : "That could not be worked out."]);
    }
  };
  return (
    <>
      <Plain h="36px" onClick={() => void ask()}>
        What if it lay above?
      </Plain>
      {told && (
        <Box w="100%" layerStyle="note" role="status">
          {told.map((t) => (
            <Box key={t}>{t}</Box>
          ))}
        </Box>
      )}
    </>
  );
}
