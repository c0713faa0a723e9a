import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Heading, Pick, Plain } from "../../parts/controls";
import { Turn } from "../../parts/Turn";
import { Dials } from "./Dials";
import { commonDials, family, familyDials, kindOf, ladder } from "./kinds";
import type { Doc, Layer } from "./useTexture";

/** The dials of one texture: its own, and where and how much alike it lies. */
export function LayerBody({ layer, doc, put }: { layer: Layer; doc: Doc; put: (l: Layer, now?: boolean) => void }) {
  const k = kindOf(layer.kind);
  const guideNames = (doc.guides ?? []).map((_, i) => `${i + 1} ${doc.guide_names?.[i] ?? ""}`);
  return (
    <Flex direction="column" gap="8px">
      <Dials of={layer} dials={k.dials} set={put} />
      {layer.kind === "hatch" && <Families layer={layer} put={put} />}
      {layer.kind === "scales" && <Ladder layer={layer} put={put} />}
      {layer.kind === "droplets" && guideNames.length > 0 && (
        <Pick label="Thin out from" value={String(layer.from ?? -1)} set={(x) => put({ ...layer, from: Number(x) }, true)} width="220px">
          <option value="-1">thin out from the edge</option>
          {guideNames.map((n, i) => (
            <option key={n} value={i}>
              thin out from guide {n}
            </option>
          ))}
        </Pick>
      )}
      {(layer.kind === "hatch" || layer.kind === "scales") && guideNames.length > 0 && (
        <Pick
          label="Flow"
          value={String(layer.flow ?? -1)}
          set={(x) => put({ ...layer, flow: x === "-1" ? undefined : Number(x) }, true)}
          width="220px"
        >
          <option value="-1">runs straight</option>
          {guideNames.map((n, i) => (
            <option key={n} value={i}>
              follows guide {n}
            </option>
          ))}
        </Pick>
      )}
      {layer.kind === "wrinkles" && (
        <Flex gap="8px">
          {([0, 1] as const).map((end) => (
            <Pick
              key={end}
              label={end === 0 ? "From guide" : "To guide"}
              value={String(layer.between?.[end] ?? end)}
              set={(x) => put({ ...layer, between: end === 0 ? [Number(x), layer.between?.[1] ?? 1] : [layer.between?.[0] ?? 0, Number(x)] }, true)}
              width="180px"
            >
              {guideNames.map((n, i) => (
                <option key={n} value={i}>
                  {end === 0 ? "from" : "to"} guide {n}
                </option>
              ))}
            </Pick>
          ))}
        </Flex>
      )}
      {layer.kind === "lines" && (
        <Flex gap="14px" wrap="wrap">
          {guideNames.map((n, i) => (
            <label key={n}>
              <input
                type="checkbox"
                checked={layer.along?.includes(i) ?? false}
                onChange={(e) =>
                  put({ ...layer, along: e.target.checked ? [...(layer.along ?? []), i] : (layer.along ?? []).filter((x) => x !== i) }, true)
                }
              />{" "}
              guide {n}
            </label>
          ))}
          <label>
            <input type="checkbox" checked={layer.raise ?? false} onChange={(e) => put({ ...layer, raise: e.target.checked }, true)} /> stand up, as
            veins
          </label>
        </Flex>
      )}
      <Heading>Where, and how much alike</Heading>
      <Dials of={layer} dials={commonDials} set={put} />
      <Flex gap="8px 14px" wrap="wrap" align="center">
        <Turn
          label="Seed"
          value={layer.seed ?? doc.seed}
          min={0}
          max={9999}
          step={1}
          set={(seed) => put({ ...layer, seed })}
          another={() => put({ ...layer, seed: Math.floor(Math.random() * 10_000) }, true)}
        />
        <label>
          <input
            type="checkbox"
            checked={!!layer.mirror}
            onChange={(e) => put({ ...layer, mirror: e.target.checked ? { x: 0, difference: 0.2 } : undefined }, true)}
          />{" "}
          both sides alike
        </label>
        {layer.mirror && (
          <>
            <Turn
              label="Middle at"
              unit="mm"
              value={layer.mirror.x}
              min={-300}
              max={500}
              step={1}
              set={(x) => layer.mirror && put({ ...layer, mirror: { ...layer.mirror, x } })}
            />
            <Turn
              label="Difference"
              value={layer.mirror.difference}
              min={0}
              max={1}
              step={0.05}
              set={(difference) => layer.mirror && put({ ...layer, mirror: { ...layer.mirror, difference } })}
            />
          </>
        )}
      </Flex>
      {(doc.areas ?? []).length > 0 && (
        <Flex gap="6px 14px" wrap="wrap" align="center">
          {(doc.areas ?? []).map((a) => (
            <label key={a.id}>
              <input
                type="checkbox"
                checked={layer.on?.includes(a.id) ?? false}
                onChange={(e) =>
                  put({ ...layer, on: e.target.checked ? [...(layer.on ?? []), a.id] : (layer.on ?? []).filter((x) => x !== a.id) }, true)
                }
              />{" "}
              {layer.outside ? "not on" : "only on"} {a.name}
            </label>
          ))}
          <label>
            <input type="checkbox" checked={layer.outside ?? false} onChange={(e) => put({ ...layer, outside: e.target.checked }, true)} /> outside of
            them
          </label>
        </Flex>
      )}
      <Pick
        label="How it lies on what is there"
        value={layer.combine || "add"}
        set={(x) => put({ ...layer, combine: x as Layer["combine"] }, true)}
        width="260px"
      >
        <option value="add">added to what is there</option>
        <option value="min">the deeper of both stays</option>
        <option value="max">the higher of both stays</option>
      </Pick>
    </Flex>
  );
}

