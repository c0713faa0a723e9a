import { Box, Flex } from "@chakra-ui/react";
import { Heading, Plain } from "../../parts/controls";
import { newId } from "../../parts/id";
import { Turn } from "../../parts/Turn";
import type { Shape } from "./Overlay";
import type { Doc } from "./useTexture";

interface Props {
  doc: Doc;
  change: (part: Partial<Doc>, now?: boolean) => void;
  shape?: Shape;
  setShape: (s: Shape | undefined) => void;
}

/** Guides, kept-clear places, landmarks and areas: drawn on the relief, listed here. */
export function Shapes({ doc, change, shape, setShape }: Props) {
  const drawing = shape && shape.index === undefined;
  const drop = (i: number) => {
    // Layers and fades that name a guide follow it down, or lose it.
    const less = (g: number | undefined) => (g === undefined || g < i ? g : g === i ? undefined : g - 1);
    change(
      {
        guides: (doc.guides ?? []).filter((_, k) => k !== i),
        guide_names: (doc.guide_names ?? []).filter((_, k) => k !== i),
        fade: (doc.fade ?? []).filter((f) => f.guide !== i).map((f) => ({ ...f, guide: f.guide > i ? f.guide - 1 : f.guide })),
        layers: doc.layers
          .filter((l) => !(l.kind === "wrinkles" && l.between?.includes(i)))
          .map((l) => ({
            ...l,
            flow: less(l.flow),
            from: l.from !== undefined && l.from >= 0 ? (less(l.from) ?? -1) : l.from,
            between: l.between?.map((g) => (g > i ? g - 1 : g)),
            along: l.along?.filter((g) => g !== i).map((g) => (g > i ? g - 1 : g)),
          }))
          .filter((l) => l.kind !== "lines" || (l.along?.length ?? 0) > 0),
      },
      true,
    );
    setShape(undefined);
  };
  const hold = (s: Shape) => setShape(shape?.kind === s.kind && shape.index === s.index ? undefined : s);
  const row = (key: string, text: React.ReactNode, held: boolean, take: () => void, remove: () => void) => (
    <Flex key={key} gap="10px" align="center" py="1px">
      <Box flex="1" minW="0">
        {text}
      </Box>
      <Box as="button" textDecoration="underline" aria-pressed={held} color={held ? "heather" : "muted"} onClick={take}>
        move its points
      </Box>
      <Box as="button" textDecoration="underline" color="muted" onClick={remove}>
        take away
      </Box>
    </Flex>
  );
  const rename = (label: string, value: string, set: (v: string) => void) => (
    <input
      aria-label={label}
      value={value}
      maxLength={60}
      onChange={(e) => set(e.target.value)}
      style={{ width: "100%", background: "transparent", borderBottom: "1px solid var(--chakra-colors-line)" }}
    />
  );
  const pts = (l: number[][]) => l as [number, number][];
  return (
    <Box>
      <Heading>On the clay</Heading>
      <Flex gap="8px" wrap="wrap" mb="4px">
        {(["guide", "clear", "landmark", "area"] as const).map((kind) => (
          <Plain
            key={kind}
            h="34px"
            aria-pressed={drawing && shape.kind === kind}
            bg={drawing && shape.kind === kind ? "heatherSoft" : "transparent"}
            onClick={() => setShape(drawing && shape.kind === kind ? undefined : { kind, points: [] })}
          >
            {{ guide: "Draw a guide", clear: "Keep a place clear", landmark: "Set a landmark", area: "Mark an area" }[kind]}
          </Plain>
        ))}
      </Flex>
      {drawing && (
        <Box layerStyle="note">
          {shape.kind === "landmark"
            ? "Click the place on the relief."
            : "Click point after point on the relief; Enter or “finished” ends it, Esc lets it go."}
        </Box>
      )}
      {(doc.guides ?? []).map((g, i) =>
        row(
          `g${i}`,
          <Flex gap="6px">
            <b>{i + 1}</b>
            {rename(`Name of guide ${i + 1}`, doc.guide_names?.[i] ?? "", (x) =>
              change({ guide_names: (doc.guides ?? []).map((_, k) => (k === i ? x : (doc.guide_names?.[k] ?? ""))) }),
            )}
          </Flex>,
          shape?.kind === "guide" && shape.index === i,
          () => hold({ kind: "guide", index: i, points: pts(g) }),
          () => drop(i),
        ),
      )}
      {(doc.clear ?? []).map((c, i) =>
        row(
          `c${i}`,
          rename(`Name of the clear place ${i + 1}`, c.name, (name) =>
            change({ clear: (doc.clear ?? []).map((x, k) => (k === i ? { ...x, name } : x)) }),
          ),
          shape?.kind === "clear" && shape.index === i,
          () => hold({ kind: "clear", index: i, points: pts(c.polygon) }),
          () => change({ clear: (doc.clear ?? []).filter((_, k) => k !== i) }, true),
        ),
      )}
      {(doc.landmarks ?? []).map((l, i) =>
        row(
          `l${i}`,
          <Flex gap="8px">
            {rename(`Name of landmark ${i + 1}`, l.name, (name) =>
              change({ landmarks: (doc.landmarks ?? []).map((x, k) => (k === i ? { ...x, name } : x)) }),
            )}
            <Turn
              label={`Clear round ${l.name}`}
              hide
              unit="mm"
              value={l.radius_mm ?? 0}
              min={0}
              max={60}
              step={0.5}
              set={(radius_mm) => change({ landmarks: (doc.landmarks ?? []).map((x, k) => (k === i ? { ...x, radius_mm } : x)) })}
            />
          </Flex>,
          shape?.kind === "landmark" && shape.index === i,
          () => hold({ kind: "landmark", index: i, points: pts([l.at]) }),
          () => change({ landmarks: (doc.landmarks ?? []).filter((_, k) => k !== i) }, true),
        ),
      )}
      {(doc.areas ?? []).map((a, i) =>
        row(
          `a${a.id}`,
          rename(`Name of area ${i + 1}`, a.name, (name) => change({ areas: (doc.areas ?? []).map((x, k) => (k === i ? { ...x, name } : x)) })),
          shape?.kind === "area" && shape.index === i,
          () => hold({ kind: "area", index: i, points: pts(a.polygon) }),
          () =>
            change(
              {
                areas: (doc.areas ?? []).filter((_, k) => k !== i),
                layers: doc.layers.map((l) => ({ ...l, on: l.on?.filter((id) => id !== a.id) })),
              },
              true,
            ),
        ),
      )}
    </Box>
  );
}

