import { Box, Flex, Grid } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { Heading, Pick, Plain, Teach } from "../../parts/controls";
import { duration, grams, millimetres } from "../../parts/format";
import { Turn } from "../../parts/Turn";
import type { Doc, Judged } from "./useTexture";

type Pair = Schemas["CraftTexturePair"];

/** What of each area is relief, what is paint; what hangs; which size forces another. */
export function Split({ doc, change, judged }: { doc: Doc; change: (part: Partial<Doc>, now?: boolean) => void; judged?: Judged }) {
  const areas = doc.areas ?? [];
  const g = doc.gravity;
  return (
    <Flex direction="column" gap="14px">
      <Box>
        <Heading aside="hours · mass · depth">Relief or paint</Heading>
        {areas.length === 0 && <Teach>Mark areas in “Region”; then decide here what of each is relief and what is left to paint.</Teach>}
        {areas.map((a, i) => {
          const cost = judged?.areas.find((c) => c.id === a.id);
          return (
            <Box key={a.id} mb="8px">
              <Flex gap="10px" align="center" wrap="wrap">
                <Box flex="1" fontWeight="600">
                  {a.name}
                  <Box as="span" fontWeight="400" color="muted">
                    {cost ? ` ${cost.cm2.toFixed(1)} cm²` : ""}
                  </Box>
                </Box>
                <Pick
                  label={`What makes ${a.name}`}
                  value={a.by || "relief"}
                  set={(by) => change({ areas: areas.map((x, k) => (k === i ? { ...x, by: by as typeof a.by } : x)) }, true)}
                  width="120px"
                >
                  <option>relief</option>
                  <option>paint</option>
                  <option>both</option>
                </Pick>
                <Turn
                  label="At most"
                  unit="mm"
                  value={a.depth_mm ?? 0}
                  min={0}
                  max={30}
                  step={0.1}
                  set={(depth_mm) => change({ areas: areas.map((x, k) => (k === i ? { ...x, depth_mm } : x)) })}
                />
              </Flex>
              {cost?.choices.map((c) => (
                <Flex
                  key={c.by}
                  gap="12px"
                  fontSize="14.5px"
                  fontWeight={c.by === (a.by || "relief") ? 700 : 400}
                  color={c.by === (a.by || "relief") ? "ink" : "muted"}
                >
                  <Box w="60px">{c.by}</Box>
                  <Box w="90px">{duration(c.hours * 3600)}</Box>
                  <Box w="90px">
                    {c.mass_g >= 0 ? "+" : "−"}
                    {grams(Math.abs(c.mass_g))}
                  </Box>
                  <Box>{millimetres(c.depth_mm)}</Box>
                </Flex>
              ))}
            </Box>
          );
        })}
      </Box>
      <Box>
        <Heading>What hangs</Heading>
        <Flex gap="6px 18px" wrap="wrap" align="center">
          <label>
            <input
              type="checkbox"
              checked={!!g}
              onChange={(e) => change({ gravity: e.target.checked ? { down: 270, sag: 0.4 } : undefined }, true)}
            />{" "}
            lower rims hang
          </label>
          {g && (
            <>
              <Turn label="Down is" unit="°" value={g.down} min={0} max={360} step={5} set={(down) => change({ gravity: { ...g, down } })} />
              <Turn label="Thicker below by" value={g.sag} min={0} max={2} step={0.05} set={(sag) => change({ gravity: { ...g, sag } })} />
            </>
          )}
        </Flex>
        <Box layerStyle="small">
          {g
            ? "Lips of holes and rims of barnacles stand thicker on their lower side; the work plan has a step for it."
            : "Age and weight pull everything down: rims are made thicker below."}
        </Box>
      </Box>
      <Pairs doc={doc} change={change} judged={judged} />
    </Flex>
  );
}

const blank: Pair = { name: "", a: { name: "the first", mm: 30 }, b: { name: "the second", mm: 20 }, least: 1.2, most: 1.8 };

