import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMaterials } from "../../app/reads";
import { colour } from "../../parts/colour";
import { Choose, Entry, Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { words } from "../../parts/format";
import { columns } from "../../parts/Room";
import { freshId, type Inserts, type PlanDraft, typed } from "./bench";
import { Counter } from "./Counter";
import { Figure } from "./Figure";
import { Parts } from "./Parts";
import { PlanFoot } from "./PlanFoot";
import { WornThings } from "./WornThings";

const kinds = ["teeth", "crumbs", "moss", "pins", "drops", "shells", "other"] as const;
const fixings = ["hard_glue", "contact_glue", "set_in_latex", "set_in_silicone", "skin_adhesive", "pushed_in", "sewn", "pegged"] as const;
const byPoint = (f: string) => f === "sewn" || f === "pegged";

/** Inserts as batches with their places, lenses and wigs, and headpieces as a tree of parts. */
export function InsertsLeaf({ draft, of, copy }: { draft: PlanDraft; of: string; copy?: string }) {
  const [at, setAt] = useState<string>();
  const [placing, setPlacing] = useState(false);
  const { doc, view: v } = draft;
  if (!doc || !v) return null;
  const shared = (v.shared?.inserts ?? []).map((n) => ({ ...n, id: `${doc.follows}/${n.id}` }));
  const sorts = [...shared, ...doc.inserts];
  const one = sorts.find((n) => n.id === at) ?? sorts[0];
  const own = doc.inserts.some((n) => n === one);
  const set = (part: Partial<Inserts>, now = true) => draft.change({ inserts: doc.inserts.map((n) => (n === one ? { ...n, ...part } : n)) }, now);
  const add = (more: Partial<Inserts>) => {
    const id = freshId("i", doc.inserts);
    draft.change({ inserts: [...doc.inserts, { ...fresh(id), ...more }] }, true);
    setAt(id);
  };
  const came = v.result?.inserts.find((n) => n.id === one?.id);
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 360px")} gap="28px">
      <Box minW="0">
        <Heading aside={v.from}>Inserts{one ? `: ${one.name}` : ""}</Heading>
        <Places
          outline={v.outline}
          places={one?.places ?? []}
          done={v.done[one?.id ?? ""]?.n ?? 0}
          place={placing && own && one ? (p) => set({ places: [...one.places, { n: one.places.length + 1, at: p }] }) : undefined}
          title={`Where the inserts of ${v.name} sit`}
        />
        <Flex gap="10px" mt="8px" wrap="wrap" align="center">
          <Plain h="36px" onClick={() => add({})}>
            Another sort
          </Plain>
          {own && (
            <Plain h="36px" aria-pressed={placing} bg={placing ? "heatherSoft" : undefined} onClick={() => setPlacing(!placing)}>
              {placing ? "Enough places" : "Set places"}
            </Plain>
          )}
          {own && one && one.places.length > 0 && (
            <Plain h="36px" onClick={() => set({ places: one.places.slice(0, -1) })}>
              The last place out
            </Plain>
          )}
        </Flex>
        {!of.startsWith("look-") && <FromTexture of={of} add={add} />}
        {sorts.length === 0 && (
          <Teach>
            Teeth, crumbs, moss, pins, drops: each sort is a batch of its own, placed by number. Begin one, or take over what the texture presses.
          </Teach>
        )}
        {one && came && <Came n={one} came={came} />}
        {own && one && came && v.state.latest > 0 && !of.startsWith("look-") && (
          <Batch piece={of} n={one} had={v.batches[one.id]} lotOf={one.material} />
        )}
        {one && came && copy && came.need > 0 && (
          <Counter
            of={of}
            copy={copy}
            id={one.id}
            what={one.name}
            total={came.need}
            done={v.done[one.id]?.n ?? 0}
            left={came.left_min}
            pace={came.pace_s}
            per="each"
          />
        )}
        <PlanFoot draft={draft} />
      </Box>
      <Box minW="0">
        <Heading>Sorts</Heading>
        {sorts.map((n) => (
          <Flex key={n.id} gap="8px" py="3px" px="4px" align="baseline" bg={n === one ? "heatherSoft" : undefined}>
            <Box as="button" fontWeight={n === one ? 700 : 400} onClick={() => setAt(n.id)}>
              {n.name}
            </Box>
            <Box layerStyle="small">
              {n.sort}, {n.need || n.places.length}
              {shared.includes(n) && `, shared with ${doc.follows}`}
            </Box>
          </Flex>
        ))}
        {own && one && <Form key={one.id} n={one} set={set} gone={() => draft.change({ inserts: doc.inserts.filter((x) => x !== one) }, true)} />}
        <WornThings draft={draft} />
        <Parts draft={draft} />
      </Box>
    </Grid>
  );
}

