import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useMemo, useState } from "react";
import { api, ask, type Problem, type Schemas } from "../../app/api";
import { useMaterials } from "../../app/reads";
import { useDraft } from "../../app/useDraft";
import { Conflict } from "../../parts/Conflict";
import { Heading, Pick, Plain, Refusal, Teach } from "../../parts/controls";
import { DraftFoot } from "../../parts/DraftFoot";
import { duration, grams } from "../../parts/format";
import { columns } from "../../parts/Room";
import { apart, figures, hex, type Lab } from "./colours";
import { LayerEditor } from "./LayerEditor";
import { PaintedRelief } from "./PaintedRelief";

export type Schedule = Schemas["CraftPaintworkSchedule"];
export type Layer = Schemas["CraftPaintworkLayer"];
export type ScheduleView = Schemas["ColourScheduleView"];

export const roleWords: Record<Layer["role"], string> = {
  cancel: "cancels a colour",
  below: "lies below a film",
  base: "base",
  injury: "injury",
  veins: "veins",
  spots: "spots",
  mottle: "mottle",
  shadow: "shadow",
  highlight: "light",
  line: "lines",
  accent: "accent",
  shine: "shine only",
};

const schools: [NonNullable<Schedule["school"]>, string][] = [
  ["", "no school"],
  ["light_first", "lightest first, dark blends in"],
  ["dark_first", "dark outline first, then filled"],
  ["base_first", "base, hollows dark, what stands up light"],
  ["low_contrast", "little contrast, growing darker"],
];

const wheres: [NonNullable<Schedule["where"]>, string][] = [
  ["", "not said"],
  ["before", "all before it is worn"],
  ["partly", "partly, the rest on the face"],
  ["on_the_face", "all on the face"],
];

function useSchedule(piece: string) {
  const params = { path: { code: piece } };
  const draft = useDraft<Schedule, ScheduleView>(["paint", piece], {
    read: () => ask(api.GET("/api/pieces/{code}/paint", { params })),
    save: (body) => ask(api.PUT("/api/pieces/{code}/paint", { params, body })),
    undo: () => ask(api.POST("/api/pieces/{code}/paint/undo", { params })),
    redo: () => ask(api.POST("/api/pieces/{code}/paint/redo", { params })),
    drop: () => ask(api.DELETE("/api/pieces/{code}/paint/draft", { params })),
    carry: (latest) => ask(api.POST("/api/pieces/{code}/paint/carry", { params, body: { latest } })),
  });
  return { ...draft, agree: () => draft.act(() => ask(api.POST("/api/pieces/{code}/paint/agree", { params }))) };
}

/** What follows from a schedule as it stands on the screen, a moment after the hand. */
function useTried(piece: string, doc: Schedule | undefined, saved: ScheduleView | undefined) {
  const [tried, setTried] = useState<ScheduleView>();
  const words = JSON.stringify(doc);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a schedule is the same while its words are.
  useEffect(() => {
    if (!doc || doc === saved?.doc) {
      setTried(undefined);
      return;
    }
    const gone = new AbortController();
    void ask(api.POST("/api/pieces/{code}/paint/try", { params: { path: { code: piece } }, body: doc, signal: gone.signal }))
      .then((v) => setTried(v))
      .catch(() => {});
    return () => gone.abort();
  }, [words, piece, saved]);
  return tried;
}

