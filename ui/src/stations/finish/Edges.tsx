import { Box, Flex, Grid, Image } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Problem, type Schemas, upload } from "../../app/api";
import { useRead } from "../../app/read";
import { useMaterials, usePiece } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { dayTime, words } from "../../parts/format";
import { type Kind, MapDesk, useDesk } from "../../parts/map/MapDesk";
import { columns } from "../../parts/Room";

type Edge = Schemas["FinishEdges"];
type Rim = Schemas["FinishRim"];

const seenWords: Record<string, string> = { gone: "not to be seen", faint: "faint", seen: "seen", glaring: "glaring" };

/** Edges and seams stretch by stretch: the step, what is seen of it on the day, and how it may be lost. */
export function Edges({ code, piece }: { code: string; piece: string }) {
  const params = { params: { path: { code } } };
  const edges = useRead({ queryKey: ["edges", code], queryFn: () => ask(api.GET("/api/copies/{code}/edges", params)) });
  const [at, setAt] = useState<string>();
  if (edges.error && !edges.data) return <Refusal problem={edges.error as unknown as Problem} />;
  if (!edges.data) return null;
  const e = edges.data;
  const key = (r: Rim) => `${r.kind} ${r.name}`;
  const chosen = e.rims.find((r) => key(r) === at) ?? e.rims[0];
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 380px")} gap="28px">
      <Box minW="0">
        <Heading aside={`${e.grade} finish, looked at from ${e.distance_m || 1} m`}>Edges and seams</Heading>
        {e.rims.map((r) => (
          <Stretch key={key(r)} rim={r} edges={e} code={code} chosen={r === chosen} choose={() => setAt(key(r))} />
        ))}
        <Own code={code} done={setAt} />
      </Box>
      <Box minW="0">
        <OnMap piece={piece} mark={chosen?.mark} />
      </Box>
    </Grid>
  );
}

/** Where the stretch in hand runs on the wearer. */
function OnMap({ piece, mark }: { piece: string; mark?: string }) {
  const view = useRead({
    queryKey: ["brief", piece],
    queryFn: () => ask(api.GET("/api/pieces/{code}/brief", { params: { path: { code: piece } } })),
  });
  const kinds = useRead<Kind[]>({ queryKey: ["map kinds"], queryFn: () => ask(api.GET("/api/map/kinds")), staleTime: Number.POSITIVE_INFINITY });
  const of = usePiece(piece);
  const v = view.data;
  if (!v || !kinds.data || !of.data) return null;
  if (v.doc.marks.length === 0)
    return <Box layerStyle="note">The brief draws nothing on the wearer's map yet: edges drawn there stand here by name.</Box>;
  return (
    <Box h="400px">
      <Placed key={piece} view={v} kinds={kinds.data} code={piece} performer={of.data.performer_id ?? 0} mark={mark} />
    </Box>
  );
}

function Placed(p: { view: Schemas["BriefView"]; kinds: Kind[]; code: string; performer: number; mark?: string }) {
  const { view: v, mark } = p;
  const desk = useDesk(v.doc.marks.find((m) => m.id === mark)?.sheet ?? v.doc.marks[0].sheet);
  return (
    <MapDesk
      desk={{ ...desk, chosen: mark ? { of: "piece", id: mark } : undefined }}
      performer={p.performer}
      stamps={v.stamps}
      pieces={[{ code: p.code, name: "", marks: v.doc.marks }, ...v.others]}
      look={v.look_marks}
      wearer={v.wearer_marks}
      areas={v.map.areas}
      openings={v.map.openings}
      kinds={p.kinds}
      keys={false}
      title={`Edges of ${p.code} on its wearer`}
    />
  );
}

