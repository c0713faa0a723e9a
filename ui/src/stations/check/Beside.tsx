import { Box, Flex, Grid, Image } from "@chakra-ui/react";
import { useMemo, useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, upload } from "../../app/api";
import { useRead } from "../../app/read";
import { Choose, Heading, Pick, Plain, Refusal, Teach } from "../../parts/controls";
import { columns } from "../../parts/Room";
import { type Measured, type Shot, useBeside, useFaults, useFeatures } from "./bench";
import { Laid, type LaidAs, type Light } from "./Laid";
import { Marker } from "./Marker";

const views = ["front", "left", "right", "back", "pose", "worn", "close"] as const;

const ofWords: Record<Shot["of"], string> = {
  copy: "this copy",
  reference: "reference",
  sculpt: "sculpt",
  earlier: "earlier copy",
  "other side": "other side",
};
const shotWords = (s: Shot) => `${ofWords[s.of]}: ${[s.code, s.view, s.caption].filter(Boolean).join(", ") || "picture"}`;

/** The copy's pictures laid over what was asked, and what differs in mm and in colour. */
export function Beside({ code, pointing, pointed }: { code: string; pointing?: string; pointed?: () => void }) {
  const features = useFeatures(code);
  const see = useAct((feature: string, at: { sha256: string; x: number; y: number }) =>
    ask(api.POST("/api/copies/{code}/features/{feature}", { params: { path: { code, feature } }, body: { there: true, at } })),
  );
  const beside = useBeside(code);
  const faults = useFaults(code);
  const lights = useRead({ queryKey: ["lights"], queryFn: () => ask(api.GET("/api/lights")) });
  const [mine, setMine] = useState<string>();
  const [with_, setWith] = useState<string>();
  const [how, setHow] = useState<LaidAs>("slider");
  const [at, setAt] = useState(0.5);
  const [light, setLight] = useState("as taken");
  const [marking, setMarking] = useState(false);
  const [name, setName] = useState("brow");
  const [found, setFound] = useState<Measured>();
  const stop = useRef<AbortController>(undefined);
  const measure = useAct(async (mode: "reference" | "mirror") => {
    if (!copy) return;
    stop.current = new AbortController();
    const body = { picture: copy.sha256, with: mode === "reference" ? other?.sha256 : undefined, mode };
    setFound(await ask(api.POST("/api/copies/{code}/compare", { params: { path: { code } }, body, signal: stop.current.signal })));
  });
  const b = beside.data;
  const own = b?.shots.filter((s) => s.of === "copy") ?? [];
  const others = b?.shots.filter((s) => s.of !== "copy") ?? [];
  const copy = own.find((s) => s.sha256 === mine) ?? own[0];
  const other = others.find((s) => s.sha256 === with_) ?? others.find((s) => s.view && s.view === copy?.view) ?? others[0];
  const last = found ?? b?.newest;
  const fits = !!last && last.picture === copy?.sha256 && (last.mode === "mirror" || last.with === other?.sha256);
  const shown = useMemo(() => lightsOf(light, lights.data ?? [], copy, other), [light, lights.data, copy, other]);
  if (!b) return null;
  if (!copy)
    return (
      <Box>
        <Teach>No picture of this copy yet: take it from the front, a card beside it, and it is laid over its reference here.</Teach>
        <Take code={code} wanting={b.wanting} />
      </Box>
    );
  return (
    <Box>
      <Flex gap="6px" mb="6px" wrap="wrap">
        <Pick label="Picture of this copy" value={copy.sha256} set={setMine} width="120px">
          {own.map((s) => (
            <option key={s.sha256} value={s.sha256}>
              {s.view || s.caption || "picture"}
            </option>
          ))}
        </Pick>
        {others.length > 0 && (
          <Pick label="Laid over" value={other?.sha256 ?? ""} set={setWith} width="250px">
            {others.map((s) => (
              <option key={s.of + s.sha256} value={s.sha256}>
                {shotWords(s)}
              </option>
            ))}
          </Pick>
        )}
        {(["slider", "blink", "difference"] as const).map((x) => (
          <Plain
            key={x}
            h="34px"
            px="10px"
            fontSize="14.5px"
            aria-pressed={how === x}
            bg={how === x ? "heatherSoft" : undefined}
            onClick={() => setHow(x)}
          >
            {x === "difference" ? "difference × 3" : x}
          </Plain>
        ))}
      </Flex>
      {marking ? (
        <Grid templateColumns={columns("minmax(0,1fr) minmax(0,1fr)")} gap="14px">
          <Marker
            shot={copy}
            title={shotWords(copy)}
            names={[...new Set([...copy.about.marks, ...(other?.about.marks ?? [])].map((m) => m.name))]}
            name={name}
            setName={setName}
          />
          {other && <Marker shot={other} title={shotWords(other)} names={copy.about.marks.map((m) => m.name)} name={name} setName={setName} />}
        </Grid>
      ) : (
        <>
          <Laid
            copy={copy}
            other={other}
            move={fits ? last?.move : undefined}
            how={how}
            at={at}
            lights={shown}
            worse={fits ? last?.worse_at : undefined}
            faults={(faults.data ?? []).flatMap((f, i) =>
              f.sha256 === copy.sha256 && f.x !== undefined && f.y !== undefined ? [{ n: i + 1, x: f.x, y: f.y, chosen: false }] : [],
            )}
            seen={(features.data ?? []).flatMap((f, i) =>
              f.seen?.on?.sha256 === copy.sha256 ? [{ n: i + 1, x: f.seen.on.x, y: f.seen.on.y, text: f.text }] : [],
            )}
            point={
              pointing
                ? (x, y) => {
                    void see.run(pointing, { sha256: copy.sha256, x, y });
                    pointed?.();
                  }
                : undefined
            }
            title={`${code} laid over ${other ? shotWords(other) : "nothing"}`}
          />
          <Refusal problem={see.problem} />
          {how === "slider" && other && (
            <input
              type="range"
              min="0"
              max="100"
              value={Math.round(100 * at)}
              aria-label="How far the copy lies over the other picture"
              style={{ width: "100%", height: 26, display: "block", accentColor: "var(--chakra-colors-heather)" }}
              onChange={(e) => setAt(Number(e.target.value) / 100)}
            />
          )}
        </>
      )}
      {last && <Found last={last} fits={fits} grade={b.grade} />}
      <Flex gap="6px" mt="10px" wrap="wrap" align="center">
        <Box color="muted" fontSize="14.5px">
          seen
        </Box>
        {["as taken", "corrected", ...(lights.data ?? []).map((l) => l.name)].map((l) => (
          <Plain
            key={l}
            h="34px"
            px="10px"
            fontSize="14.5px"
            aria-pressed={light === l}
            bg={light === l ? "heatherSoft" : undefined}
            disabled={l === "corrected" && !copy.card && !other?.card}
            onClick={() => setLight(l)}
          >
            {l}
          </Plain>
        ))}
        <Plain
          h="34px"
          px="10px"
          fontSize="14.5px"
          aria-pressed={marking}
          bg={marking ? "heatherSoft" : undefined}
          onClick={() => setMarking(!marking)}
        >
          {marking ? "Lay them over" : "Set landmarks"}
        </Plain>
        {other && (
          <Plain h="34px" px="10px" fontSize="14.5px" disabled={measure.busy} onClick={() => void measure.run("reference")}>
            Measure
          </Plain>
        )}
        <Plain h="34px" px="10px" fontSize="14.5px" disabled={measure.busy} onClick={() => void measure.run("mirror")}>
          Left against right
        </Plain>
      </Flex>
      {measure.busy && (
        <Flex gap="12px" align="center" mt="6px" role="status">
          <Box flex="1" h="6px" bg="line" borderRadius="full" overflow="hidden">
            <Box h="100%" w="40%" bg="heather" className="runs" />
          </Box>
          laid over and measured …
          <Plain h="34px" onClick={() => stop.current?.abort()}>
            Stop
          </Plain>
        </Flex>
      )}
      <Box mt="6px">
        <Refusal problem={measure.problem?.status === 0 && stop.current?.signal.aborted ? undefined : measure.problem} />
      </Box>
      <Strip shots={b.shots} view={copy.view} />
      <Take code={code} wanting={b.wanting} />
    </Box>
  );
}