/** The paint schedule: layers in order, how the place looks after each, what each takes, and what its order asks for. */
export function Paint({ piece }: { piece: string }) {
  const draft = useSchedule(piece);
  const materials = useMaterials();
  const { doc } = draft;
  const tried = useTried(piece, doc, draft.view);
  // The rule book is asked when it is saved: until then it says what it said.
  const v = tried ? { ...tried, findings: draft.view?.findings ?? [] } : draft.view;
  const [at, setAt] = useState(0);
  const media = useMemo(() => materials.data?.filter((m) => m.family.startsWith("paint") || m.family === "glitter") ?? [], [materials.data]);
  const sets = useMemo(() => materials.data?.filter((m) => m.family === "powder" || m.family === "sealer") ?? [], [materials.data]);
  if (!doc || !v) return draft.failed ? <Refusal problem={draft.failed as unknown as Problem} /> : null;
  const layer = doc.layers[Math.min(at, doc.layers.length - 1)];
  const set = (layers: Layer[], now = false) => draft.change({ layers }, now);
  const change = (i: number, part: Partial<Layer>, now = false) =>
    set(
      doc.layers.map((l, k) => (k === i ? { ...l, ...part } : l)),
      now,
    );
  const add = () => {
    let n = doc.layers.length + 1;
    while (doc.layers.some((l) => l.id === `c${n}`)) n++;
    const target: Lab = v.aim ?? v.painted?.end ?? { l: 60, a: 10, b: 16 };
    set(
      [
        ...doc.layers,
        { id: `c${n}`, name: "", role: "base", medium: doc.layers.at(-1)?.medium ?? media[0]?.slug ?? "", tool: "sponge", passes: 1, lab: target },
      ],
      true,
    );
    setAt(doc.layers.length);
  };
  const swap = (i: number) => {
    const next = [...doc.layers];
    [next[i - 1], next[i]] = [next[i], next[i - 1]];
    set(next, true);
    setAt(i - 1);
  };
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 400px")} gap="32px" data-testid="paint-schedule">
      <Box minW="0">
        <Heading aside={v.painted && `on ${v.ground}, ${v.area_cm2.toFixed(0)} cm²`}>
          Paint schedule{draft.view && draft.view.state.latest > 0 ? `, §${draft.view.state.latest} agreed` : ""}
        </Heading>
        {!draft.view?.begun && v.from && (
          <Box layerStyle="small" mb="6px">
            A first draft, from{" "}
            {v.from === "trial"
              ? "the trial paint scheme of its texture"
              : "the colours of its section: what each looks like is guessed from the target"}
            .
          </Box>
        )}
        {doc.layers.length === 0 && <Teach>No colour yet. Add the first: it is laid on {v.ground}.</Teach>}
        {doc.layers.length > 0 && <Strip v={v} doc={doc} at={at} choose={setAt} />}
        <Box as="ol" aria-label="Layers, lowest first">
          {doc.layers.map((l, i) => (
            <Row
              key={l.id}
              n={i + 1}
              layer={l}
              step={v.painted?.steps.find((s) => s.id === l.id)}
              medium={materials.data?.find((m) => m.slug === l.medium)?.name ?? l.medium}
              chosen={l === layer}
              choose={() => setAt(i)}
              up={i > 0 ? () => swap(i) : undefined}
              gone={() =>
                set(
                  doc.layers.filter((_, k) => k !== i),
                  true,
                )
              }
            />
          ))}
        </Box>
        <Flex gap="12px" align="center" mt="10px" wrap="wrap">
          <Plain onClick={add}>Add a colour</Plain>
          <DraftFoot draft={draft} agree="Agree the schedule" empty={doc.layers.length === 0} wrong={!!v.wrong} />
          {v.painted && (
            <Box layerStyle="small">
              {grams(v.painted.grams)} of paint, {Math.round(v.painted.minutes)} min of hands
            </Box>
          )}
        </Flex>
        {v.wrong && (
          <Box fontWeight="700" role="alert" mt="8px">
            {v.wrong.detail}
          </Box>
        )}
        <Conflict<Schedule> problem={draft.problem} settle={draft.settle} say={said} />
        <Said v={v} names={new Map(doc.layers.map((l) => [l.id, l.name || roleWords[l.role]]))} />
      </Box>
      <Box minW="0">
        <PaintedRelief piece={piece} scheme={v.scheme} degrees={doc.light_deg} turn={(light_deg) => draft.change({ light_deg })} />
        {layer && (
          <LayerEditor
            key={layer.id}
            layer={layer}
            tools={v.tools}
            media={media}
            sets={sets}
            change={(part, now) => change(doc.layers.indexOf(layer), part, now)}
            propose={() =>
              ask(api.POST("/api/pieces/{code}/paint/propose", { params: { path: { code: piece } }, body: { doc, at: doc.layers.indexOf(layer) } }))
            }
          />
        )}
        <Grid templateColumns="1fr 1fr" gap="10px" mt="12px">
          <Box>
            <Box layerStyle="small">Light and dark</Box>
            <Pick label="School of light and dark" value={doc.school ?? ""} set={(s) => draft.change({ school: s as Schedule["school"] }, true)}>
              {schools.map(([k, text]) => (
                <option key={k} value={k}>
                  {text}
                </option>
              ))}
            </Pick>
          </Box>
          <Box>
            <Box layerStyle="small">Painted</Box>
            <Pick label="Where it is painted" value={doc.where ?? ""} set={(s) => draft.change({ where: s as Schedule["where"] }, true)}>
              {wheres.map(([k, text]) => (
                <option key={k} value={k}>
                  {text}
                </option>
              ))}
            </Pick>
          </Box>
        </Grid>
      </Box>
    </Grid>
  );
}

/** The place after each layer, edge to edge, and the target last. */
function Strip({ v, doc, at, choose }: { v: ScheduleView; doc: Schedule; at: number; choose: (i: number) => void }) {
  if (!v.painted) return null;
  return (
    <Flex h="74px" mb="8px">
      <Box flex="1" bg={hex(v.painted.start)} role="img" aria-label={`before any colour: ${figures(v.painted.start)}`} />
      {v.painted.steps.map((s, i) => (
        <Box
          as="button"
          key={s.id}
          flex="1"
          bg={hex(s.lab)}
          outline={i === at ? "3px solid #111" : "none"}
          outlineOffset="-3px"
          aria-label={`after ${doc.layers[i]?.name || i + 1}: ${figures(s.lab)}`}
          onClick={() => choose(i)}
        />
      ))}
      {v.aim && <Box flex="1.4" bg={hex(v.aim)} role="img" aria-label={`the target: ${figures(v.aim)}`} />}
    </Flex>
  );
}