const fresh = (id: string): Inserts => ({
  id,
  name: "teeth",
  sort: "teeth",
  need: 0,
  size_mm: 4,
  spread_mm: 1,
  yield: 0.8,
  minutes_each: 2,
  dry_h: 12,
  places: [],
  fixing: "hard_glue",
  motion: "acting",
  mass_g: 1,
  arm_mm: 4,
  base_mm: 3,
  area_mm2: 12,
  points: 0,
  loose: false,
  sharp: false,
  organic: false,
  when: "on the stand",
});

/** The outline with the numbered places. */
function Places({
  outline,
  places,
  done,
  place,
  title,
}: {
  outline: number[][];
  places: Schemas["CraftPlanSpot"][];
  done: number;
  place?: (p: number[]) => void;
  title: string;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const all = [...outline, ...places.map((s) => s.at)];
  const [x0, x1] = [Math.min(...all.map((q) => q[0])), Math.max(...all.map((q) => q[0]))];
  const [y0, y1] = [Math.min(...all.map((q) => q[1])), Math.max(...all.map((q) => q[1]))];
  const unit = Math.max(x1 - x0, y1 - y0) / 100;
  const few = places.length <= 60;
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: places are set one after another; each can be taken out by a button.
    <svg
      ref={svg}
      viewBox={`${x0 - 5 * unit} ${-y1 - 5 * unit} ${x1 - x0 + 10 * unit} ${y1 - y0 + 10 * unit}`}
      role="img"
      aria-label={title}
      style={{ width: "100%", maxHeight: 380, display: "block", background: "var(--chakra-colors-sheet)", cursor: place ? "crosshair" : "default" }}
      onClick={(e) => {
        const m = svg.current?.getScreenCTM();
        if (place && m) place([Math.round(10 * ((e.clientX - m.e) / m.a)) / 10, Math.round(-10 * ((e.clientY - m.f) / m.d)) / 10]);
      }}
    >
      <path
        d={`M${outline.map((q) => `${q[0]} ${-q[1]}`).join("L")}Z`}
        fill="none"
        stroke={colour("ink")}
        strokeWidth={0.5 * unit}
        strokeDasharray={`${2 * unit} ${unit}`}
      />
      {places.map((s) => (
        <g key={s.n}>
          <circle
            cx={s.at[0]}
            cy={-s.at[1]}
            r={(few ? 2.4 : 1) * unit}
            fill={colour(s.n <= done ? "yew" : "sheet")}
            stroke={colour("ink")}
            strokeWidth={0.35 * unit}
          />
          {few && (
            <text
              x={s.at[0]}
              y={-s.at[1]}
              textAnchor="middle"
              dominantBaseline="central"
              fill={colour(s.n <= done ? "onYew" : "ink")}
              style={{ fontSize: 2.6 * unit, fontWeight: 700 }}
            >
              {s.n}
            </text>
          )}
        </g>
      ))}
    </svg>
  );
}

