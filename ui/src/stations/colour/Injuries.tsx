import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useSettled } from "../../app/useSettled";
import { Choose, Heading, Plain, Refusal } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import { figures, hex } from "./colours";

type Kind = Schemas["CraftInjuryKind"]["id"];
type Zone = Schemas["CraftInjuryColoured"];

const kinds: [Kind, string][] = [
  ["bruise", "a bruise"],
  ["burn", "a burn"],
  ["cut", "a cut"],
  ["scab", "a graze with a scab"],
  ["frost", "frostbite"],
];

const old = (h: number) => (h < 48 ? `${Math.round(h)} h` : h < 24 * 21 ? `${Math.round(h / 24)} days` : `${Math.round(h / 168)} weeks`);

/** How an injury looks on this very skin, by its age and depth, and how it stays true to itself over the stages of a look. */
export function Injuries({ piece }: { piece: string }) {
  const [kind, setKind] = useState<Kind>("bruise");
  // A slide of even steps in the logarithm of the hours: the first hours change most.
  const [slide, setSlide] = useState(45);
  const [depth, setDepth] = useState(0.5);
  const hours = Math.round(10 * 0.25 * 10 ** (slide / 25)) / 10;
  const asked = useSettled(`${kind} ${hours} ${depth}`, 120);
  const hurt = useRead({
    queryKey: ["injury", piece, asked],
    queryFn: () => ask(api.GET("/api/pieces/{code}/injury", { params: { path: { code: piece }, query: { kind, hours, depth } } })),
    placeholderData: (before) => before,
  });
  const h = hurt.data;
  const add = useAct(async () => {
    if (!h) return;
    const view = await ask(api.GET("/api/pieces/{code}/paint", { params: { path: { code: piece } } }));
    const names = new Set(view.doc.layers.map((l) => l.id));
    const layers = [...h.zones].reverse().map((z) => {
      let id = `${kind}-${z.name}`;
      while (names.has(id)) id += "+";
      names.add(id);
      return {
        id,
        name: `${h.kind.text}, ${z.name}, ${old(hours)} old`,
        role: "injury" as const,
        medium: view.doc.layers.at(-1)?.medium ?? "paint-alcohol",
        tool: "stipple" as const,
        passes: 2,
        lab: { l: z.lab.l, a: z.lab.a, b: z.lab.b },
        area_share: 0.1,
        places: [z.name],
      };
    });
    await ask(
      api.PUT("/api/pieces/{code}/paint", {
        params: { path: { code: piece } },
        body: { doc: { ...view.doc, layers: [...view.doc.layers, ...layers] }, base: view.state.base, step: view.state.step },
      }),
    );
  });
  return (
    <Grid templateColumns={{ base: "1fr", lg: "300px minmax(0,1fr)" }} gap="32px" data-testid="injuries">
      <Flex direction="column" gap="12px">
        <Choose label="What happened" name="kind" value={kind} set={(k) => setKind(k as Kind)}>
          {kinds.map(([k, text]) => (
            <option key={k} value={k}>
              {text}
            </option>
          ))}
        </Choose>
        <Slide label={`How long ago: ${old(hours)}`} min={0} max={100} step={1} value={slide} set={setSlide} />
        <Slide
          label={`How deep: ${depth < 0.35 ? "slight" : depth < 0.7 ? "usual" : "deep"}`}
          min={0}
          max={1}
          step={0.05}
          value={depth}
          set={setDepth}
        />
        <Box layerStyle="small">These courses are ours, drawn for a camera. Nobody dates or treats a real injury by them: that is for a doctor.</Box>
        {h && (
          <Box>
            <Heading>Painted in this order</Heading>
            <Box as="ol" ps="20px" listStyleType="decimal">
              {h.kind.order.map((o) => (
                <li key={o}>{o}</li>
              ))}
            </Box>
          </Box>
        )}
        <Flex>
          <Plain disabled={!h || add.busy} onClick={() => void add.run()}>
            Put it into the paint schedule
          </Plain>
        </Flex>
        <Refusal problem={add.problem ?? (hurt.error as unknown as Problem | undefined)} />
      </Flex>
      {h && (
        <Box minW="0">
          <Flex gap="26px" wrap="wrap" align="center">
            <Patch zones={h.zones} skin={hex(h.skin.lab)} size={230} what={`${h.kind.text}, ${old(h.hours)}`} />
            <Box flex="1" minW="260px">
              {h.zones.map((z) => (
                <Flex key={z.name} gap="10px" align="center" mb="6px">
                  <Box w="44px" h="34px" bg={hex(z.lab)} />
                  <Box lineHeight="1.25">
                    <b>{z.name}</b>, {z.de00.toFixed(1)} from the skin around
                    <Box fontSize="13px">
                      {figures(z.lab)}; soft over {millimetres(z.edge_mm)}
                      {z.crust_mm ? `; ${z.blood} blood, ${millimetres(z.crust_mm)}` : ""}
                    </Box>
                  </Box>
                </Flex>
              ))}
              <Box layerStyle="small">On {h.skin.words}, as it will be on the day.</Box>
            </Box>
          </Flex>
          <Box mt="18px">
            <Heading>The same one over the stages of a look</Heading>
            <Flex gap="16px" wrap="wrap">
              {h.stages.map((s) => (
                <Box
                  as="button"
                  key={s.hours}
                  textAlign="center"
                  onClick={() => setSlide(Math.round(25 * Math.log10(Math.max(0.25, s.hours) / 0.25)))}
                >
                  <Patch zones={s.zones} skin={hex(h.skin.lab)} size={128} what={`${h.kind.text}, ${s.word}`} />
                  <Box>{s.word}</Box>
                  <Box fontSize="13px">{s.zones[0].de00.toFixed(1)} in the middle</Box>
                </Box>
              ))}
            </Flex>
          </Box>
          <Box mt="18px">
            <Heading aside="as it runs off, full, and pooled">Blood on this skin</Heading>
            <Flex wrap="wrap" gap="14px">
              {h.bloods.map((b) => (
                <Box key={b.id} w="128px" lineHeight="1.25">
                  <Flex h="40px" role="img" aria-label={`${b.name}: ${b.films.map((f) => `${f.mm} mm, ${figures(f.lab)}`).join("; ")}`}>
                    {b.films.map((f) => (
                      <Box key={f.mm} flex="1" bg={hex(f.lab)} />
                    ))}
                  </Flex>
                  <Box fontSize="13.5px">
                    {b.name}, {b.class}
                  </Box>
                </Box>
              ))}
            </Flex>
          </Box>
        </Box>
      )}
    </Grid>
  );
}

