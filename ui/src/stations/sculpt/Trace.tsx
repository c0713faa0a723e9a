import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../../app/api";
import { Heading, Plain } from "../../parts/controls";
import { Turn } from "../../parts/Turn";

type P = [number, number];

/** Traces an outline over a picture in which one length is known. */
export function Trace({ piece, take }: { piece: Schemas["PieceView"]; take: (r: Schemas["CraftTextureRegion"]) => void }) {
  const [at, setAt] = useState(0);
  const [ruler, setRuler] = useState<P[]>([]);
  const [mm, setMM] = useState(50);
  const [points, setPoints] = useState<P[]>([]);
  const picture = piece.references[at];
  if (!picture) return <Box color="muted">Pin a picture in the brief first; one that shows a ruler, or anything whose length you know.</Box>;
  const ratio = picture.height / picture.width;
  // Shares of the width, both ways, so that lengths can be told.
  const plane = ([x, y]: P): P => [x, y * ratio];
  const known = ruler.length === 2 ? Math.hypot(plane(ruler[1])[0] - plane(ruler[0])[0], plane(ruler[1])[1] - plane(ruler[0])[1]) : 0;
  const scale = known > 0 ? mm / known : 0;
  const finish = () => {
    const low = Math.max(...points.map((p) => plane(p)[1]));
    const left = Math.min(...points.map((p) => p[0]));
    const polygon = points.map(plane).map(([x, y]) => [Math.round(1000 * (x - left) * scale) / 1000, Math.round(1000 * (low - y) * scale) / 1000]);
    take({ polygon, from: `traced over “${picture.caption.slice(0, 60)}”` });
  };
  return (
    <Box>
      <Heading aside={ruler.length < 2 ? "first click both ends of a length you know" : "now the outline, point after point"}>
        Trace over a picture
      </Heading>
      <Flex gap="8px 16px" wrap="wrap" align="center" mb="6px">
        {piece.references.map((r, i) => (
          <Plain
            key={r.id}
            h="30px"
            bg={i === at ? "heatherSoft" : "transparent"}
            aria-pressed={i === at}
            onClick={() => {
              setAt(i);
              setRuler([]);
              setPoints([]);
            }}
          >
            {r.caption}
          </Plain>
        ))}
        <Turn label="That length is" unit="mm" value={mm} min={1} max={2000} step={1} set={setMM} />
        <Plain h="30px" disabled={ruler.length === 0} onClick={() => (points.length ? setPoints(points.slice(0, -1)) : setRuler(ruler.slice(0, -1)))}>
          A point back
        </Plain>
        <Plain h="30px" disabled={points.length < 3 || !scale} onClick={finish}>
          Take this outline
        </Plain>
      </Flex>
      <Box position="relative" maxW="520px" style={{ cursor: "crosshair" }}>
        <img src={`/api/files/${picture.sha256}?width=1600`} alt={picture.caption} style={{ width: "100%", display: "block" }} />
        <svg
          viewBox={`0 0 1 ${ratio}`}
          style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }}
          role="img"
          aria-label="Traced outline"
          onPointerDown={(e) => {
            const b = e.currentTarget.getBoundingClientRect();
            const p: P = [(e.clientX - b.left) / b.width, (e.clientY - b.top) / b.height];
            if (ruler.length < 2) setRuler([...ruler, p]);
            else setPoints([...points, p]);
          }}
        >
          {ruler.length > 0 && (
            <polyline
              points={ruler.map((p) => plane(p).join(",")).join(" ")}
              fill="none"
              stroke="#d9960f"
              strokeWidth="0.006"
              strokeLinecap="round"
            />
          )}
          {points.length > 0 && (
            <polygon points={points.map((p) => plane(p).join(",")).join(" ")} fill="#78417a" fillOpacity="0.2" stroke="#78417a" strokeWidth="0.005" />
          )}
          {[...ruler, ...points].map((p) => (
            <circle key={p.join()} cx={p[0]} cy={p[1] * ratio} r="0.008" fill="#fff" stroke="#1d1a17" strokeWidth="0.003" />
          ))}
        </svg>
      </Box>
    </Box>
  );
}
