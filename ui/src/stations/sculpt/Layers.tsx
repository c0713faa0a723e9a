import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, upload } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading, Pick, Plain, Refusal, Teach } from "../../parts/controls";
import { newId } from "../../parts/id";
import { Turn } from "../../parts/Turn";
import { kindOf, kinds, ladder } from "./kinds";
import { LayerBody } from "./LayerBody";
import type { Doc, Layer } from "./useTexture";

interface Props {
  doc: Doc;
  change: (part: Partial<Doc>, now?: boolean) => void;
  wrong?: { field: string; message: string };
}

/** The textures that lie over each other, and the dials of the one in hand. */
export function Layers({ doc, change, wrong }: Props) {
  const [at, setAt] = useState(0);
  const [adding, setAdding] = useState(doc.layers.length === 0);
  const layers = doc.layers;
  const index = Math.min(at, layers.length - 1);
  const layer = layers[index];
  const put = (next: Layer, now = false) => change({ layers: layers.map((l, i) => (i === index ? next : l)) }, now);
  const add = (kind: string) => {
    const k = kindOf(kind);
    const next: Layer = { kind, id: newId(), ...k.start };
    if (kind === "scales") next.stamps = ladder(next.size?.[0] ?? 9, next.size?.[1] ?? 3, 5);
    change({ layers: [...layers, next] }, true);
    setAt(layers.length);
    setAdding(false);
  };
  const guides = doc.guides?.length ?? 0;
  const lacks = (kind: string) => (kind === "wrinkles" && guides < 2 ? "needs two guides" : kind === "lines" && guides < 1 ? "needs a guide" : "");
  return (
    <Flex direction="column" gap="10px">
      <Flex gap="8px" wrap="wrap" align="center">
        {layers.map((l, i) => (
          <Box
            key={l.id ?? i}
            as="button"
            aria-pressed={i === index && !adding}
            px="12px"
            py="5px"
            borderWidth="1.5px"
            borderColor={i === index && !adding ? "heather" : "line"}
            bg={i === index && !adding ? "heatherSoft" : "sheet"}
            borderRadius="3px 14px 14px 3px"
            opacity={l.off ? 0.55 : 1}
            onClick={() => {
              setAt(i);
              setAdding(false);
            }}
          >
            {l.name || kindOf(l.kind).text}
            {l.off ? ", left out" : ""}
          </Box>
        ))}
        <Plain h="34px" aria-expanded={adding} onClick={() => setAdding(!adding)}>
          Add a texture
        </Plain>
      </Flex>
      {adding && (
        <Grid templateColumns="repeat(2, minmax(0, 1fr))" gap="6px 10px">
          {layers.length === 0 && (
            <Box gridColumn="1 / -1">
              <Teach>Begin with the largest marks; the smaller ones go on top of them.</Teach>
            </Box>
          )}
          {kinds.map((k) => (
            <Box
              key={k.name}
              as="button"
              textAlign="left"
              px="10px"
              py="6px"
              borderWidth="1.5px"
              borderColor="line"
              borderRadius="3px 14px 14px 3px"
              bg="sheet"
              aria-disabled={lacks(k.name) !== ""}
              onClick={() => lacks(k.name) === "" && add(k.name)}
            >
              <Box fontWeight="600">{k.text}</Box>
              <Box layerStyle="small" lineHeight="1.25">
                {lacks(k.name) || k.teach}
              </Box>
            </Box>
          ))}
          <Bring
            add={(l) => {
              change({ layers: [...layers, l] }, true);
              setAt(layers.length);
              setAdding(false);
            }}
          />
        </Grid>
      )}
      {wrong?.field.startsWith("layers") && (
        <Box role="alert" color="rust" fontWeight="600">
          {wrong.message}
        </Box>
      )}
      {layer && !adding && (
        <Box>
          <Flex gap="8px" wrap="wrap" mb="6px" align="center">
            <input
              aria-label="Name of this texture"
              value={layer.name ?? ""}
              placeholder={kindOf(layer.kind).text}
              maxLength={60}
              onChange={(e) => put({ ...layer, name: e.target.value })}
              style={plainField}
            />
            <Plain h="32px" onClick={() => put({ ...layer, off: !layer.off }, true)}>
              {layer.off ? "Put it in" : "Leave it out"}
            </Plain>
            <Plain
              h="32px"
              disabled={index === 0}
              onClick={() => {
                const next = [...layers];
                [next[index - 1], next[index]] = [next[index], next[index - 1]];
                change({ layers: next }, true);
                setAt(index - 1);
              }}
            >
              Earlier
            </Plain>
            <Plain h="32px" onClick={() => change({ layers: layers.filter((_, i) => i !== index) }, true)}>
              Take it away
            </Plain>
          </Flex>
          <LayerBody layer={layer} doc={doc} put={put} />
        </Box>
      )}
      {!adding && layers.length > 0 && <Softening doc={doc} change={change} />}
    </Flex>
  );
}

const plainField = {
  flex: "1 1 150px",
  minWidth: 0,
  height: 32,
  padding: "0 10px",
  borderRadius: 8,
  border: "1.5px solid var(--chakra-colors-line)",
  background: "var(--chakra-colors-sheet)",
} as const;

/** Which passes soften the surface when the marks are made. */
function Softening({ doc, change }: Pick<Props, "doc" | "change">) {
  const choices = useRead({
    queryKey: ["texture choices"],
    queryFn: () => ask(api.GET("/api/textures/choices")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const passes = doc.passes ?? [];
  return (
    <Box>
      <Heading>Then softened with</Heading>
      <Flex gap="6px 14px" wrap="wrap" align="center">
        {passes.map((p, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: passes are told by their place.
          <Flex key={i} gap="6px" align="center">
            <Turn
              label={p.tool}
              unit={p.times === 1 ? "pass" : "passes"}
              value={p.times}
              min={1}
              max={20}
              step={1}
              set={(times) => change({ passes: passes.map((x, k) => (k === i ? { ...x, times } : x)) })}
            />
            <Box
              as="button"
              textDecoration="underline"
              color="muted"
              fontSize="13.5px"
              onClick={() => change({ passes: passes.filter((_, k) => k !== i) }, true)}
            >
              not
            </Box>
          </Flex>
        ))}
        <Pick label="Add a softening pass" value="" set={(tool) => tool && change({ passes: [...passes, { tool, times: 1 }] }, true)} width="190px">
          <option value="">add a pass</option>
          {choices.data?.softenings.map((x) => (
            <option key={x.tool}>{x.tool}</option>
          ))}
        </Pick>
      </Flex>
    </Box>
  );
}

interface BroughtIn {
  file: string;
  nx: number;
  ny: number;
  mm_per_pixel: number;
  min_mm: number;
  max_mm: number;
}

/** Brings in a height field as a layer. */
function Bring({ add }: { add: (l: Layer) => void }) {
  const bring = useAct((file: File) => {
    const form = new FormData();
    form.set("file", file);
    return upload<BroughtIn>("/api/textures/height-fields", form);
  });
  return (
    <Box gridColumn="1 / -1">
      <label>
        Bring in a height field (grey PNG, 8 or 16 bits):{" "}
        <input
          type="file"
          accept="image/png"
          onChange={async (e) => {
            const file = e.target.files?.[0];
            if (!file) return;
            const f = await bring.run(file);
            if (f)
              add({
                kind: "field",
                id: newId(),
                name: file.name.slice(0, 60),
                field: { file: f.file, at: [0, 0], mm_per_pixel: f.mm_per_pixel || 0.1, times: 1 },
              });
          }}
        />
      </label>
      <Refusal problem={bring.problem} />
    </Box>
  );
}