function Row(p: {
  n: number;
  layer: Layer;
  step?: Schemas["CraftPaintworkAfter"];
  medium: string;
  chosen: boolean;
  choose: () => void;
  up?: () => void;
  gone: () => void;
}) {
  const { layer: l, step } = p;
  return (
    <Box as="li" listStyleType="none" borderBottomWidth="1px" borderColor="line" bg={p.chosen ? "heatherSoft" : "transparent"} data-layer={l.id}>
      <Flex gap="4px 12px" align="center" py="5px" px="6px" wrap={{ base: "wrap", lg: "nowrap" }}>
        <Box w="20px">{p.n}</Box>
        <Box w="34px" h="34px" flexShrink={0} bg={step ? hex(step.lab) : "transparent"} />
        <Box as="button" flex={{ base: "1 1 220px", lg: "1" }} minW="0" textAlign="left" lineHeight="1.25" onClick={p.choose}>
          <b>{l.name || roleWords[l.role]}</b>
          <Box fontSize="13.5px">
            {p.medium}, {l.tool.replaceAll("_", " ")}
            {(l.passes ?? 1) > 1 && ` × ${l.passes}`}
            {l.dilution ? `, 1 : ${l.dilution}` : ""}
            {l.set ? ", then set" : ""}
            {l.hidden ? ", into hollows" : ""}
            {l.carry_mm ? `, ${l.carry_mm} mm past the edge` : ""}
            {l.hard ? ", edge left hard" : ""}
          </Box>
        </Box>
        {step && (
          <Box
            w={{ base: "auto", lg: "150px" }}
            flex={{ base: "1 1 220px", lg: "none" }}
            fontSize="13.5px"
            lineHeight="1.25"
            textAlign={{ base: "left", lg: "right" }}
          >
            {step.de00 !== undefined && (
              <Box>
                <b>{step.de00.toFixed(1)}</b> from the target
              </Box>
            )}
            <Box>
              {grams(step.grams)}, {Math.round(step.minutes)} min
              {step.wait_s > 0 && `, dries ${duration(step.wait_s)}`}
            </Box>
          </Box>
        )}
        <Flex w="92px" gap="10px" justify="flex-end" fontSize="13.5px">
          {p.up && (
            <Box as="button" textDecoration="underline" aria-label={`Move ${l.name || roleWords[l.role]} earlier`} onClick={p.up}>
              earlier
            </Box>
          )}
          <Box as="button" textDecoration="underline" aria-label={`Take ${l.name || roleWords[l.role]} out`} onClick={p.gone}>
            out
          </Box>
        </Flex>
      </Flex>
    </Box>
  );
}

const said = (s: Schedule) => s.layers.map((l) => l.name || roleWords[l.role]).join(", ") || "no colour";

/** What the rule book and the order itself say, and how the end does under each light. */
function Said({ v, names }: { v: ScheduleView; names: Map<string, string> }) {
  const fails = v.lights.filter((l) => l.fails);
  return (
    <Box mt="16px">
      {v.lights.length > 0 && (
        <Box mb="10px">
          <Heading aside={`${v.allowed.toFixed(1)} is allowed`}>In the end</Heading>
          <Flex gap="18px" wrap="wrap">
            {v.lights.map((l) => (
              <Box key={l.light}>
                <b>{l.de00.toFixed(1)}</b> {l.light}, {l.fails ? "fails" : apart(l.de00)}
              </Box>
            ))}
          </Flex>
          {fails.length > 0 && <Box layerStyle="small">It is judged where it lies on the flat; relief and light come on top.</Box>}
        </Box>
      )}
      {v.findings.length > 0 && (
        <Box mb="10px">
          <Heading>The rule book says</Heading>
          {v.findings.map((f) => (
            <Box key={`${f.id} ${f.above} ${f.below}`} py="3px">
              <b>{f.severity === "never" ? "Never" : f.severity === "stop" ? "Stop" : f.severity === "warn" ? "Look" : "Tip"}</b>{" "}
              {[f.below, f.above]
                .map((id) => names.get((id ?? "").replace(/-set$/, "")))
                .filter(Boolean)
                .join(" and ")}
              {": "}
              {f.reason} {f.remedy}{" "}
              <Box as="span" fontSize="13px">
                {f.id}
              </Box>
            </Box>
          ))}
        </Box>
      )}
      {v.painted && v.painted.notes.length > 0 && (
        <Box>
          <Heading>Its order asks for</Heading>
          {v.painted.notes.map((n) => (
            <Box key={`${n.code} ${n.layer} ${n.text}`} py="3px">
              {n.text}{" "}
              <Box as="span" layerStyle="small">
                {n.remedy}
              </Box>
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}
