import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useMaterials } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Teach } from "../../parts/controls";
import { columns } from "../../parts/Room";
import { freshId, type PlanDraft, typed, type Zone } from "./bench";
import { Counter } from "./Counter";
import { Figure as Wide } from "./Figure";
import { HairDrawing } from "./HairDrawing";
import { Out } from "./Out";
import { PlanFoot } from "./PlanFoot";

const ways = { punched: "punched one by one", knotted: "knotted", laid: "laid in rows" } as const;
const fibres = { human: "human", yak: "yak", goat: "goat", crepe: "crepe wool", synthetic: "synthetic" } as const;
const preparations = { washed: "washed", steamed_straight: "steamed straight", curled: "curled", dyed: "dyed", hackled: "hackled" } as const;

/** Hair by zone on the piece's outline: how dense, which way, how many, how long, and how far it is. */
export function HairLeaf({ draft, of, copy }: { draft: PlanDraft; of: string; copy?: string }) {
  const [at, setAt] = useState<string>();
  const [drawing, setDrawing] = useState<number[][]>();
  const [arrow, setArrow] = useState(false);
  const { doc, view: v } = draft;
  if (!doc || !v) return null;
  const shared = (v.shared?.hair ?? []).map((z) => ({ ...z, id: `${doc.follows}/${z.id}` }));
  const zones = [...shared, ...doc.hair];
  const zone = zones.find((z) => z.id === at) ?? zones[0];
  const own = doc.hair.some((z) => z === zone);
  const came = v.result?.hair.find((h) => h.id === zone?.id);
  const set = (part: Partial<Zone>, now = true) => draft.change({ hair: doc.hair.map((z) => (z.id === zone?.id ? { ...z, ...part } : z)) }, now);
  const finish = () => {
    if (!drawing || drawing.length < 3) return;
    const id = freshId("h", doc.hair);
    draft.change({ hair: [...doc.hair, freshZone(id, drawing)] }, true);
    setAt(id);
    setDrawing(undefined);
  };
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 350px")} gap="28px">
      <Box minW="0">
        <Heading aside={v.from}>Hair{zone ? `: ${zone.name}` : ""}</Heading>
        <HairDrawing
          outline={v.outline}
          zones={zones}
          points={came?.punched?.points ?? []}
          degrees={came?.punched?.deg ?? []}
          done={v.done[zone?.id ?? ""]?.n ?? 0}
          rows={came?.rows?.y_mm}
          chosen={zone?.id}
          choose={setAt}
          drawing={drawing}
          place={
            drawing
              ? (p) => setDrawing([...drawing, [round(p[0]), round(p[1])]])
              : arrow && own
                ? (p) => {
                    set({ guides: [...(zone?.guides ?? []), { at: [round(p[0]), round(p[1])], deg: 90 }] });
                    setArrow(false);
                  }
                : undefined
          }
          title={`Hair of ${v.name} on its outline`}
        />
        <Flex gap="10px" mt="8px" wrap="wrap" align="center">
          {drawing ? (
            <>
              <Plain h="36px" disabled={drawing.length < 3} onClick={finish}>
                That is the zone
              </Plain>
              <Plain h="36px" onClick={() => setDrawing(undefined)}>
                Leave it
              </Plain>
              <Box layerStyle="small">Tap its corners, {drawing.length} so far. Edge 1 runs from the first corner to the second.</Box>
            </>
          ) : (
            <>
              <Plain h="36px" onClick={() => setDrawing([])}>
                Draw a zone
              </Plain>
              <Plain
                h="36px"
                onClick={() => {
                  const id = freshId("h", doc.hair);
                  draft.change({ hair: [...doc.hair, freshZone(id, v.outline)] }, true);
                  setAt(id);
                }}
              >
                Hair all over it
              </Plain>
              {own && (
                <Plain h="36px" bg={arrow ? "heatherSoft" : undefined} aria-pressed={arrow} onClick={() => setArrow(!arrow)}>
                  {arrow ? "Tap where it goes" : "Set an arrow"}
                </Plain>
              )}
              {zone && !of.startsWith("look-") && (
                <a href={`/api/finish-plans/${of}/hair.pdf?zone=${encodeURIComponent(zone.id)}`} target="_blank" rel="noreferrer">
                  print it at true scale
                </a>
              )}
            </>
          )}
        </Flex>
        {zones.length === 0 && !drawing && (
          <Teach>No hair yet. Draw a zone on the outline, or put hair all over it: how many, how much and how long then stand here.</Teach>
        )}
        {zone && came && <Came zone={zone} came={came} />}
        {zone && came && (copy || of.startsWith("look-")) && (
          <Counter
            of={of}
            copy={copy}
            id={zone.id}
            what={zone.way === "laid" ? "tufts" : "hairs"}
            total={came.rows?.tufts_total ?? came.counted.count}
            done={v.done[zone.id]?.n ?? 0}
            left={came.counted.left_min}
            pace={came.counted.pace_s}
            per="a stroke"
          />
        )}
        <PlanFoot draft={draft} />
      </Box>
      <Box minW="0">
        <Heading>Zones</Heading>
        {zones.map((z) => (
          <Flex key={z.id} gap="8px" py="3px" px="4px" align="baseline" bg={z === zone ? "heatherSoft" : undefined}>
            <Box as="button" textAlign="left" fontWeight={z === zone ? 700 : 400} onClick={() => setAt(z.id)}>
              {z.name}
            </Box>
            <Box layerStyle="small">
              {ways[z.way]}, {v.result?.hair.find((h) => h.id === z.id)?.counted.count ?? "–"}
              {shared.includes(z) && `, shared with ${doc.follows}`}
            </Box>
          </Flex>
        ))}
        {zone && own && (
          <ZoneForm key={zone.id} zone={zone} set={set} gone={() => draft.change({ hair: doc.hair.filter((z) => z !== zone) }, true)} />
        )}
        <Follows draft={draft} />
      </Box>
    </Grid>
  );
}

