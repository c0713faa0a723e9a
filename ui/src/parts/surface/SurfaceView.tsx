import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { useRead } from "../../app/read";
import { colour as v } from "../colour";
import { Plain } from "../controls";
import type { View } from "./scene";
import { type Band, decode, firstLook, type Look, looks, nearer, type Surface, turned, type Vec, valueIn } from "./surface";

/** A place that is pointed at, with a number and words. */
export interface Marked {
  key: string;
  at: Vec;
  words: string;
  tone: "rust" | "gorse" | "heather" | "yew";
}

interface Props {
  /** The picture's name at the server. */
  sha: string;
  title: string;
  /** Which layer colours it, and its bands; none shows the bare surface. */
  layer?: number;
  bands?: (s: Surface) => Band[];
  /** Puts the thickness on top of the core. */
  lifted?: boolean;
  marks?: Marked[];
  held?: string;
  hold?: (key: string) => void;
  line?: Vec[][];
  /** Says the figure at a place in words. */
  say?: (value: number | undefined, at: Vec) => string;
  /** Shown where the machine has no 3-D. */
  flat?: (view: string) => string;
  height: number;
}

const tones = { rust: "rust", gorse: "gorseDot", heather: "heather", yew: "yew" } as const;

export const useSurface = (sha: string | undefined) =>
  useRead({
    queryKey: ["surface", sha],
    enabled: !!sha,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: async () => {
      const answer = await fetch(`/api/surfaces/${sha}`);
      if (!answer.ok) throw new Error("The picture of the surface could not be read.");
      return decode(await answer.arrayBuffer());
    },
  });