/** How both pictures are shown: as they came, put right by their cards, or that under a set's light. */
function lightsOf(name: string, lights: { name: string; tint: number[] }[], copy?: Shot, other?: Shot): { copy?: Light; other?: Light } {
  if (name === "as taken") return {};
  const tint = lights.find((l) => l.name === name)?.tint ?? [1, 1, 1];
  const one = (s?: Shot): Light | undefined => {
    const matrix = s?.card?.matrix ?? [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ];
    const offset = s?.card?.offset ?? [0, 0, 0];
    return { matrix: matrix.map((r, i) => r.map((x) => x * tint[i])), offset: offset.map((x, i) => x * tint[i]) };
  };
  return { copy: one(copy), other: one(other) };
}

const failWords: Record<string, string> = {
  rms_mm: "its shape on the whole",
  max_mm: "its shape at one place",
  de_mean: "its colour on the whole",
  de_max: "its colour at one place",
  edge: "its edge",
  seam_mm: "its seam",
};

/** What was measured, and what that means at this finish. */
function Found({ last: m, fits, grade }: { last: Measured; fits: boolean; grade: string }) {
  const n = (x: number | null | undefined, unit: string) => (x === null || x === undefined ? undefined : `${x.toFixed(x < 10 ? 1 : 0)} ${unit}`);
  const parts = [
    m.rms_mm != null && `${n(m.rms_mm, "mm")} apart on the whole, ${n(m.max_mm, "mm")} at most${m.worst ? ` at ${m.worst}` : ""}`,
    m.de_mean != null && `ΔE ${m.de_mean.toFixed(1)} on the whole, ${m.de_max?.toFixed(1)} at most, on ${m.cells} places`,
    m.axis_deg != null && `mirrored at a line of ${m.axis_deg.toFixed(0)}°`,
  ].filter(Boolean);
  return (
    <Box mt="6px" data-testid="measured">
      <Heading aside={`${m.mode === "mirror" ? "left against right" : "against what was asked"}, by ${m.who}`}>
        Measured{fits ? "" : ", of another pair of pictures"}
      </Heading>
      {parts.length > 0 && <Box fontSize="16px">{parts.join("; ")}.</Box>}
      {m.passes_as && (
        <Box>
          {m.fails.length === 0 ? (
            <>
              It passes the <b>{grade}</b> finish that the camera asks for.
            </>
          ) : (
            <>
              For a <b>{m.grade}</b> finish it fails by {m.fails.map((f) => failWords[f] ?? f).join(", ")}; it passes as <b>{m.passes_as}</b>. The
              figures point to: <b>{m.verdict}</b>. A person decides.
            </>
          )}
        </Box>
      )}
      {Object.keys(m.diffs_mm ?? {}).length > 0 && (
        <Box layerStyle="small">
          {Object.entries(m.diffs_mm)
            .map(([k, v]) => `${k} ${v.toFixed(1)} mm`)
            .join(", ")}
        </Box>
      )}
      {m.said.map((s) => (
        <Box key={s} fontSize="14.5px">
          {s}
        </Box>
      ))}
    </Box>
  );
}

