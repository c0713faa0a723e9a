import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Heading, Pick, Plain, Refusal, Teach } from "../../parts/controls";
import { newId } from "../../parts/id";
import { ReliefView } from "../../parts/relief/ReliefView";
import type { Light } from "../../parts/relief/relief";
import { Turn } from "../../parts/Turn";
import { type Doc, useRelief } from "./useTexture";

type Pattern = Schemas["SculptPattern"];

/** House patterns to lay again at any scale, two side by side, and the shop's stamps. */
export function House({ code, doc, change }: { code: string; doc: Doc; change: (part: Partial<Doc>, now?: boolean) => void }) {
  const patterns = useRead({ queryKey: ["patterns"], queryFn: () => ask(api.GET("/api/patterns")) });
  const [name, setName] = useState("");
  const [by, setBy] = useState(1);
  const [left, setLeft] = useState("this");
  const [right, setRight] = useState("");
  const [light, setLight] = useState<Light>({ azimuth: 315, altitude: 24 });
  const keep = useAct(() => ask(api.POST("/api/patterns", { body: { name, piece: code } })));
  const lay = useAct(async (id: number) => {
    const p = await ask(api.GET("/api/patterns/{id}", { params: { path: { id }, query: { by } } }));
    change({ layers: [...doc.layers, ...p.layers.map((l) => ({ ...l, id: newId() }))], passes: doc.passes?.length ? doc.passes : p.passes }, true);
    return p;
  });
  const list = patterns.data ?? [];
  const second = right || String(list[0]?.id ?? "");
  const options = (
    <>
      <option value="this">this plan</option>
      {list.map((p) => (
        <option key={p.id} value={p.id}>
          {p.name}
        </option>
      ))}
    </>
  );
  return (
    <Flex direction="column" gap="12px">
      <Box>
        <Heading>House patterns</Heading>
        {list.length === 0 && <Teach>None kept yet. A texture that worked is kept here and laid on another piece at another scale.</Teach>}
        {list.map((p) => (
          <Flex key={p.id} gap="10px" align="baseline" py="2px">
            <Box flex="1">
              <b>{p.name}</b>{" "}
              <Box as="span" color="muted">
                {p.layers.map((l) => l.kind).join(", ")} · {p.minutes_cm2.toFixed(1)} min a cm²{p.piece ? ` · from ${p.piece}` : ""}
                {p.note ? ` · ${p.note}` : ""}
              </Box>
            </Box>
            <Plain h="30px" disabled={lay.busy} onClick={() => void lay.run(p.id)}>
              Lay it here
            </Plain>
          </Flex>
        ))}
        <Flex gap="8px" mt="6px" align="end" wrap="wrap">
          <Turn label="Laid at a scale of" value={by} min={0.1} max={10} step={0.1} set={setBy} />
          <Entry label="Keep this plan as" name="name" value={name} set={setName} problem={keep.problem} placeholder="gravel tide" width="200px" />
          <Plain h="40px" disabled={keep.busy} onClick={async () => (await keep.run()) && setName("")}>
            Keep it
          </Plain>
        </Flex>
        <Refusal problem={keep.problem ?? lay.problem} />
      </Box>
      <Box>
        <Heading
          aside={
            <Flex gap="8px">
              <Pick label="Left" value={left} set={setLeft} width="160px">
                {options}
              </Pick>
              <Pick label="Right" value={second} set={setRight} width="160px">
                {options}
              </Pick>
            </Flex>
          }
        >
          Side by side
        </Heading>
        {second !== "" && (
          <Grid templateColumns="1fr 1fr" gap="8px">
            {[
              { side: "left", which: left },
              { side: "right", which: second },
            ].map(({ side, which }) => (
              <Side
                key={side}
                doc={tile(
                  which === "this" ? doc : undefined,
                  list.find((p) => String(p.id) === which),
                )}
                light={light}
                turn={setLight}
              />
            ))}
          </Grid>
        )}
      </Box>
      <Stamps />
    </Flex>
  );
}

/** A texture on a tile of 40 mm, so that two can be compared at one scale. */
function tile(doc: Doc | undefined, pattern: Pattern | undefined): Doc {
  const layers = doc
    ? doc.layers
        .filter((l) => !["wrinkles", "lines", "field"].includes(l.kind))
        .map((l) => ({ ...l, on: [], flow: undefined, from: l.from === undefined ? undefined : -1 }))
    : (pattern?.layers ?? []);
  return { seed: doc?.seed ?? 1, region: { preset: "tile", params: { w: 40, h: 40 } }, feather_mm: 2, layers };
}