/** A finished shape put into the plan. */
export function withShape(doc: Doc, shape: Shape): Partial<Doc> {
  const { kind, index, points } = shape;
  switch (kind) {
    case "guide":
      return index === undefined
        ? { guides: [...(doc.guides ?? []), points], guide_names: [...(doc.guides ?? []).map((_, i) => doc.guide_names?.[i] ?? ""), "flow"] }
        : { guides: (doc.guides ?? []).map((g, i) => (i === index ? points : g)) };
    case "clear":
      return index === undefined
        ? { clear: [...(doc.clear ?? []), { name: `kept clear ${(doc.clear?.length ?? 0) + 1}`, polygon: points }] }
        : { clear: (doc.clear ?? []).map((c, i) => (i === index ? { ...c, polygon: points } : c)) };
    case "landmark":
      return index === undefined
        ? { landmarks: [...(doc.landmarks ?? []), { name: `place ${(doc.landmarks?.length ?? 0) + 1}`, at: points[0], radius_mm: 0 }] }
        : { landmarks: (doc.landmarks ?? []).map((l, i) => (i === index ? { ...l, at: points[0] } : l)) };
    case "area":
      return index === undefined
        ? { areas: [...(doc.areas ?? []), { id: newId(), name: `area ${(doc.areas?.length ?? 0) + 1}`, polygon: points, by: "relief" }] }
        : { areas: (doc.areas ?? []).map((a, i) => (i === index ? { ...a, polygon: points } : a)) };
    default:
      return {};
  }
}