/** Three of them stand beside each other. */
const Figure = (p: Parameters<typeof Wide>[0]) => <Wide {...p} width="104px" />;

const round = (x: number) => Math.round(10 * x) / 10;

function freshZone(id: string, outline: number[][]): Zone {
  return {
    id,
    name: "hair",
    way: "punched",
    outline,
    fade_edges: [],
    density: 25,
    edge_density: 6,
    fade_mm: 10,
    guides: [],
    jitter_deg: 8,
    seed: 1,
    fibre: "human",
    colours: [],
    visible_mm: 30,
    curl_radius_mm: 0,
    curl_pitch_mm: 20,
    trim_mm: 0,
    root_mm: 5,
    waste: 0.25,
    hairs_per_stroke: 1,
    prepared: [],
  };
}

/** A piece shares the plan of another of the same character: variants and stages keep what they share. */
export function Follows({ draft }: { draft: PlanDraft }) {
  const { doc, view: v } = draft;
  if (!doc || !v || v.others.length === 0) return null;
  return (
    <Box mt="16px">
      <Choose
        label="Shares hair, inserts and weights with"
        name="follows"
        value={doc.follows ?? ""}
        set={(follows) => draft.change({ follows }, true)}
      >
        <option value="">no other piece: all of it is its own</option>
        {v.others.map((o) => (
          <option key={o}>{o}</option>
        ))}
      </Choose>
      {doc.follows && <Box layerStyle="note">What {doc.follows} has agreed stands here too; what is added here is only this piece's.</Box>}
    </Box>
  );
}

type CameTo = NonNullable<NonNullable<PlanDraft["view"]>["result"]>["hair"][number];

function Came({ zone: z, came }: { zone: Zone; came: CameTo }) {
  const c = came.counted;
  const hours = c.minutes >= 90 ? `${(c.minutes / 60).toFixed(1)} h` : `${Math.round(c.minutes)} min`;
  return (
    <Flex gap="6px 26px" wrap="wrap" mt="12px" fontSize="16px" data-testid="hair-came">
      <Box>
        <Box as="b" fontSize="22px">
          {c.count}
        </Box>{" "}
        hairs on {c.area_cm2.toFixed(1)} cm²
      </Box>
      {came.rows && (
        <Box>
          <b>{came.rows.tufts_total}</b> tufts in <b>{came.rows.rows}</b> rows, back to front, {came.rows.hairs_per_tuft.toFixed(0)} hairs each
        </Box>
      )}
      <Box>
        cut to <b>{c.cut_mm.toFixed(0)} mm</b>
        {c.curl_ratio > 1.01 && `, ${((c.curl_ratio - 1) * 100).toFixed(0)} % for the curl`}
      </Box>
      <Box>
        order <b>{c.order_g < 1 ? c.order_g.toPrecision(2) : c.order_g.toFixed(1)} g</b>
      </Box>
      <Box>
        <b>{hours}</b> at {c.pace_s.toFixed(1)} s a stroke
      </Box>
      {z.trim_mm > 0 && (
        <Box>
          {(z.visible_mm + z.trim_mm).toFixed(0)} mm as set, {z.visible_mm} mm once it is cut
        </Box>
      )}
      {came.punched?.gap_min !== undefined && came.punched?.gap_min !== null && (
        <Box layerStyle="small">nearest two {came.punched.gap_min.toFixed(2)} of an even spacing apart</Box>
      )}
    </Flex>
  );
}

function ZoneForm({ zone: z, set, gone }: { zone: Zone; set: (part: Partial<Zone>, now?: boolean) => void; gone: () => void }) {
  const materials = useMaterials();
  const hair = materials.data?.filter((m) => m.family === "hair") ?? [];
  return (
    <Box mt="10px">
      <Entry label="Name" name="zone name" value={z.name} set={(name) => set({ name }, false)} />
      <Flex gap="8px" mt="6px" wrap="wrap">
        <Choose label="It is" name="way" value={z.way} set={(way) => set({ way: way as Zone["way"] })} width="170px">
          {Object.entries(ways).map(([k, t]) => (
            <option key={k} value={k}>
              {t}
            </option>
          ))}
        </Choose>
        <Choose label="Fibre" name="fibre" value={z.fibre} set={(fibre) => set({ fibre: fibre as Zone["fibre"] })} width="140px">
          {Object.entries(fibres).map(([k, t]) => (
            <option key={k} value={k}>
              {t}
            </option>
          ))}
        </Choose>
        <Figure label="a cm², within" value={z.density} set={(density) => set({ density })} />
        <Figure label="a cm², at the edge" value={z.edge_density} set={(edge_density) => set({ edge_density })} />
        <Figure label="falls over, mm" value={z.fade_mm} set={(fade_mm) => set({ fade_mm })} />
        <Entry
          label="towards edges"
          name="fade edges"
          value={z.fade_edges.map((i) => i + 1).join(" ")}
          set={(text) =>
            set(
              {
                fade_edges: [
                  ...new Set(
                    text
                      .split(/[^0-9]+/)
                      .filter(Boolean)
                      .map((n) => Number(n) - 1),
                  ),
                ].filter((n) => n >= 0 && n < z.outline.length),
              },
              false,
            )
          }
          width="120px"
          placeholder="all"
        />
        <Figure label="to be seen, mm" value={z.visible_mm} set={(visible_mm) => set({ visible_mm })} />
        <Figure label="cut back, mm" value={z.trim_mm} set={(trim_mm) => set({ trim_mm })} />
        <Figure label="curl radius, mm" value={z.curl_radius_mm} set={(curl_radius_mm) => set({ curl_radius_mm })} width="120px" />
        <Figure label="curl pitch, mm" value={z.curl_pitch_mm} set={(curl_pitch_mm) => set({ curl_pitch_mm })} />
        <Figure label="hairs a stroke" value={z.hairs_per_stroke} set={(hairs_per_stroke) => set({ hairs_per_stroke })} />
        <Figure label="angle ± °" value={z.jitter_deg} set={(jitter_deg) => set({ jitter_deg })} width="90px" />
        <Figure label="wasted, %" value={Math.round(100 * z.waste)} set={(w) => set({ waste: w / 100 })} width="90px" />
        <Figure label="seed" value={z.seed} set={(seed) => set({ seed })} width="80px" />
      </Flex>
      {z.trim_mm > 0 && (
        <Entry
          label="Why it is cut then"
          name="trim why"
          value={z.trim_why ?? ""}
          set={(trim_why) => set({ trim_why }, false)}
          placeholder="left long to catch blood"
        />
      )}
      <Flex gap="2px 14px" mt="8px" wrap="wrap">
        {Object.entries(preparations).map(([k, t]) => (
          <Checkbox.Root
            key={k}
            checked={z.prepared.includes(k)}
            onCheckedChange={(e) => set({ prepared: e.checked ? [...z.prepared, k] : z.prepared.filter((x) => x !== k) })}
          >
            <Checkbox.HiddenInput />
            <Checkbox.Control borderColor="ink" />
            <Checkbox.Label>{t}</Checkbox.Label>
          </Checkbox.Root>
        ))}
      </Flex>
      <Choose label="Hair from the shelf" name="material" value={z.material ?? ""} set={(material) => set({ material })}>
        <option value="">not said</option>
        {hair.map((m) => (
          <option key={m.slug} value={m.slug}>
            {m.name}
          </option>
        ))}
      </Choose>
      <Colours zone={z} set={set} />
      <Corners zone={z} set={set} />
      {z.guides.length > 0 && (
        <Box mt="8px">
          <Box layerStyle="small">Arrows, degrees from the right against the clock</Box>
          {z.guides.map((g, i) => (
            <Flex key={`${g.at}`} gap="8px" align="center">
              <Figure
                label={`at ${g.at[0]}, ${g.at[1]}`}
                value={g.deg}
                set={(deg) => set({ guides: z.guides.map((x, k) => (k === i ? { ...x, deg } : x)) })}
              />
              <Out act={() => set({ guides: z.guides.filter((_, k) => k !== i) })} />
            </Flex>
          ))}
        </Box>
      )}
      <Box as="button" textDecoration="underline" fontSize="14px" mt="10px" onClick={gone}>
        take the zone out
      </Box>
    </Box>
  );
}

/** The zone's corners as figures: for the keyboard, and for what was measured. */
function Corners({ zone: z, set }: { zone: Zone; set: (part: Partial<Zone>, now?: boolean) => void }) {
  const stand = z.outline.map((q) => q.map(round).join(" ")).join(", ");
  const [text, setText] = useState<string>();
  const [bad, setBad] = useState(false);
  const take = () => {
    if (text === undefined) return;
    const outline = text
      .split(",")
      .map((q) => q.trim().split(/\s+/).map(Number))
      .filter((q) => q.some((x) => x !== 0 || q.length > 1));
    const wrong = outline.length < 3 || outline.some((q) => q.length !== 2 || !q.every(Number.isFinite));
    setBad(wrong);
    if (wrong) return;
    set({ outline, fade_edges: z.fade_edges.filter((i) => i < outline.length) });
    setText(undefined);
  };
  return (
    <Box as="details" mt="8px">
      <summary>Its corners, x y in mm</summary>
      <Box onBlur={take} mt="4px">
        <Entry label="Corners, one after another" name="corners" value={text ?? stand} set={setText} placeholder="0 0, 30 0, 30 20" />
      </Box>
      {bad && (
        <Box role="alert" fontWeight="600">
          Three corners at least, each as x and y with a blank between; what stands is kept.
        </Box>
      )}
    </Box>
  );
}

/** The mix of colours, told in shares that come to a whole. */
function Colours({ zone: z, set }: { zone: Zone; set: (part: Partial<Zone>, now?: boolean) => void }) {
  const [text, setText] = useState(z.colours.map((c) => `${Math.round(100 * c.share)} ${c.name}${c.lot ? ` lot ${c.lot}` : ""}`).join(", "));
  return (
    <Box
      onBlur={() => {
        const colours = text
          .split(",")
          .map((part) => part.trim().match(/^(\d+(?:\.\d+)?)\s*%?\s+(.+?)(?:\s+lot\s+(\S+))?$/))
          .filter((m) => m !== null)
          .map((m) => ({ name: m[2], share: typed(m[1], 0) / 100, lot: m[3] ?? "" }));
        set({ colours });
      }}
    >
      <Entry label="Colours, in per cent" name="colours" value={text} set={setText} placeholder="70 grey-brown lot 25-210, 30 white" />
    </Box>
  );
}
