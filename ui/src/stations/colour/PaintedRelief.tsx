import { Box } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { ReliefView } from "../../parts/relief/ReliefView";
import { type Relief, readRelief } from "../../parts/relief/relief";

/** So many pixels are enough to see washes in hollows, and quick enough to follow a hand. */
const PIXELS = 40_000;

/** The schedule on the sculpt's own relief: washes run into hollows, a dry brush is caught by ridges. */
export function PaintedRelief({
  piece,
  scheme,
  degrees,
  turn,
}: {
  piece: string;
  scheme?: Schemas["CraftTextureScheme"];
  degrees?: number;
  turn: (degrees: number) => void;
}) {
  const texture = useRead({
    queryKey: ["texture", piece],
    queryFn: () => ask(api.GET("/api/pieces/{code}/texture", { params: { path: { code: piece } } })),
  });
  const [relief, setRelief] = useState<Relief>();
  const [height, setHeight] = useState(35);
  const doc = texture.data?.begun ? texture.data.doc : undefined;
  const words = JSON.stringify(scheme);
  const last = useRef(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a scheme is the same while its words are.
  useEffect(() => {
    if (!doc || !scheme || doc.layers.every((l) => l.off)) return;
    const mine = ++last.current;
    const gone = new AbortController();
    void ask(api.POST("/api/textures/relief", { body: { doc: { ...doc, paint: scheme }, pixels: PIXELS, paint: true }, signal: gone.signal }))
      .then((sent) => {
        if (mine === last.current) setRelief(readRelief(sent));
      })
      .catch(() => {});
    return () => gone.abort();
  }, [doc, words]);
  if (!doc)
    return (
      <Box layerStyle="note" mb="10px">
        {piece} has no texture plan: its colours are shown on the flat. With one under Sculpt they are shown on its relief.
      </Box>
    );
  if (!relief) return null;
  const box: [number, number, number, number] = [relief.x0, relief.y0, relief.x0 + relief.nx * relief.pitch, relief.y0 + relief.ny * relief.pitch];
  return (
    <Box mb="12px">
      <ReliefView
        relief={relief}
        box={box}
        light={{ azimuth: degrees ?? 0, altitude: height }}
        turn={(l) => {
          setHeight(l.altitude);
          if (Math.round(l.azimuth) !== Math.round(degrees ?? 0)) turn(Math.round(l.azimuth) % 360);
        }}
        title={`The paint of ${piece} on its relief`}
        height={250}
        ground="#8e8e8e"
      />
      <Box layerStyle="small">
        A preview. Painted light falls from {Math.round(degrees ?? 0)}° clockwise from above: turn the lamp to where the set's light will be.
      </Box>
    </Box>
  );
}