function Pairs({ doc, change, judged }: { doc: Doc; change: (part: Partial<Doc>, now?: boolean) => void; judged?: Judged }) {
  const pairs = doc.pairs ?? [];
  const set = (i: number, part: Partial<Pair>) => change({ pairs: pairs.map((p, k) => (k === i ? { ...p, ...part } : p)) });
  const marks = doc.landmarks ?? [];
  return (
    <Box>
      <Heading
        aside={
          <Box
            as="button"
            textDecoration="underline"
            onClick={() => change({ pairs: [...pairs, { ...blank, name: `pair ${pairs.length + 1}` }] }, true)}
          >
            add a pair
          </Box>
        }
      >
        Sizes that force each other
      </Heading>
      {pairs.map((p, i) => {
        const r = judged?.pairs[i];
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: pairs are told by their place.
          <Box key={i} mb="10px">
            <Grid templateColumns="1fr auto" gap="6px">
              <input
                aria-label={`Name of pair ${i + 1}`}
                value={p.name}
                maxLength={80}
                onChange={(e) => set(i, { name: e.target.value })}
                style={line}
              />
              <Plain h="28px" onClick={() => change({ pairs: pairs.filter((_, k) => k !== i) }, true)}>
                take away
              </Plain>
            </Grid>
            {(["a", "b"] as const).map((side) => (
              <Flex key={side} gap="8px" align="center" wrap="wrap">
                <input
                  aria-label={`${side === "a" ? "First" : "Second"} size of ${p.name}`}
                  value={p[side].name}
                  maxLength={60}
                  onChange={(e) => set(i, { [side]: { ...p[side], name: e.target.value } })}
                  style={{ ...line, width: 150 }}
                />
                {marks.length > 1 && (
                  <Pick
                    label={`How ${p[side].name} is measured`}
                    value={wayOf(marks, p[side])}
                    set={(x) => {
                      const [from, to] = x.split("|");
                      set(i, { [side]: x ? { name: p[side].name, from, to } : { name: p[side].name, mm: 20 } });
                    }}
                    width="190px"
                  >
                    <option value="">typed</option>
                    {marks.flatMap((m, k) =>
                      marks.slice(k + 1).map((n) => (
                        <option key={`${m.name}|${n.name}`} value={`${m.name}|${n.name}`}>
                          {m.name} to {n.name}
                        </option>
                      )),
                    )}
                  </Pick>
                )}
                {!p[side].from && (
                  <Turn
                    label={p[side].name}
                    hide
                    unit="mm"
                    value={p[side].mm ?? 0}
                    min={0.1}
                    max={2000}
                    step={0.5}
                    set={(mm) => set(i, { [side]: { ...p[side], mm } })}
                  />
                )}
              </Flex>
            ))}
            <Flex gap="4px 14px" wrap="wrap">
              <Turn label="First over second, least" value={p.least} min={0.01} max={100} step={0.05} set={(least) => set(i, { least })} />
              <Turn label="most" value={p.most} min={0.01} max={100} step={0.05} set={(most) => set(i, { most })} />
              <Turn label="Follow-on" unit="min" value={p.minutes ?? 0} min={0} max={6000} step={5} set={(minutes) => set(i, { minutes })} />
              <Turn label="Clay" unit="g" value={p.clay_g ?? 0} min={0} max={20000} step={1} set={(clay_g) => set(i, { clay_g })} />
            </Flex>
            <input
              aria-label={`What follows when ${p.name} is out`}
              placeholder="what follows when it is out"
              value={p.follow_on ?? ""}
              maxLength={200}
              onChange={(e) => set(i, { follow_on: e.target.value })}
              style={{ ...line, width: "100%" }}
            />
            {r && (
              <Box color={r.holds ? "yew" : "gorse"} fontSize="14.5px">
                {r.holds ? "Holds. " : "Out. "}
                {r.words}
              </Box>
            )}
          </Box>
        );
      })}
      {pairs.length === 0 && (
        <Box color="muted">None. A larger upper lip asks for a larger lower one: say so here, and a change of one speaks up.</Box>
      )}
    </Box>
  );
}

/** The two landmarks of a size as the list names them, whichever comes first. */
function wayOf(marks: { name: string }[], m: Schemas["CraftTextureMeasure"]): string {
  if (!m.from) return "";
  const at = (name?: string) => marks.findIndex((x) => x.name === name);
  return at(m.from) < at(m.to) ? `${m.from}|${m.to}` : `${m.to}|${m.from}`;
}

const line = { minWidth: 0, height: 28, background: "transparent", borderBottom: "1px solid var(--chakra-colors-line)" } as const;
