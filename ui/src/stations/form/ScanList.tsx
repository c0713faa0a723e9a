import { Box, Flex } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, offline, Problem } from "../../app/api";
import { sendFile } from "../../app/bigUpload";
import { changesSince, changesSoFar } from "../../app/changes";
import { readAgain } from "../../app/read";
import { Pick, Plain, Refusal } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { going, type Scan, seenOn, sizeOf, unitOf } from "./useScans";

/** Takes a scan by choosing or dropping it, with progress; a lost line goes on. */
export function TakeScan({
  of,
  core,
  stages,
  done,
}: {
  of: { piece?: string; form?: string };
  core?: number;
  stages?: boolean;
  done?: (id: number) => void;
}) {
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const stop = useRef<AbortController>(undefined);
  const [stage, setStage] = useState("finished sculpt");
  const [over, setOver] = useState(false);
  const [at, setAt] = useState<{ name: string; share: number; words: string }>();
  const [problem, setProblem] = useState<Problem>();
  const take = async (file: File | undefined) => {
    if (!file || at) return;
    setProblem(undefined);
    const mark = changesSoFar();
    stop.current = new AbortController();
    setAt({ name: file.name, share: 0, words: "" });
    try {
      const upload = await sendFile(file, (share, words) => setAt({ name: file.name, share, words }), stop.current.signal);
      const all = await ask(api.POST("/api/scans", { body: { upload, ...of, stage: stages ? stage : undefined, core } }));
      await readAgain(queries, changesSince(mark));
      if (all.scans[0]) done?.(all.scans[0].id);
    } catch (e) {
      if (!stop.current.signal.aborted) setProblem(e instanceof Problem ? e : offline());
    } finally {
      setAt(undefined);
      if (input.current) input.current.value = "";
    }
  };
  return (
    <Box
      borderWidth="1.5px"
      borderStyle="dashed"
      borderColor={over ? "heather" : "line"}
      bg={over ? "heatherSoft" : "transparent"}
      borderRadius="3px 14px 14px 3px"
      p="11px 14px"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void take(e.dataTransfer.files[0]);
      }}
      data-testid="take-scan"
    >
      {at ? (
        <Flex gap="12px" align="center">
          <Box flex="1" minW="0">
            <Box truncate>
              {at.name}, {Math.round(100 * at.share)} %
              {at.words && (
                <Box as="span" color="gorse">
                  {" "}
                  · {at.words}
                </Box>
              )}
            </Box>
            <Bar share={at.share} words={`Sending ${at.name}`} />
          </Box>
          <Plain h="34px" onClick={() => stop.current?.abort()}>
            Stop
          </Plain>
        </Flex>
      ) : (
        <Flex gap="12px" align="center" wrap="wrap">
          <Plain h="36px" onClick={() => input.current?.click()}>
            Choose a scan
          </Plain>
          <Box color="muted" flex="1" minW="180px" fontSize="14px">
            or drop it here: STL, OBJ or PLY
          </Box>
          {stages && (
            <Pick label="Stage of the piece" value={stage} set={setStage} width="170px">
              {["blocked out", "finished sculpt", "first cast", "after repair"].map((s) => (
                <option key={s}>{s}</option>
              ))}
            </Pick>
          )}
          <input
            ref={input}
            type="file"
            accept=".stl,.obj,.ply"
            aria-label="Scan"
            style={{ display: "none" }}
            onChange={(e) => void take(e.target.files?.[0])}
          />
        </Flex>
      )}
      <Refusal problem={problem} />
    </Box>
  );
}

/** How far something is. */
export function Bar({ share, words }: { share: number; words: string }) {
  return (
    <Box
      role="progressbar"
      aria-label={words}
      aria-valuenow={Math.round(100 * share)}
      h="9px"
      mt="4px"
      borderWidth="1.5px"
      borderColor="ink"
      borderRadius="2px 6px 6px 2px"
      overflow="hidden"
    >
      <Box h="100%" bg="yew" style={{ width: `${100 * share}%` }} />
    </Box>
  );
}

/** What is being computed of a scan, with its stop, or why it was not. */
export function Computing({ scan: s }: { scan: Scan }) {
  const stop = useAct(() => ask(api.POST("/api/scans/{id}/stop", { params: { path: { id: s.id } } })));
  const again = useAct(() => ask(api.POST("/api/scans/{id}/measure", { params: { path: { id: s.id } }, body: {} })));
  const job = going(s.look) ? s.look : going(s.measuring) ? s.measuring : undefined;
  if (job)
    return (
      <Flex gap="12px" align="center" my="6px">
        <Box flex="1">
          <Box fontSize="14px">{job.state === "waiting" ? "waits for its turn" : job.words || "beginning"}</Box>
          <Bar share={job.share} words={`Computing ${s.name}`} />
        </Box>
        <Plain h="32px" onClick={() => void stop.run()}>
          Stop
        </Plain>
      </Flex>
    );
  const bad = s.look.state === "failed" ? s.look : s.measuring?.state === "failed" ? s.measuring : undefined;
  if (bad)
    return (
      <Box role="alert" bg="rustSoft" borderWidth="1.5px" borderColor="rust" borderRadius="3px 12px 12px 3px" p="8px 12px" my="6px" fontSize="14px">
        {bad.detail} The file is kept as it came.
      </Box>
    );
  if (s.look.state === "stopped" || s.measuring?.state === "stopped")
    return (
      <Flex gap="10px" align="center" my="6px" color="muted">
        Stopped.
        {s.core && (
          <Plain h="32px" onClick={() => void again.run()}>
            Measure it again
          </Plain>
        )}
      </Flex>
    );
  return null;
}

