import { Box } from "@chakra-ui/react";
import { type ReactNode, useEffect, useLayoutEffect, useRef, useState } from "react";
import { LightDial } from "./LightDial";
import { type Light, type Point, type Relief, shade } from "./relief";

/** Where the plane of the region lies on the screen. */
export interface Place {
  scale: number;
  toScreen: (p: Point) => Point;
  toPlane: (x: number, y: number) => Point;
}

interface Props {
  relief: Relief | undefined;
  /** The box of the region, in mm: left, bottom, right, top. */
  box: [number, number, number, number];
  light: Light;
  turn: (l: Light) => void;
  title: string;
  height: number;
  /** What is drawn over it, given where the plane lies. */
  over?: (place: Place) => ReactNode;
  onPoint?: (p: Point, e: React.PointerEvent) => void;
  cursor?: string;
  /** What it lies on: the bench, or grey where its colours are judged. */
  ground?: string;
  children?: ReactNode;
}

const MARGIN = 16;

/** A relief in raking light on the bench, with a lamp that can be turned and a bar for its size. */
export function ReliefView({ relief, box, light, turn, title, height, over, onPoint, cursor, ground, children }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(560);
  useLayoutEffect(() => {
    const el = frame.current;
    if (!el) return;
    const watch = new ResizeObserver(() => setWidth(el.clientWidth));
    watch.observe(el);
    setWidth(el.clientWidth || 560);
    return () => watch.disconnect();
  }, []);

  const [x0, y0, x1, y1] = box;
  const scale = Math.max(0.01, Math.min((width - 2 * MARGIN) / Math.max(1, x1 - x0), (height - 2 * MARGIN) / Math.max(1, y1 - y0)));
  const left = (width - scale * (x1 - x0)) / 2;
  const top = (height - scale * (y1 - y0)) / 2;
  const place: Place = {
    scale,
    toScreen: ([x, y]) => [left + (x - x0) * scale, top + (y1 - y) * scale],
    toPlane: (x, y) => [x0 + (x - left) / scale, y1 - (y - top) / scale],
  };

  useEffect(() => {
    const c = canvas.current;
    if (!c || !relief) return;
    c.width = relief.nx;
    c.height = relief.ny;
    const ctx = c.getContext("2d");
    if (!ctx) return;
    const picture = ctx.createImageData(relief.nx, relief.ny);
    shade(relief, light, picture.data);
    ctx.putImageData(picture, 0, 0);
  }, [relief, light]);

  const bar = [1, 2, 5, 10, 20, 50, 100].find((mm) => mm * scale > 60) ?? 100;
  const corner = relief ? place.toScreen([relief.x0, relief.y0 + relief.ny * relief.pitch]) : [0, 0];
  return (
    <Box
      ref={frame}
      position="relative"
      h={`${height}px`}
      bg={ground ?? "#847c70"}
      borderWidth="1.5px"
      borderColor="ink"
      overflow="hidden"
      style={{ touchAction: "none", cursor }}
      onPointerDown={(e) => {
        if (!onPoint || !frame.current) return;
        const b = frame.current.getBoundingClientRect();
        onPoint(place.toPlane(e.clientX - b.left, e.clientY - b.top), e);
      }}
    >
      <canvas
        ref={canvas}
        role="img"
        aria-label={title}
        data-testid="relief"
        data-pixels={relief ? relief.nx * relief.ny : 0}
        style={{
          position: "absolute",
          left: corner[0],
          top: corner[1],
          width: relief ? relief.nx * relief.pitch * scale : 0,
          height: relief ? relief.ny * relief.pitch * scale : 0,
        }}
      />
      <svg width={width} height={height} style={{ position: "absolute", inset: 0 }}>
        <title>{title}</title>
        {over?.(place)}
        <g transform={`translate(20 ${height - 22})`}>
          <line x1="0" x2={bar * scale} y1="6" y2="6" stroke="#1d1a17" strokeWidth="3" />
          <text y="-2" fill="#1d1a17" style={{ fontSize: 13, fontWeight: 600 }}>
            {bar} mm
          </text>
        </g>
      </svg>
      <Box position="absolute" top="8px" right="8px">
        <LightDial light={light} turn={turn} />
      </Box>
      {children}
    </Box>
  );
}