/** A surface that turns by mouse, finger and keys; a click gives the figure there. */
export function SurfaceView({ sha, title, layer, bands, lifted, marks, held, hold, line, say, flat, height }: Props) {
  const surface = useSurface(sha);
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const labels = useRef<HTMLDivElement>(null);
  const [view, setView] = useState<View>();
  const [without, setWithout] = useState(false);
  const [look, setLook] = useState<Look>(looks.Front);
  const [side, setSide] = useState("front");
  const [said, setSaid] = useState("");
  const drag = useRef<{ x: number; y: number; moved: boolean }>(undefined);
  const list = marks ?? [];

  useEffect(() => {
    let gone = false;
    let made: View | undefined;
    // The 3-D code comes only when a surface is looked at.
    void import("./scene")
      .then(({ View }) => {
        if (gone || !canvas.current) return;
        made = new View(canvas.current);
        setView(made);
      })
      .catch(() => setWithout(true));
    return () => {
      gone = true;
      made?.end();
    };
  }, []);

  useLayoutEffect(() => {
    const el = frame.current;
    if (!el || !view) return;
    const settle = () => view.resize(el.clientWidth, height);
    const watch = new ResizeObserver(settle);
    watch.observe(el);
    settle();
    return () => watch.disconnect();
  }, [view, height]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: another layer of it is looked at from where one stands.
  useEffect(() => {
    if (!surface.data || !view) return;
    view.show(surface.data);
    setLook((l) => (l === looks.Front ? firstLook(surface.data, layer) : { ...l, near: 1 }));
  }, [view, surface.data]);
  useEffect(() => {
    if (!view || !surface.data) return;
    view.colour(layer === undefined ? undefined : surface.data.layers[layer], bands?.(surface.data) ?? [], lifted ? 1 : 0);
  }, [view, surface.data, layer, bands, lifted]);
  useEffect(() => {
    if (surface.data) view?.line(line ?? [], [0.48, 0.27, 0.5]);
  }, [view, surface.data, line]);
  // A new surface is looked at from the side from which the last one was.
  // biome-ignore lint/correctness/useExhaustiveDependencies: see above.
  useEffect(() => view?.look(look), [view, look, surface.data]);

  // Labels stay upright where their places are; those behind the surface fade.
  useEffect(() => {
    if (!view) return;
    view.drawn = () => {
      const nodes = labels.current?.children ?? [];
      list.forEach((m, i) => {
        const el = nodes[i] as HTMLElement | undefined;
        if (!el) return;
        const p = view.onScreen(m.at);
        el.style.transform = `translate(${p.x.toFixed(1)}px, ${p.y.toFixed(1)}px) translate(-50%, -50%)`;
        el.style.opacity = p.behind ? "0.35" : "1";
      });
    };
    view.look(look);
  });

  const point = (e: React.PointerEvent) => {
    const box = canvas.current?.getBoundingClientRect();
    if (!box || !view || !surface.data) return;
    const met = view.meet(e.clientX - box.left, e.clientY - box.top);
    if (!met) return setSaid("");
    const value = layer === undefined ? undefined : valueIn(surface.data.layers[layer], met.corners, met.shares);
    setSaid(say?.(value, met.at) ?? "");
  };
  const keys = (e: React.KeyboardEvent) => {
    const by = { ArrowLeft: [-12, 0], ArrowRight: [12, 0], ArrowUp: [0, 10], ArrowDown: [0, -10] }[e.key];
    if (by) setLook((l) => turned(l, by[0], by[1]));
    else if (e.key === "+" || e.key === "=") setLook((l) => nearer(l, 1.25));
    else if (e.key === "-") setLook((l) => nearer(l, 0.8));
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  return (
    <Box>
      <Box ref={frame} position="relative" h={`${height}px`} bg="deep" borderWidth="1.5px" borderColor="ink" overflow="hidden" data-testid="surface">
        {without ? (
          flat && <img src={flat(side)} alt={`${title}, seen from ${side}`} style={{ width: "100%", height: "100%", objectFit: "contain" }} />
        ) : (
          // biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: the surface takes the arrow keys for itself.
          <canvas
            ref={canvas}
            tabIndex={0}
            role="application"
            aria-label={`${title}. Arrow keys turn it, plus and minus bring it nearer.`}
            data-drawn={surface.data && view ? "yes" : "no"}
            style={{ width: "100%", height: "100%", display: "block", touchAction: "none", cursor: "grab" }}
            onKeyDown={keys}
            onPointerDown={(e) => {
              drag.current = { x: e.clientX, y: e.clientY, moved: false };
              e.currentTarget.setPointerCapture(e.pointerId);
            }}
            onPointerMove={(e) => {
              const d = drag.current;
              if (!d || e.buttons === 0) return;
              const [dx, dy] = [e.clientX - d.x, e.clientY - d.y];
              if (!d.moved && Math.hypot(dx, dy) < 4) return;
              drag.current = { x: e.clientX, y: e.clientY, moved: true };
              setLook((l) => turned(l, -dx * 0.5, dy * 0.4));
            }}
            onPointerUp={(e) => {
              if (!drag.current?.moved) point(e);
              drag.current = undefined;
            }}
            onWheel={(e) => setLook((l) => nearer(l, e.deltaY < 0 ? 1.12 : 0.89))}
          />
        )}
        <div ref={labels}>
          {list.map((m, i) => (
            <button
              type="button"
              key={m.key}
              aria-label={`Place ${i + 1}: ${m.words}`}
              aria-pressed={held === m.key}
              onClick={() => hold?.(m.key)}
              style={{
                position: "absolute",
                left: 0,
                top: 0,
                width: 26,
                height: 26,
                borderRadius: 13,
                border: `2px solid ${held === m.key ? v("ink") : "#fffdf8"}`,
                background: v(tones[m.tone]),
                color: "#fffdf8",
                fontSize: 13,
                fontWeight: 700,
                cursor: "pointer",
                display: without ? "none" : undefined,
              }}
            >
              {i + 1}
            </button>
          ))}
        </div>
        {surface.isPending && (
          <Box position="absolute" inset="0" display="grid" placeItems="center" color="muted">
            fetching the surface …
          </Box>
        )}
        {surface.isError && (
          <Box position="absolute" inset="0" display="grid" placeItems="center" color="rust">
            {surface.error.message}
          </Box>
        )}
        <Box
          position="absolute"
          left="12px"
          bottom="10px"
          fontWeight="600"
          fontSize="14.5px"
          bg="ground"
          px={said ? "9px" : "0"}
          borderRadius="3px 10px 10px 3px"
          aria-live="polite"
        >
          {said}
        </Box>
      </Box>
      <Flex gap="6px" mt="7px" wrap="wrap" align="center">
        {Object.entries(looks).map(([name, l]) => (
          <Plain
            key={name}
            h="32px"
            px="13px"
            fontSize="14px"
            onClick={() => {
              setLook(l);
              setSide(name.toLowerCase());
            }}
          >
            {name}
          </Plain>
        ))}
        {without && <Box color="muted">This machine draws no 3-D; flat pictures instead.</Box>}
      </Flex>
    </Box>
  );
}

/** The bands of a surface in words. */
export function Legend({ bands, unit }: { bands: Band[]; unit: string }) {
  return (
    <Flex gap="0" mt="8px" aria-label="Bands" role="list" fontSize="12.5px">
      {bands.map((b) => (
        <Flex key={b.words} role="listitem" direction="column" flex="1" minW="0">
          <Box h="12px" borderWidth="1px" borderColor="ink" style={{ background: `rgb(${b.colour.map((c) => Math.round(255 * c)).join(" ")})` }} />
          <Box px="2px" color="muted" lineHeight="1.2" mt="2px">
            {b.words}
          </Box>
        </Flex>
      ))}
      <Box alignSelf="end" ps="6px" color="muted">
        {unit}
      </Box>
    </Flex>
  );
}