/** The families of lines, each with its dials; scoring again, and lumps in the cells. */
function Families({ layer, put }: { layer: Layer; put: (l: Layer, now?: boolean) => void }) {
  const list = layer.families ?? [];
  const [open, setOpen] = useState(0);
  const at = Math.min(open, list.length - 1);
  return (
    <Box>
      <Flex gap="8px" mb="4px" wrap="wrap">
        {list.map((f, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: families are told by their place.
          <Plain key={i} h="30px" aria-pressed={i === at} bg={i === at ? "heatherSoft" : "transparent"} onClick={() => setOpen(i)}>
            {`Lines at ${f.angle}°`}
          </Plain>
        ))}
        {list.length < 6 && (
          <Plain h="30px" onClick={() => put({ ...layer, families: [...list, family(70)] }, true)}>
            Another direction
          </Plain>
        )}
        {list.length > 1 && (
          <Plain h="30px" onClick={() => put({ ...layer, families: list.filter((_, i) => i !== at) }, true)}>
            Take this away
          </Plain>
        )}
      </Flex>
      {list[at] && <Dials of={list[at]} dials={familyDials} set={(f) => put({ ...layer, families: list.map((x, i) => (i === at ? f : x)) })} />}
      <Flex gap="8px 14px" wrap="wrap" mt="6px" align="center">
        <label>
          <input
            type="checkbox"
            checked={!!layer.rescore}
            onChange={(e) => put({ ...layer, rescore: e.target.checked ? { every: 3, depth: 0.4, width: 0.5 } : undefined }, true)}
          />{" "}
          score some lines again
        </label>
        {layer.rescore &&
          (["every", "depth", "width"] as const).map((key) => (
            <Turn
              key={key}
              label={{ every: "Every", depth: "Depth again", width: "Width again" }[key]}
              unit={key === "every" ? "" : "mm"}
              value={layer.rescore?.[key] ?? 0}
              min={key === "every" ? 1 : 0.05}
              max={key === "every" ? 12 : 2}
              step={key === "every" ? 1 : 0.05}
              set={(x) => layer.rescore && put({ ...layer, rescore: { ...layer.rescore, [key]: x } })}
            />
          ))}
        {list.length > 1 && layer.flow === undefined && (
          <label>
            <input
              type="checkbox"
              checked={!!layer.lumps}
              onChange={(e) => put({ ...layer, lumps: e.target.checked ? { height: 0.3, share: 0.4 } : undefined }, true)}
            />{" "}
            set lumps into cells
          </label>
        )}
        {layer.lumps &&
          (["height", "share"] as const).map((key) => (
            <Turn
              key={key}
              label={key === "height" ? "Lump" : "In what share"}
              unit={key === "height" ? "mm" : ""}
              value={layer.lumps?.[key] ?? 0}
              min={0.05}
              max={key === "height" ? 2 : 1}
              step={0.05}
              set={(x) => layer.lumps && put({ ...layer, lumps: { ...layer.lumps, [key]: x } })}
            />
          ))}
      </Flex>
    </Box>
  );
}

/** The stamps that a texture is pressed with, large to small. */
function Ladder({ layer, put }: { layer: Layer; put: (l: Layer, now?: boolean) => void }) {
  const stamps = layer.stamps ?? [];
  const set = (i: number, part: Partial<(typeof stamps)[number]>) =>
    put({ ...layer, stamps: stamps.map((s, k) => (k === i ? { ...s, ...part } : s)) });
  return (
    <Box>
      <Heading
        aside={
          <Flex gap="10px">
            {[3, 5, 7].map((n) => (
              <Box
                key={n}
                as="button"
                textDecoration="underline"
                onClick={() => put({ ...layer, stamps: ladder(layer.size?.[0] ?? 9, layer.size?.[1] ?? 3, n) }, true)}
              >
                {n} in even steps
              </Box>
            ))}
          </Flex>
        }
      >
        Stamps
      </Heading>
      {stamps.map((s, i) => (
        <Flex key={s.id} gap="10px" align="center" py="1px" wrap="wrap">
          <Box w="34px" fontWeight="700">
            {s.id}
          </Box>
          <Turn label={`Tube of ${s.id}`} hide unit="mm" value={s.od} min={1} max={60} step={0.1} set={(od) => set(i, { od })} />
          <Turn label={`Squash of ${s.id}`} hide value={s.squash} min={0.3} max={1} step={0.01} set={(squash) => set(i, { squash })} />
          <label>
            <input
              type="checkbox"
              checked={s.squash_b !== undefined}
              onChange={(e) => set(i, { squash_b: e.target.checked ? Math.max(0.3, Math.round(100 * (s.squash - 0.15)) / 100) : undefined })}
            />{" "}
            second end
          </label>
          {stamps.length > 1 && (
            <Box
              as="button"
              textDecoration="underline"
              color="muted"
              onClick={() => put({ ...layer, stamps: stamps.filter((_, k) => k !== i) }, true)}
            >
              not {s.id}
            </Box>
          )}
        </Flex>
      ))}
      <Flex gap="14px" mt="4px">
        <label>
          <input
            type="checkbox"
            checked={layer.ends === "random"}
            onChange={(e) => put({ ...layer, ends: e.target.checked ? "random" : "alternate" }, true)}
          />{" "}
          ends at random
        </label>
      </Flex>
    </Box>
  );
}