function Side({ doc, light, turn }: { doc: Doc; light: Light; turn: (l: Light) => void }) {
  const looked = useRelief(doc, false);
  return (
    <Box>
      <ReliefView relief={looked.relief} box={[0, 0, 40, 40]} light={light} turn={turn} title="Texture on a tile" height={250} />
      {looked.judged && (
        <Box fontSize="14px" color="muted">
          looks made {looked.judged.repetition.score.toFixed(0)} of 100 · finest {looked.judged.fine.smallest_width_mm.toFixed(2)} mm ·{" "}
          {((looked.judged.work.hours * 60) / 16).toFixed(1)} min a cm²
        </Box>
      )}
    </Box>
  );
}

const blank = { name: "", od_mm: "8", squash: "0.8", squash_b: "", filler: "", hollow_mm: "0.6", place: "" };

function Stamps() {
  const stamps = useRead({ queryKey: ["stamps"], queryFn: () => ask(api.GET("/api/stamps")) });
  const [n, setN] = useState(blank);
  const [adding, setAdding] = useState(false);
  const add = useAct(() =>
    ask(
      api.POST("/api/stamps", {
        body: {
          name: n.name,
          od_mm: Number(n.od_mm),
          squash: Number(n.squash),
          squash_b: n.squash_b ? Number(n.squash_b) : undefined,
          filler: n.filler,
          hollow_mm: Number(n.hollow_mm) || 0,
          place: n.place,
        },
      }),
    ),
  );
  const change = useAct((s: Schemas["SculptStamp"], part: Partial<Schemas["SculptNewStamp"]>) =>
    ask(
      api.PUT("/api/stamps/{id}", {
        params: { path: { id: s.id } },
        body: {
          name: s.name,
          od_mm: s.od_mm,
          squash: s.squash,
          squash_b: s.squash_b,
          filler: s.filler,
          hollow_mm: s.hollow_mm,
          place: s.place,
          state: s.state,
          version: s.version,
          ...part,
        },
      }),
    ),
  );
  const entry = (key: keyof typeof blank, label: string, width: string) => (
    <Entry label={label} name={key} value={n[key]} set={(v) => setN({ ...n, [key]: v })} problem={add.problem} width={width} />
  );
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" aria-expanded={adding} onClick={() => setAdding(!adding)}>
            register one
          </Box>
        }
      >
        Stamps of the shop
      </Heading>
      {adding && (
        <Flex gap="8px" wrap="wrap" align="end" mb="8px">
          {entry("name", "On its handle", "110px")}
          {entry("od_mm", "Tube outside, mm", "120px")}
          {entry("squash", "Squash of end A", "120px")}
          {entry("squash_b", "… of end B", "90px")}
          {entry("filler", "Filled with", "140px")}
          {entry("hollow_mm", "Hollowed, mm", "100px")}
          {entry("place", "Where it is", "140px")}
          <Plain
            h="40px"
            disabled={add.busy}
            onClick={async () => {
              if (await add.run()) setN(blank);
            }}
          >
            Register
          </Plain>
          <Refusal problem={add.problem} />
        </Flex>
      )}
      {stamps.data?.length === 0 && (
        <Box color="muted">None registered. A stamp is worth making from about 27 scales on; each is tube, filler and a hollow.</Box>
      )}
      {stamps.data?.map((s) => (
        <Flex key={s.id} gap="10px" align="center" py="1px" fontSize="14.5px" wrap="wrap">
          <Box w="70px" fontWeight="700">
            {s.name}
          </Box>
          <Box flex="1" minW="180px">
            tube {s.od_mm.toFixed(1)} mm: {s.a_width_mm.toFixed(1)} × {s.a_height_mm.toFixed(1)}
            {s.squash_b ? ` and ${s.b_width_mm.toFixed(1)} × ${s.b_height_mm.toFixed(1)}` : ""} mm
          </Box>
          <input
            key={`${s.id} ${s.version}`}
            aria-label={`Where ${s.name} is`}
            defaultValue={s.place}
            maxLength={80}
            placeholder="where it is"
            onBlur={(e) => e.target.value !== s.place && void change.run(s, { place: e.target.value })}
            style={{ width: 150, background: "transparent", borderBottom: "1px solid var(--chakra-colors-line)" }}
          />
          <Pick label={`How ${s.name} is`} value={s.state} set={(state) => void change.run(s, { state: state as typeof s.state })} width="96px">
            <option>ready</option>
            <option>worn</option>
            <option>lost</option>
          </Pick>
        </Flex>
      ))}
      <Refusal problem={change.problem} />
    </Box>
  );
}
