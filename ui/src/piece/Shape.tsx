import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../app/act";
import { api, ask, type Problem } from "../app/api";
import { Choose, Refusal } from "../parts/controls";
import { bodyFall, drawnAt, type Layer } from "../parts/section/geometry";
import { Amount } from "./entries";

/** Places of a shape that is drawn by hand: the centre, three on the way, and the edge. */
const PLACES = 5;
const between = ["a quarter out", "half way", "three quarters out"];

/** A body's own fall in so many even places, to begin drawing from. */
export const usualFall = (l: Layer, places = PLACES): number[] =>
  Array.from({ length: places }, (_, i) => {
    const mm = bodyFall(l.centre_mm ?? 0, l.edge_mm ?? 0, i / (places - 1));
    return i === 0 ? (l.centre_mm ?? 0) : i === places - 1 ? (l.edge_mm ?? 0) : Math.round(mm * 20) / 20;
  });

/** A body with another thickness at one place of its drawn shape. */
export function shaped(l: Layer, at: number, mm: number): Layer {
  if (!l.shape) return l;
  const profile_mm = l.shape.profile_mm.map((x, i) => (i === at ? mm : x));
  return { ...l, centre_mm: profile_mm[0], edge_mm: profile_mm[profile_mm.length - 1], shape: { from: "hand", profile_mm } };
}

interface Props {
  code: string;
  layer: Layer;
  change: (next: Layer) => void;
  here: (name: string) => Problem | undefined;
}

/** How a body falls from its centre to its edge: as bodies do, drawn by hand, or as the piece's texture stands on it. */
export function Shape({ code, layer, change, here }: Props) {
  const [bare, setBare] = useState(false);
  const relief = useAct(async () => {
    const { profile_mm } = await ask(
      api.GET("/api/pieces/{code}/texture/course", {
        params: { path: { code }, query: { centre_mm: layer.centre_mm ?? 0, edge_mm: layer.edge_mm ?? 0 } },
      }),
    );
    if (profile_mm.length > 0)
      change({
        ...layer,
        measured: undefined,
        centre_mm: profile_mm[0],
        edge_mm: profile_mm[profile_mm.length - 1],
        shape: { from: "relief", profile_mm },
      });
    setBare(profile_mm.length === 0);
  });
  const from = layer.measured ? "scan" : (layer.shape?.from ?? "");
  const set = (to: string) => {
    setBare(false);
    if (to === "") change({ ...layer, measured: undefined, shape: undefined });
    if (to === "hand")
      change({ ...layer, measured: undefined, shape: { from: "hand", profile_mm: layer.shape ? fewer(layer.shape.profile_mm) : usualFall(layer) } });
    if (to === "relief") void relief.run();
  };
  return (
    <Box mt="8px">
      <Choose label="How it falls to the edge" name="shape" value={from} set={set} problem={here("shape")}>
        <option value="">as bodies usually do</option>
        <option value="hand">drawn by hand</option>
        <option value="relief">as its texture stands on it</option>
        {layer.measured && <option value="scan">as it was measured</option>}
      </Choose>
      {bare && (
        <Box layerStyle="small" mt="4px" role="status">
          The piece has no texture yet that would stand on it. Nothing was changed.
        </Box>
      )}
      {layer.shape?.from === "hand" && layer.shape.profile_mm.length === PLACES && (
        <Grid templateColumns="repeat(3, 1fr)" gap="8px" mt="6px">
          {between.map((label, i) => (
            <Amount
              key={label}
              label={label}
              kind="length"
              value={layer.shape?.profile_mm[i + 1]}
              unit="mm"
              name={`shape.profile_mm[${i + 1}]`}
              set={(mm) => change(shaped(layer, i + 1, mm))}
              problem={here(`shape.profile_mm[${i + 1}]`)}
            />
          ))}
        </Grid>
      )}
      <Flex mt="4px">
        <Refusal problem={relief.problem} />
      </Flex>
    </Box>
  );
}

/** A shape of any number of places brought to those that are drawn by hand. */
const fewer = (mm: number[]): number[] => Array.from({ length: PLACES }, (_, i) => Math.round(drawnAt(mm, i / (PLACES - 1)) * 100) / 100);