function Stretch({ rim: r, edges: e, code, chosen, choose }: { rim: Rim; edges: Edge; code: string; chosen: boolean; choose: () => void }) {
  const last = r.looks.at(-1);
  const file = useRef<HTMLInputElement>(null);
  const picture = useAct(async () => {
    const form = new FormData();
    const f = file.current?.files?.[0];
    if (f) form.set("file", f);
    await upload(`/api/rim-looks/${last?.id}/picture`, form);
  });
  return (
    <Box
      borderBottomWidth="1px"
      borderColor="line"
      py="8px"
      borderInlineStartWidth="4px"
      borderInlineStartColor={chosen ? "heather" : "transparent"}
      ps="10px"
      data-rim={`${r.kind} ${r.name}`}
    >
      <Flex gap="12px" align="baseline" wrap="wrap">
        <Box as="button" fontWeight="700" fontSize="16px" textAlign="left" onClick={choose} aria-expanded={chosen}>
          {r.kind === "seam" ? "Seam: " : ""}
          {r.name}
        </Box>
        <Box color="muted">
          {Math.round(r.length_mm)} mm,{" "}
          {r.intent === "vanish"
            ? "is to vanish"
            : r.intent === "be hidden"
              ? `is to be hidden by ${r.hidden_by || "something"}`
              : `is to ${r.intent}`}
        </Box>
        <Box ms="auto" fontWeight="600">
          {last ? `${last.step_mm} mm ${last.how}` : "not looked at yet"}
        </Box>
      </Flex>
      {r.visible && (
        <Box>
          <b>{seenWords[r.visible.class]}</b> in {r.light}, {r.visible.visibility.toFixed(2)} of what is just seen
          {e.limit !== undefined && e.limit !== null && ` (${e.limit} is allowed)`}
          {r.visible.shade_vanish_m > 0 && `; its shade is gone from ${r.visible.shade_vanish_m.toFixed(1)} m on`}.{" "}
          {!r.does && (
            <Box as="b" color="rust">
              To be repaired.
            </Box>
          )}
        </Box>
      )}
      {chosen && (
        <Box mt="8px">
          <Ways rim={r} edges={e} />
          <History rim={r} edges={e} />
          {last && (
            <Box my="6px" fontSize="14.5px">
              A picture of it as it is now:{" "}
              <input
                ref={file}
                type="file"
                accept="image/*"
                capture="environment"
                aria-label={`A picture of ${r.name}`}
                onChange={() => void picture.run()}
              />
              <Refusal problem={picture.problem} />
            </Box>
          )}
          <LookForm rim={r} edges={e} code={code} />
        </Box>
      )}
    </Box>
  );
}

const why: Record<string, string> = {
  latex: "holds latex, which this wearer does not take",
  eye: "too near the eye",
  moving: "does not hold where skin moves",
  step: "the step is more than it hides",
};

function Ways({ rim: r, edges: e }: { rim: Rim; edges: Edge }) {
  if (!r.ways) return <Box layerStyle="note">The section does not say yet what its edge is made of.</Box>;
  const of = (id: string) => e.methods.find((m) => m.id === id);
  return (
    // Once it is as it should be, how else it could have been done is put away.
    <details style={{ marginBottom: 8 }} open={!r.does || !r.visible}>
      <Box as="summary" layerStyle="small">
        Ways that {words(e.material)} allows here, the usual first
      </Box>
      {r.ways.ways.map((id) => (
        <Box key={id} fontSize="14.5px" py="1px">
          <b>{words(id)}</b>
          {r.ways?.eyes_shut.includes(id) && ", eyes shut until dry"}: {of(id)?.how}.{" "}
          <Box as="span" color="muted">
            {of(id)?.note}
            {id.startsWith("stipple") && r.stipple && r.stipple.coats > 0 && `; ${r.stipple.coats} coats, ${Math.round(r.stipple.minutes)} min`}
          </Box>
        </Box>
      ))}
      {Object.keys(r.ways.refused).length > 0 && (
        <Box layerStyle="small" mt="3px">
          Not here:{" "}
          {Object.entries(r.ways.refused)
            .map(([id, w]) => `${words(id)} (${why[w]})`)
            .join("; ")}
        </Box>
      )}
    </details>
  );
}

function History({ rim: r }: { rim: Rim; edges: Edge }) {
  if (r.looks.length === 0) return null;
  return (
    <Box as="ol" aria-label={`How ${r.name} was found`} mb="6px">
      {r.looks.map((k) => (
        <Flex as="li" key={k.id} gap="10px" align="center" listStyleType="none" fontSize="14.5px" py="2px">
          {k.sha256 && <Image src={`/api/files/${k.sha256}?width=480`} alt={`${r.name}, ${dayTime(k.at)}`} h="44px" />}
          <Box>
            {k.way ? `${words(k.way)}${k.coats > 0 ? ` × ${k.coats}` : ""}, then ` : "found "}
            <b>{k.step_mm} mm</b> {k.how}
            {k.minutes !== undefined && `, ${k.minutes} min`}
            {k.lot && `, lot ${k.lot}`} {k.note}{" "}
            <Box as="span" color="muted">
              {k.who}, {dayTime(k.at)}
            </Box>
          </Box>
        </Flex>
      ))}
    </Box>
  );
}

const intents = ["vanish", "stay in view", "be torn", "be hidden"] as const;

