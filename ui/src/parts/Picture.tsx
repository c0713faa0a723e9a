import { Box } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../app/api";
import { colour } from "./colour";
import { labToHex } from "./lab";

type Reference = Schemas["PieceReference"];
type Spot = [number, number];

/** A reference picture, reduced for view, with what is pinned on it. The original opens in a page of its own. */
export function Picture({
  picture,
  width = 1600,
  setting,
  set,
  marked,
  height,
}: {
  picture: Reference;
  width?: 480 | 1600;
  /** Points of a note that is being set. */
  setting?: Spot[];
  set?: (p: Spot) => void;
  /** The note that is looked at. */
  marked?: number;
  height?: string;
}) {
  const [size, setSize] = useState<Spot>([picture.width || 4, picture.height || 3]);
  const at = (p: number[]): string => `${(p[0] * size[0]).toFixed(1)} ${(p[1] * size[1]).toFixed(1)}`;
  const unit = Math.max(size[0], size[1]) / 100;
  return (
    <Box position="relative" lineHeight="0" w="fit-content" maxW="100%" mx="auto">
      <img
        src={`/api/files/${picture.sha256}?width=${width}`}
        alt={picture.caption}
        style={{ maxWidth: "100%", maxHeight: height, display: "block" }}
        onLoad={(e) => setSize([e.currentTarget.naturalWidth, e.currentTarget.naturalHeight])}
      />
      <svg
        viewBox={`0 0 ${size[0]} ${size[1]}`}
        aria-hidden="true"
        style={{ position: "absolute", inset: 0, width: "100%", height: "100%", cursor: set ? "crosshair" : "default" }}
        onPointerDown={(e) => {
          if (!set) return;
          const box = e.currentTarget.getBoundingClientRect();
          set([(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height]);
        }}
      >
        {picture.notes.map((n, i) =>
          n.kind === "line" ? (
            <g key={n.id} fill="none" strokeLinecap="round">
              <path d={`M${n.points.map(at).join("L")}`} stroke="#fff" strokeWidth={unit * 0.9} opacity="0.8" />
              <path d={`M${n.points.map(at).join("L")}`} stroke={colour("heather")} strokeWidth={unit * (marked === n.id ? 0.7 : 0.45)} />
              <Pin at={n.points[0]} size={size} unit={unit} n={i + 1} fill={colour("heather")} />
            </g>
          ) : (
            <Pin
              key={n.id}
              at={n.points[0]}
              size={size}
              unit={marked === n.id ? unit * 1.4 : unit}
              n={i + 1}
              fill={n.lab ? labToHex(n.lab.l, n.lab.a, n.lab.b) : colour("yew")}
            />
          ),
        )}
        {setting && setting.length > 0 && (
          <g>
            {setting.length > 1 && <path d={`M${setting.map(at).join("L")}`} fill="none" stroke={colour("heather")} strokeWidth={unit * 0.5} />}
            {setting.map((p) => (
              <circle
                key={p.join(" ")}
                cx={p[0] * size[0]}
                cy={p[1] * size[1]}
                r={unit * 0.9}
                fill={colour("heather")}
                stroke="#fff"
                strokeWidth={unit * 0.25}
              />
            ))}
          </g>
        )}
      </svg>
    </Box>
  );
}

function Pin({ at, size, unit, n, fill }: { at: number[]; size: Spot; unit: number; n: number; fill: string }) {
  return (
    <g transform={`translate(${at[0] * size[0]} ${at[1] * size[1]})`}>
      <circle r={unit * 2} fill={fill} stroke="#fff" strokeWidth={unit * 0.4} />
      <text
        textAnchor="middle"
        dominantBaseline="central"
        style={{ fontSize: unit * 2.6, fontWeight: 700 }}
        fill="#fff"
        stroke="#000"
        strokeWidth={unit * 0.35}
        paintOrder="stroke"
      >
        {n}
      </text>
    </g>
  );
}