/** Copies side by side, the same side of each. */
function Strip({ shots, view }: { shots: Shot[]; view: string }) {
  const list = shots.filter((s) => (s.of === "copy" || s.of === "earlier" || s.of === "other side") && s.view === view);
  const first = list.filter((s, i) => list.findIndex((o) => o.code === s.code) === i).slice(0, 6);
  if (first.length < 2) return null;
  return (
    <Box mt="14px">
      <Heading>Side by side, {view}</Heading>
      <Flex gap="2px" bg="#8d8d8d" p="2px">
        {first.map((s) => (
          <Box key={s.code} flex="1" minW="0" position="relative">
            <Image src={`/api/files/${s.sha256}?width=480`} alt={`${s.code}, ${view}`} w="100%" h="130px" objectFit="cover" />
            <Box position="absolute" left="4px" bottom="4px" bg="rgba(0,0,0,.6)" color="white" px="6px" fontSize="13px">
              {s.code}
            </Box>
          </Box>
        ))}
      </Flex>
    </Box>
  );
}

function Take({ code, wanting }: { code: string; wanting: string[] }) {
  const [view, setView] = useState<string>(wanting[0] ?? "front");
  const file = useRef<HTMLInputElement>(null);
  const take = useAct(async () => {
    const form = new FormData();
    const f = file.current?.files?.[0];
    if (f) form.set("file", f);
    form.set("view", view);
    await upload(`/api/copies/${code}/pictures`, form);
  });
  return (
    <Flex gap="10px" align="end" mt="14px" wrap="wrap">
      <Choose label="One more picture, from" name="view" value={view} set={setView} problem={take.problem} width="150px">
        {views.map((v) => (
          <option key={v}>{v}</option>
        ))}
      </Choose>
      <Box pb="6px">
        <input ref={file} type="file" accept="image/*" capture="environment" aria-label="One more picture" onChange={() => void take.run()} />
      </Box>
      {wanting.length > 0 && (
        <Box layerStyle="small" pb="10px">
          nobody took it yet from: {wanting.join(", ")}
        </Box>
      )}
      <Refusal problem={take.problem} />
    </Flex>
  );
}
