import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading, Pick, Plain, Refusal } from "../../parts/controls";
import { Turn } from "../../parts/Turn";
import type { Shape } from "./Overlay";
import { Shapes } from "./Shapes";
import { Trace } from "./Trace";
import type { Doc } from "./useTexture";

interface Props {
  piece: Schemas["PieceView"];
  doc: Doc;
  change: (part: Partial<Doc>, now?: boolean) => void;
  shape?: Shape;
  setShape: (s: Shape | undefined) => void;
  thickness?: Schemas["CraftTextureThickness"];
}

const named: Record<string, string> = {
  w: "Width",
  h: "Height",
  n: "Roundness",
  g_top: "Girth at the top",
  g_bottom: "Girth at the bottom",
  length: "Length",
};

/** Where the texture goes: outline, guides, landmarks, what is kept clear, where it fades, what it must survive. */
export function RegionLeaf({ piece, doc, change, shape, setShape, thickness }: Props) {
  const [tracing, setTracing] = useState(false);
  const outlines = useRead({
    queryKey: ["outlines", piece.code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/texture/outlines", { params: { path: { code: piece.code } } })),
  });
  const svg = useAct(async (file: File) => ask(api.POST("/api/textures/outline", { body: { svg: await file.text() } })));
  const region = doc.region;
  const preset = outlines.data?.find((o) => o.from === "preset" && o.region.preset === region.preset);
  const take = (r: Schemas["CraftTextureRegion"]) =>
    change({ region: r, guides: [], guide_names: [], fade: [], clear: [], landmarks: [], areas: [] }, true);
  return (
    <Flex direction="column" gap="12px">
      <Box>
        <Heading aside={region.from || preset?.note}>Outline</Heading>
        <Flex gap="8px" wrap="wrap" align="center">
          <Pick
            label="Take the outline of"
            value="now"
            set={(x) => {
              const o = outlines.data?.[Number(x)];
              if (o) take(o.region);
            }}
            width="250px"
          >
            <option value="now">{preset ? preset.text : (region.from ?? "as drawn")} · take another</option>
            {outlines.data?.map((o, i) => (
              <option key={`${o.from}${o.text}`} value={i}>
                {o.from === "preset" ? "" : `${o.from}: `}
                {o.text}, {o.cm2} cm²
              </option>
            ))}
          </Pick>
          <Plain h="34px" aria-expanded={tracing} onClick={() => setTracing(!tracing)}>
            Trace a picture
          </Plain>
          <label>
            SVG:{" "}
            <input
              type="file"
              accept="image/svg+xml,.svg"
              aria-label="Outline from an SVG drawing"
              style={{ maxWidth: 170 }}
              onChange={async (e) => {
                const file = e.target.files?.[0];
                const r = file && (await svg.run(file));
                if (r) take({ ...r, from: file.name.slice(0, 100) });
              }}
            />
          </label>
        </Flex>
        <Refusal problem={svg.problem} />
        {region.preset && <Sizes region={region} set={(params) => change({ region: { ...region, params } })} />}
      </Box>
      {tracing && (
        <Trace
          piece={piece}
          take={(r) => {
            take(r);
            setTracing(false);
          }}
        />
      )}
      <Shapes doc={doc} change={change} shape={shape} setShape={setShape} />
      <Box>
        <Heading>How it ends</Heading>
        <Flex gap="6px 18px" wrap="wrap" align="center">
          <Turn
            label="Fades in from the edge over"
            unit="mm"
            value={doc.feather_mm ?? 0}
            min={0}
            max={60}
            step={1}
            set={(x) => change({ feather_mm: x })}
          />
          {(doc.guides ?? []).map((_, i) => {
            const fade = doc.fade?.find((f) => f.guide === i);
            const set = (over?: number) =>
              change({ fade: [...(doc.fade ?? []).filter((f) => f.guide !== i), ...(over ? [{ guide: i, over_mm: over }] : [])] });
            return (
              <Flex key={`fade${doc.guide_names?.[i]}${i === 0 ? "" : i}`} gap="6px" align="center">
                <label>
                  <input type="checkbox" checked={!!fade} onChange={(e) => set(e.target.checked ? 8 : undefined)} /> into skin at guide {i + 1}
                </label>
                {fade && <Turn label={`Over, at guide ${i + 1}`} hide unit="mm" value={fade.over_mm} min={1} max={60} step={1} set={set} />}
              </Flex>
            );
          })}
          <Turn label="Pixels for export" unit="mm" value={doc.pitch_mm ?? 0.1} min={0.02} max={1} step={0.01} set={(x) => change({ pitch_mm: x })} />
        </Flex>
      </Box>
      <Survive doc={doc} change={change} thickness={thickness} />
    </Flex>
  );
}

function Sizes({ region, set }: { region: Schemas["CraftTextureRegion"]; set: (p: Record<string, number>) => void }) {
  const sleeves = ["forearm", "upper_arm", "shin", "finger", "neck", "thigh"];
  const usual: Record<string, number[]> = {
    forearm: [270, 170, 230],
    upper_arm: [320, 280, 200],
    shin: [370, 230, 320],
    finger: [70, 55, 80],
    neck: [360, 400, 100],
    thigh: [500, 370, 299],
  };
  const keys = sleeves.includes(region.preset ?? "") ? ["g_top", "g_bottom", "length"] : ["w", "h"];
  return (
    <Flex gap="4px 16px" wrap="wrap" mt="6px" align="center">
      <Box layerStyle="small">The wearer's own:</Box>
      {keys.map((k, i) => (
        <Turn
          key={k}
          label={named[k]}
          unit="mm"
          value={region.params?.[k] ?? usual[region.preset ?? ""]?.[i] ?? 0}
          min={1}
          max={1500}
          step={1}
          set={(x) => set({ ...region.params, [k]: x })}
        />
      ))}
    </Flex>
  );
}

/** Mould, cast and paint that the texture must survive, and how thick the appliance is. */
function Survive({ doc, change, thickness }: Pick<Props, "doc" | "change" | "thickness">) {
  const choices = useRead({
    queryKey: ["texture choices"],
    queryFn: () => ask(api.GET("/api/textures/choices")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const m = doc.materials ?? {};
  const t = doc.thickness;
  const set = (part: Partial<typeof m>) => change({ materials: { ...m, ...part } });
  return (
    <Box>
      <Heading>What it must survive</Heading>
      <Grid templateColumns="repeat(3, minmax(0, 1fr))" gap="8px" mb="6px">
        {(["mould", "cast", "paint"] as const).map((key) => (
          <Pick key={key} label={{ mould: "Mould", cast: "Cast", paint: "Paint" }[key]} value={m[key] ?? ""} set={(x) => set({ [key]: x })}>
            <option value="">{{ mould: "which mould?", cast: "which cast?", paint: "which paint?" }[key]}</option>
            {choices.data?.[key === "mould" ? "moulds" : key === "cast" ? "casts" : "paints"].map((h) => (
              <option key={h.name} value={h.name}>
                {h.name}
              </option>
            ))}
          </Pick>
        ))}
      </Grid>
      <Flex gap="4px 18px" wrap="wrap" align="center">
        <Turn label="Coats of paint" value={m.coats ?? 0} min={0} max={40} step={1} set={(coats) => set({ coats })} />
        {t &&
          (["edge_mm", "centre_mm", "over_mm", "least_mm"] as const).map((key) => (
            <Turn
              key={key}
              label={{ edge_mm: "Edge", centre_mm: "Centre", over_mm: "… thick from", least_mm: "Leave under lines" }[key]}
              unit="mm"
              value={t[key] ?? (key === "least_mm" ? 0.3 : 0)}
              min={0}
              max={200}
              step={0.1}
              set={(x) => change({ thickness: { ...t, [key]: x } })}
            />
          ))}
        <Plain h="32px" onClick={() => change({ thickness: t ? undefined : (thickness ?? { edge_mm: 0.2, centre_mm: 4, over_mm: 20 }) }, true)}>
          {t ? "Do not check thickness" : thickness ? "Check against the section" : "Check against a thickness"}
        </Plain>
      </Flex>
    </Box>
  );
}
