import { Box, Flex } from "@chakra-ui/react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading, Pick, Plain, Teach } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import { labToHex } from "../../parts/lab";
import { Turn } from "../../parts/Turn";
import type { Doc, Looked } from "./useTexture";

type Scheme = Schemas["CraftTextureScheme"];
type Coat = Schemas["CraftTexturePaint"];

const begin: Scheme = {
  release: "release wax, one thin coat",
  film: "peelable film",
  film_coats: 3,
  clay: { l: 58, a: 4, b: 12 },
  layers: [
    { kind: "base", colour: { l: 66, a: 9, b: 18 }, strength: 0.95 },
    { kind: "wash", colour: { l: 30, a: 6, b: 10 }, strength: 0.8, reach_mm: 3 },
    { kind: "dry brush", colour: { l: 84, a: 3, b: 16 }, strength: 0.6, reach_mm: 3 },
  ],
};

const does: Record<string, string> = {
  base: "covers evenly",
  spatter: "flecks, thrown from a brush",
  wash: "runs into hollows",
  "dry brush": "caught by ridges",
  glaze: "a thin veil over all",
  matt: "takes the shine, lifts the darks",
};

/** A paint job planned on the relief: release and film first, then colour, judged in light. */
export function Paint({ doc, change, looked }: { doc: Doc; change: (part: Partial<Doc>, now?: boolean) => void; looked: Looked }) {
  const choices = useRead({
    queryKey: ["texture choices"],
    queryFn: () => ask(api.GET("/api/textures/choices")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const scheme = doc.paint;
  if (!scheme)
    return (
      <Teach act={<Plain onClick={() => change({ paint: begin }, true)}>Plan a paint job</Plain>}>
        Paint does part of the work of relief. Plan it here, over release and a film that peels, and see how much relief is still needed.
      </Teach>
    );
  const set = (part: Partial<Scheme>) => change({ paint: { ...scheme, ...part } });
  const coat = (i: number, part: Partial<Coat>) => set({ layers: scheme.layers.map((l, k) => (k === i ? { ...l, ...part } : l)) });
  const swap = (i: number) => {
    const next = [...scheme.layers];
    [next[i - 1], next[i]] = [next[i], next[i - 1]];
    change({ paint: { ...scheme, layers: next } }, true);
  };
  const p = looked.painted;
  return (
    <Flex direction="column" gap="10px">
      <Box>
        <Heading aside={p ? `film ${millimetres(p.film_mm)} over the relief` : undefined}>Under it</Heading>
        <Flex gap="8px" wrap="wrap" align="center">
          <input
            aria-label="Release"
            placeholder="release"
            value={scheme.release ?? ""}
            maxLength={80}
            onChange={(e) => set({ release: e.target.value })}
            style={text}
          />
          <input
            aria-label="Film"
            placeholder="peelable film"
            value={scheme.film ?? ""}
            maxLength={80}
            onChange={(e) => set({ film: e.target.value })}
            style={text}
          />
          <Turn label="Coats" value={scheme.film_coats ?? 0} min={0} max={20} step={1} set={(film_coats) => set({ film_coats })} />
        </Flex>
      </Box>
      <Heading
        aside={
          <Flex gap="8px">
            <Pick
              label="Add a layer of colour"
              value=""
              set={(kind) =>
                kind &&
                change(
                  { paint: { ...scheme, layers: [...scheme.layers, { kind: kind as Coat["kind"], colour: { l: 50, a: 8, b: 14 }, strength: 0.5 }] } },
                  true,
                )
              }
              width="190px"
            >
              <option value="">add a layer of colour</option>
              {choices.data?.paint_kinds.map((k) => (
                <option key={k}>{k}</option>
              ))}
            </Pick>
          </Flex>
        }
      >
        Colour, lowest first
      </Heading>
      {scheme.layers.map((l, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: layers of colour are told by their place.
        <Flex key={i} gap="4px 10px" align="center" wrap="wrap" borderBottomWidth="1px" borderColor="line" pb="5px">
          <Box w="30px" h="30px" borderRadius="50%" borderWidth="1.5px" borderColor="ink" bg={labToHex(l.colour.l, l.colour.a, l.colour.b)} />
          <Box w="118px" lineHeight="1.15">
            <b>{l.kind}</b>
            <Box fontSize="12.5px" color="muted">
              {does[l.kind]}
            </Box>
          </Box>
          <Turn
            label={`Strength of ${l.kind}`}
            hide
            unit="of 1"
            value={l.strength}
            min={0}
            max={1}
            step={0.05}
            set={(strength) => coat(i, { strength })}
          />
          {l.kind !== "matt" &&
            (["l", "a", "b"] as const).map((c) => (
              <Turn
                key={c}
                label={c === "l" ? "L*" : `${c}*`}
                value={l.colour[c]}
                min={c === "l" ? 0 : -100}
                max={100}
                step={1}
                set={(x) => coat(i, { colour: { ...l.colour, [c]: x } })}
              />
            ))}
          {(l.kind === "wash" || l.kind === "dry brush") && (
            <Turn label="Reach" unit="mm" value={l.reach_mm ?? 3} min={0.2} max={30} step={0.2} set={(reach_mm) => coat(i, { reach_mm })} />
          )}
          {l.kind === "spatter" && (
            <>
              <Turn label="Flecks" unit="mm" value={l.size_mm ?? 1} min={0.2} max={10} step={0.1} set={(size_mm) => coat(i, { size_mm })} />
              <Turn label="Cover" value={l.share ?? 0.15} min={0.01} max={1} step={0.01} set={(share) => coat(i, { share })} />
            </>
          )}
          {i > 0 && (
            <Box as="button" textDecoration="underline" layerStyle="small" onClick={() => swap(i)}>
              lower
            </Box>
          )}
          <Box
            as="button"
            textDecoration="underline"
            color="muted"
            fontSize="13.5px"
            onClick={() => change({ paint: { ...scheme, layers: scheme.layers.filter((_, k) => k !== i) } }, true)}
          >
            take away
          </Box>
        </Flex>
      ))}
      {p && <Reads p={p} />}
      <Plain h="34px" alignSelf="start" onClick={() => change({ paint: undefined }, true)}>
        No paint on the sculpt
      </Plain>
    </Flex>
  );
}

const text = {
  flex: "1 1 150px",
  minWidth: 0,
  height: 34,
  padding: "0 10px",
  borderRadius: 8,
  border: "1.5px solid var(--chakra-colors-line)",
  background: "var(--chakra-colors-sheet)",
} as const;

/** How much of the look comes from paint, how much from relief. */
function Reads({ p }: { p: Schemas["CraftTexturePainted"] }) {
  const rows = [{ id: "", name: "All of it", paint_contrast: p.paint_contrast, relief_contrast: p.relief_contrast }, ...p.areas];
  return (
    <Box>
      <Heading aside="spread of lightness, L*">What makes the look</Heading>
      {rows.map((r) => (
        <Flex key={r.id} gap="14px">
          <Box flex="1">{r.name}</Box>
          <Box>
            paint <b>{r.paint_contrast.toFixed(1)}</b>
          </Box>
          <Box>
            relief, low light <b>{r.relief_contrast.toFixed(1)}</b>
          </Box>
          <Box w="150px" color="muted">
            {r.paint_contrast > 1.5 * r.relief_contrast
              ? "paint carries it"
              : r.relief_contrast > 1.5 * r.paint_contrast
                ? "relief carries it"
                : "both carry it"}
          </Box>
        </Flex>
      ))}
      <Box layerStyle="small">Colours are mixed as they look, not as pigment: good for judging relief, not for weighing out.</Box>
    </Box>
  );
}