/** What the texture presses, handed on as inserts with its places. */
function FromTexture({ of, add }: { of: string; add: (more: Partial<Inserts>) => void }) {
  const [open, setOpen] = useState(false);
  const marks = useRead({
    queryKey: ["texture marks", of],
    enabled: open,
    queryFn: () => ask(api.GET("/api/pieces/{code}/texture-marks", { params: { path: { code: of } } })),
  });
  return (
    <Box mt="8px">
      <Box as="button" textDecoration="underline" fontSize="15px" aria-expanded={open} onClick={() => setOpen(!open)}>
        Take over from its texture
      </Box>
      {marks.data?.length === 0 && <Box layerStyle="note">No texture is agreed, or it presses nothing.</Box>}
      {marks.data?.map((m) => (
        <Flex key={m.layer + m.name} gap="10px" align="center" py="3px">
          <Box>
            <b>{m.name}</b>: {m.count}, {m.size_mm} mm ± {m.spread_mm}
          </Box>
          <Plain
            h="34px"
            onClick={() =>
              add({
                name: m.name,
                sort: "shells",
                need: m.count,
                size_mm: m.size_mm,
                spread_mm: m.spread_mm,
                places: m.places,
                from: `texture, ${m.name}`,
              })
            }
          >
            as inserts
          </Plain>
        </Flex>
      ))}
    </Box>
  );
}

type CameTo = NonNullable<NonNullable<PlanDraft["view"]>["result"]>["inserts"][number];

function Came({ n, came }: { n: Inserts; came: CameTo }) {
  return (
    <Flex gap="6px 26px" wrap="wrap" mt="12px" fontSize="16px" data-testid="inserts-came">
      <Box>
        make <b>{came.batch.make}</b> for {came.need}: {came.batch.spares} spare, enough in {Math.round(100 * came.batch.p)} of 100 batches
      </Box>
      <Box>
        {Math.round(100 * came.batch.mean_yield)} % good {came.learnt ? "by this shop's batches" : "as the plan says"}
      </Box>
      <Box>
        <b>{Math.round(came.batch.minutes)} min</b>, then {n.dry_h} h to dry
      </Box>
      {came.have > 0 && (
        <Box>
          <b>{came.have}</b> good ones are made
        </Box>
      )}
      {came.hold && (
        <Box color={came.hold.holds ? undefined : "rust"}>
          its fixing bears <b>{Math.round(100 * came.hold.use)} %</b> of what it can, three times over, {n.motion}
        </Box>
      )}
      <Box layerStyle="small">Fixings by our estimate, within a factor of two: tug every one.</Box>
    </Flex>
  );
}