function Slide({ label, value, set, ...range }: { label: string; value: number; set: (v: number) => void; min: number; max: number; step: number }) {
  return (
    <label>
      <Box layerStyle="small">{label}</Box>
      <input type="range" {...range} value={value} style={{ width: "100%", accentColor: "#111" }} onChange={(e) => set(Number(e.target.value))} />
    </label>
  );
}

/** The zones of an injury as a patch of skin, soft where they pass into one another. */
function Patch({ zones, skin, size, what }: { zones: Zone[]; skin: string; size: number; what: string }) {
  const id = `hurt-${what.replaceAll(/[^a-z0-9]+/g, "-")}-${size}`;
  const stops = zones.flatMap((z, i) => {
    const from = i === 0 ? 0 : zones[i - 1].share;
    const soft = Math.min(0.5, z.edge_mm / 30) * (z.share - from);
    return [
      { at: 0.85 * (from + (i === 0 ? 0 : soft)), c: hex(z.lab) },
      { at: 0.85 * (z.share - soft), c: hex(z.lab) },
    ];
  });
  return (
    <svg width={size} height={size} viewBox="0 0 100 100" role="img" aria-label={what}>
      <defs>
        <radialGradient id={id}>
          {stops.map((s) => (
            <stop key={s.at} offset={s.at} stopColor={s.c} />
          ))}
          <stop offset="1" stopColor={skin} />
        </radialGradient>
      </defs>
      <rect width="100" height="100" fill={skin} />
      <ellipse cx="50" cy="50" rx="46" ry="40" fill={`url(#${id})`} />
    </svg>
  );
}