function LookForm({ rim: r, edges: e, code }: { rim: Rim; edges: Edge; code: string }) {
  const last = r.looks.at(-1);
  const [step, setStep] = useState("");
  const [ramp, setRamp] = useState(last ? String(last.ramp_mm) : "0");
  const [how, setHow] = useState<"measured" | "felt">("measured");
  const [way, setWay] = useState("");
  const [coats, setCoats] = useState("");
  const [minutes, setMinutes] = useState("");
  const [material, setMaterial] = useState("");
  const [lot, setLot] = useState("");
  const [note, setNote] = useState("");
  const [intent, setIntent] = useState(r.intent);
  const [by, setBy] = useState(r.hidden_by ?? "");
  const [colour, setColour] = useState("");
  const materials = useMaterials();
  // The same key until the server has it, so that a lost answer writes nothing twice.
  const key = useRef(crypto.randomUUID());
  const keep = useAct(async () => {
    await ask(
      api.POST("/api/copies/{code}/edges", {
        params: { path: { code } },
        body: {
          kind: r.kind,
          name: r.name,
          mark: r.mark,
          length_mm: Math.max(1, r.length_mm),
          intent,
          hidden_by: by,
          near_eye: r.near_eye,
          moving: r.moving,
          step_mm: Number(step.replace(",", ".")),
          ramp_mm: Number(ramp.replace(",", ".")) || 0,
          de00: Number(colour.replace(",", ".")) || 0,
          how,
          way: way || undefined,
          coats: Number(coats) || undefined,
          minutes: minutes ? Number(minutes) : undefined,
          material: material || undefined,
          lot: lot || undefined,
          note,
          key: key.current,
        },
      }),
    );
    key.current = crypto.randomUUID();
    setStep("");
    setWay("");
    setNote("");
  });
  return (
    <Box>
      <Flex gap="8px" align="end" wrap="wrap">
        <Entry label="Step, mm" name="step_mm" value={step} set={setStep} problem={keep.problem} width="90px" />
        <Entry label="runs out over, mm" name="ramp_mm" value={ramp} set={setRamp} problem={keep.problem} width="130px" />
        <Entry label="colour stops, ΔE" name="de00" value={colour} set={setColour} problem={keep.problem} width="120px" />
        <Choose label="It was" name="how" value={how} set={(v) => setHow(v as typeof how)} width="120px">
          <option>measured</option>
          <option>felt</option>
        </Choose>
        <Choose label="It is to" name="intent" value={intent} set={(v) => setIntent(v as typeof intent)} width="140px">
          {intents.map((i) => (
            <option key={i}>{i}</option>
          ))}
        </Choose>
        {intent === "be hidden" && <Entry label="by what, whose" name="hidden_by" value={by} set={setBy} problem={keep.problem} width="180px" />}
      </Flex>
      <Flex gap="8px" align="end" wrap="wrap" mt="6px">
        <Choose label="Done to it before" name="way" value={way} set={setWay} problem={keep.problem} width="190px">
          <option value="">nothing: as found</option>
          {(r.ways?.ways ?? []).map((id) => (
            <option key={id} value={id}>
              {words(id)}
            </option>
          ))}
        </Choose>
        {way && (
          <>
            <Entry label="passes or coats" name="coats" value={coats} set={setCoats} width="110px" />
            <Entry label="minutes" name="minutes" value={minutes} set={setMinutes} width="80px" />
            <Choose label="with" name="material" value={material} set={setMaterial} problem={keep.problem} width="200px">
              <option value="">not said</option>
              {materials.data?.map((m) => (
                <option key={m.slug} value={m.slug}>
                  {m.name}
                </option>
              ))}
            </Choose>
            {material && <Entry label="lot" name="lot" value={lot} set={setLot} problem={keep.problem} width="110px" />}
          </>
        )}
        <Entry label="a word" name="note" value={note} set={setNote} width="180px" />
        <Plain h="40px" disabled={keep.busy || step.trim() === ""} onClick={() => void keep.run()}>
          {way ? "Repaired so" : "Write it down"}
        </Plain>
      </Flex>
      <Box mt="6px">
        <Refusal problem={keep.problem} />
      </Box>
      {e.grade === "full" && !last && <Box layerStyle="note">By finger a step from 0.05 mm on is felt; the calliper tells more.</Box>}
    </Box>
  );
}

/** A stretch that the map does not name. */
function Own({ code, done }: { code: string; done: (key: string) => void }) {
  const [name, setName] = useState("");
  const [kind, setKind] = useState<"edge" | "seam">("edge");
  const [length, setLength] = useState("");
  const [step, setStep] = useState("");
  const key = useRef(crypto.randomUUID());
  const keep = useAct(async () => {
    await ask(
      api.POST("/api/copies/{code}/edges", {
        params: { path: { code } },
        body: { kind, name, length_mm: Number(length), intent: "vanish", step_mm: Number(step), how: "measured", key: key.current },
      }),
    );
    key.current = crypto.randomUUID();
    done(`${kind} ${name}`);
    setName("");
  });
  return (
    <Box as="details" mt="12px">
      <summary>A stretch of its own</summary>
      <Flex gap="8px" align="end" mt="6px" wrap="wrap">
        <Choose label="It is" name="kind" value={kind} set={(k) => setKind(k as typeof kind)} width="100px">
          <option>edge</option>
          <option>seam</option>
        </Choose>
        <Entry label="Where" name="name" value={name} set={setName} problem={keep.problem} width="200px" placeholder="below the left nostril" />
        <Entry label="Length, mm" name="length_mm" value={length} set={setLength} problem={keep.problem} width="100px" />
        <Entry label="Step, mm" name="step_mm" value={step} set={setStep} problem={keep.problem} width="100px" />
        <Plain h="40px" disabled={keep.busy || !name.trim() || !length || !step} onClick={() => void keep.run()}>
          Write it down
        </Plain>
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}