function Batch({ piece, n, had, lotOf }: { piece: string; n: Inserts; had?: { Made: number; Good: number }; lotOf?: string }) {
  const [made, setMade] = useState("");
  const [good, setGood] = useState("");
  const [minutes, setMinutes] = useState("");
  const [lot, setLot] = useState("");
  const [note, setNote] = useState("");
  const key = useRef(crypto.randomUUID());
  const keep = useAct(async () => {
    await ask(
      api.POST("/api/pieces/{code}/insert-batches", {
        params: { path: { code: piece } },
        body: {
          of: n.id,
          made: typed(made, 0),
          good: typed(good, 0),
          minutes: minutes ? typed(minutes, 0) : undefined,
          lot: lot || undefined,
          note,
          key: key.current,
        },
      }),
    );
    key.current = crypto.randomUUID();
    setMade("");
    setGood("");
    setNote("");
  });
  return (
    <Box mt="14px">
      <Heading aside={had ? `${had.Good} good of ${had.Made} made so far` : "none made yet"}>A batch</Heading>
      <Flex gap="8px" align="end" wrap="wrap">
        <Entry label="Made" name="made" value={made} set={setMade} problem={keep.problem} width="80px" />
        <Entry label="Good" name="good" value={good} set={setGood} problem={keep.problem} width="80px" />
        <Entry label="Minutes" name="minutes" value={minutes} set={setMinutes} problem={keep.problem} width="90px" />
        {lotOf && <Entry label={`Lot of ${lotOf}`} name="lot" value={lot} set={setLot} problem={keep.problem} width="130px" />}
        <Entry label="A word" name="note" value={note} set={setNote} width="180px" />
        <Plain h="40px" disabled={keep.busy || !made || !good} onClick={() => void keep.run()}>
          Write it down
        </Plain>
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}

function Form({ n, set, gone }: { n: Inserts; set: (part: Partial<Inserts>, now?: boolean) => void; gone: () => void }) {
  const materials = useMaterials();
  const truth = (label: string, key: "loose" | "sharp" | "organic") => (
    <Checkbox.Root checked={n[key]} onCheckedChange={(e) => set({ [key]: e.checked === true })}>
      <Checkbox.HiddenInput />
      <Checkbox.Control borderColor="ink" />
      <Checkbox.Label>{label}</Checkbox.Label>
    </Checkbox.Root>
  );
  return (
    <Box mt="8px">
      <Entry label="Name" name="insert name" value={n.name} set={(name) => set({ name }, false)} />
      <Flex gap="8px" mt="6px" wrap="wrap">
        <Choose label="Sort" name="sort" value={n.sort} set={(sort) => set({ sort: sort as Inserts["sort"] })} width="120px">
          {kinds.map((s) => (
            <option key={s}>{s}</option>
          ))}
        </Choose>
        <Figure label="needed" value={n.need} set={(need) => set({ need })} width="90px" />
        <Figure label="good, %" value={Math.round(100 * n.yield)} set={(y) => set({ yield: y / 100 })} width="90px" />
        <Figure label="size, mm" value={n.size_mm} set={(size_mm) => set({ size_mm })} width="90px" />
        <Figure label="± mm" value={n.spread_mm} set={(spread_mm) => set({ spread_mm })} width="80px" />
        <Figure label="min each" value={n.minutes_each} set={(minutes_each) => set({ minutes_each })} width="90px" />
        <Figure label="dries, h" value={n.dry_h} set={(dry_h) => set({ dry_h })} width="90px" />
        <Choose label="Fixed" name="fixing" value={n.fixing} set={(fixing) => set({ fixing: fixing as Inserts["fixing"] })} width="150px">
          {fixings.map((f) => (
            <option key={f} value={f}>
              {words(f)}
            </option>
          ))}
        </Choose>
        <Choose label="The wearer is" name="motion" value={n.motion} set={(motion) => set({ motion: motion as Inserts["motion"] })} width="130px">
          {["still", "acting", "walking", "running"].map((m) => (
            <option key={m}>{m}</option>
          ))}
        </Choose>
        <Figure label="weighs, g" value={n.mass_g} set={(mass_g) => set({ mass_g })} width="90px" />
        <Figure label="stands out, mm" value={n.arm_mm} set={(arm_mm) => set({ arm_mm })} />
        <Figure label="seat deep, mm" value={n.base_mm} set={(base_mm) => set({ base_mm })} />
        {byPoint(n.fixing) ? (
          <Figure label="at points" value={n.points} set={(points) => set({ points })} width="90px" />
        ) : (
          <Figure label="seat, mm²" value={n.area_mm2} set={(area_mm2) => set({ area_mm2 })} width="100px" />
        )}
        <Choose label="Set" name="when" value={n.when} set={(when) => set({ when: when as Inserts["when"] })} width="140px">
          {["on the stand", "in the mould", "on the face"].map((w) => (
            <option key={w}>{w}</option>
          ))}
        </Choose>
        <Choose label="Beside" name="near" value={n.near ?? ""} set={(near) => set({ near: near as Inserts["near"] })} width="120px">
          <option value="">as its place says</option>
          {["nose", "mouth", "eye"].map((w) => (
            <option key={w}>{w}</option>
          ))}
        </Choose>
        <Choose label="Made of" name="material" value={n.material ?? ""} set={(material) => set({ material })} width="220px">
          <option value="">not said</option>
          {materials.data?.map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
        </Choose>
      </Flex>
      <Flex gap="4px 16px" mt="8px" wrap="wrap">
        {truth("can shed or crumble", "loose")}
        {truth("sharp", "sharp")}
        {truth("plant or food", "organic")}
      </Flex>
      <Box as="button" textDecoration="underline" fontSize="14px" mt="8px" onClick={gone}>
        take this sort out
      </Box>
    </Box>
  );
}