/** The scans of a piece or form: what each is, in which unit, over which core. */
export function ScanList({ scans, cores, held, hold }: { scans: Scan[]; cores?: Scan[]; held?: number; hold: (id: number) => void }) {
  return (
    <Box>
      {scans.map((s) => (
        <OneScan key={s.id} scan={s} cores={cores} held={held === s.id} hold={() => hold(s.id)} />
      ))}
    </Box>
  );
}

function OneScan({ scan: s, cores, held, hold }: { scan: Scan; cores?: Scan[]; held: boolean; hold: () => void }) {
  const tell = useAct((part: { unit?: string; core?: number; noise_mm?: number }) =>
    ask(
      api.PUT("/api/scans/{id}", {
        params: { path: { id: s.id } },
        body: {
          unit: (part.unit ?? unitOf(s) ?? "mm") as "mm",
          core: part.core ?? s.core,
          noise_mm: part.noise_mm ?? s.noise_mm,
          stage: s.stage,
          version: s.version,
        },
      }),
    ),
  );
  const aside = useAct(() => ask(api.DELETE("/api/scans/{id}", { params: { path: { id: s.id } } })));
  const size = sizeOf(s);
  const seen = seenOn(s);
  const asks = s.looked && !s.unit && (s.looked.unit_name !== "mm" || s.looked.ambiguous);
  return (
    <Box py="8px" borderBottomWidth="1px" borderColor="line" bg={held ? "heatherSoft" : "transparent"} px="8px" mx="-8px">
      <Flex gap="10px" align="baseline">
        <Box as="button" onClick={hold} aria-pressed={held} textAlign="start" flex="1" minW="0">
          <b>{s.stage || s.name}</b>
          {s.stage && <Box as="span"> · {s.name}</Box>}
          <Box layerStyle="small">
            {dayTime(s.added_at)}, {s.who} · {(s.size / 1e6).toFixed(1)} MB
            {s.looked && ` · ${s.looked.triangles.toLocaleString("en-GB")} triangles · ${s.looked.watertight ? "closed" : "open"}`}
          </Box>
        </Box>
        <a href={`/api/scans/${s.id}/file`} download style={{ textDecoration: "underline", fontSize: 14 }}>
          original
        </a>
        <Box as="button" textDecoration="underline" fontSize="14px" onClick={() => void aside.run()}>
          put aside
        </Box>
      </Flex>
      <Computing scan={s} />
      {size && (
        <Box fontSize="14px">
          {size.mm.map((x) => x.toFixed(0)).join(" × ")} mm · {size.cm2.toFixed(0)} cm² · {size.ml.toFixed(0)} ml
          {!s.looked?.watertight && (
            <Box as="span" color="muted">
              {" "}
              closed with flat fans
            </Box>
          )}
        </Box>
      )}
      {seen.length > 0 && (
        <Box fontSize="13.5px" color="gorse">
          {seen.join(" · ")}
        </Box>
      )}
      {asks && (
        <Box fontSize="14px" color="gorse" fontWeight="600">
          {s.looked?.unit_name === "unknown"
            ? `${s.looked.diagonal.toPrecision(3)} units across fits no unit for a ${s.part}. Which is it in?`
            : `It looks like ${s.looked?.unit_name} for a ${s.part}. Is that so?`}
        </Box>
      )}
      <Flex gap="8px" mt="5px" align="center" wrap="wrap" fontSize="14px">
        <Box color="muted">in</Box>
        <Pick label={`Unit of ${s.name}`} value={s.unit ?? ""} set={(unit) => unit && void tell.run({ unit })} width="112px" disabled={tell.busy}>
          <option value="">{s.looked ? `${s.looked.unit_name}?` : "unit?"}</option>
          {["mm", "cm", "in", "m"].map((u) => (
            <option key={u}>{u}</option>
          ))}
        </Pick>
        <Box color="muted">noise</Box>
        <Pick
          label={`Noise of ${s.name}`}
          value={String(s.noise_mm)}
          set={(n) => void tell.run({ noise_mm: Number(n) })}
          width="150px"
          disabled={tell.busy}
        >
          {[...new Set([0.05, 0.15, 0.5, s.noise_mm])].map((n) => (
            <option key={n} value={String(n)}>
              {n} mm{{ 0.05: ", light", 0.15: ", usual", 0.5: ", phone" }[n] ?? ""}
            </option>
          ))}
        </Pick>
        {cores && (
          <Pick
            label={`Core under ${s.name}`}
            value={String(s.core ?? "")}
            set={(c) => c && void tell.run({ core: Number(c) })}
            width="210px"
            disabled={tell.busy}
          >
            <option value="">over which core?</option>
            {cores.map((c) => (
              <option key={c.id} value={String(c.id)}>
                {c.form} {c.name}
              </option>
            ))}
          </Pick>
        )}
      </Flex>
      <Refusal problem={tell.problem ?? aside.problem} />
    </Box>
  );
}
