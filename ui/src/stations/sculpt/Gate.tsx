import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct, useEach } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { FewWords, Heading, Pick, Plain, Refusal } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { Turn } from "../../parts/Turn";
import type { View } from "./useTexture";

type Trial = Schemas["SculptTrial"];

/** Softening passes and what they leave, the trial paint, and the gate to the mould. */
export function Gate({ code, view }: { code: string; view: View }) {
  const params = { params: { path: { code } } };
  const navigate = useNavigate();
  const s = view.surface;
  const look = useEach((item: string, on: boolean) =>
    on
      ? ask(api.POST("/api/pieces/{code}/sculpt/looks", { ...params, body: { item } }))
      : ask(api.POST("/api/pieces/{code}/sculpt/looks/back", { ...params, body: { item } })),
  );
  const pass = useAct(() => ask(api.POST("/api/pieces/{code}/sculpt/pass", params)));
  return (
    <Flex direction="column" gap="14px">
      {s.findings.map((f) => (
        <Box
          key={f.id}
          bg={f.severity === "tip" ? "sheet" : "gorseSoft"}
          borderWidth="1.5px"
          borderColor={f.severity === "tip" ? "line" : "gorse"}
          borderRadius="3px 14px 14px 3px"
          px="12px"
          py="6px"
          fontSize="14.5px"
        >
          <b>{f.id}</b> {f.words} {f.remedy}
        </Box>
      ))}
      <Softened code={code} view={view} />
      <Trials code={code} trials={s.trials} schemes={s.schemes} />
      <Box>
        <Heading aside={s.passed ? "gone to its mould" : `${s.gate.filter((g) => g.at).length} of ${s.gate.length}`}>Gate to the mould</Heading>
        {s.gate.map((g) => (
          <Flex key={g.id} gap="10px" py="3px" align="baseline">
            <input
              type="checkbox"
              id={`gate-${g.id}`}
              checked={!!g.at}
              disabled={look.busy || s.passed}
              onChange={(e) => void look.run(g.id, e.target.checked)}
              style={{ width: 18, height: 18 }}
            />
            <Box as="label" flex="1" lineHeight="1.25" {...{ htmlFor: `gate-${g.id}` }}>
              <b>{g.text}</b>
              <Box layerStyle="small">{g.how}</Box>
            </Box>
            {g.at && (
              <Box layerStyle="small" whiteSpace="nowrap">
                {g.who}, {dayTime(g.at)}
              </Box>
            )}
          </Flex>
        ))}
        <Refusal problem={look.problem ?? pass.problem} />
        {!s.passed && s.holds.length > 0 && (
          <Box mt="6px" layerStyle="note">
            {s.holds.length === 1 ? s.holds[0] : `${s.holds[0]} And ${s.holds.length - 1} more.`}
          </Box>
        )}
        <Flex gap="10px" mt="8px">
          {s.passed ? (
            <Plain onClick={() => navigate("/mould")}>See its mould</Plain>
          ) : (
            <Plain disabled={s.holds.length > 0 || pass.busy} onClick={() => void pass.run()}>
              Send it to the mould
            </Plain>
          )}
        </Flex>
      </Box>
    </Flex>
  );
}

function Softened({ code, view }: { code: string; view: View }) {
  const params = { params: { path: { code } } };
  const choices = useRead({
    queryKey: ["texture choices"],
    queryFn: () => ask(api.GET("/api/textures/choices")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [tool, setTool] = useState("stiff brush");
  const [times, setTimes] = useState(1);
  const soften = useAct(() => ask(api.POST("/api/pieces/{code}/sculpt/passes", { ...params, body: { tool, times } })));
  const clear = useAct((residue: string) => ask(api.POST("/api/pieces/{code}/sculpt/clear", { ...params, body: { residue } })));
  const soft = choices.data?.softenings.find((x) => x.tool === tool);
  const s = view.surface;
  return (
    <Box>
      <Heading aside={s.residues.length ? `on the surface: ${s.residues.join(", ")}` : "nothing lies on the surface"}>Softening</Heading>
      <Flex gap="8px" wrap="wrap" align="center">
        <Pick label="Softened with" value={tool} set={setTool} width="230px">
          {choices.data?.softenings.map((x) => (
            <option key={x.tool}>{x.tool}</option>
          ))}
        </Pick>
        <Turn label="Passes" value={times} min={1} max={20} step={1} set={setTimes} />
        <Plain h="34px" disabled={soften.busy} onClick={() => void soften.run()}>
          Write it down
        </Plain>
        {s.residues.map((r) => (
          <Plain key={r} h="34px" disabled={clear.busy} onClick={() => void clear.run(r)}>
            {`The ${r} is off`}
          </Plain>
        ))}
      </Flex>
      {soft && (
        <Box layerStyle="small">
          {soft.words}
          {soft.clears ? `; then: ${soft.clears}` : ""}.{" "}
          {soft.fire &&
            "Alcohol, solvents and their vapour burn: no flame within reach until the surface is dry and the air is clear; the safety data sheets decide."}
        </Box>
      )}
      <Refusal problem={soften.problem ?? clear.problem} />
      {s.passes.slice(0, 5).map((p) => (
        <Flex key={p.id} gap="12px" fontSize="14.5px">
          <Box flex="1">
            {p.tool}
            {p.times > 1 ? `, ${p.times} times` : ""}
          </Box>
          <Box color={p.leaves && !p.cleared_at ? "gorse" : "muted"}>
            {p.leaves ? (p.cleared_at ? `${p.leaves} taken off` : `leaves ${p.leaves}`) : "leaves nothing"}
          </Box>
          <Box color="muted">
            {p.who}, {dayTime(p.at)}
          </Box>
        </Flex>
      ))}
    </Box>
  );
}

function Trials({ code, trials, schemes }: { code: string; trials: Trial[]; schemes: Schemas["SculptKeptScheme"][] }) {
  const params = { path: { code } };
  const begin = useAct(() => ask(api.POST("/api/pieces/{code}/sculpt/trials", { params })));
  const step = useAct((id: number, body: Schemas["SculptTrialStep"]) =>
    ask(api.POST("/api/pieces/{code}/sculpt/trials/{id}", { params: { path: { code, id } }, body })),
  );
  const [corrections, setCorrections] = useState("");
  const open = trials[0] && !trials[0].verdict ? trials[0] : undefined;
  const did = (t: Trial): string[] =>
    [
      t.released_at && "released",
      t.filmed_at && "filmed",
      t.painted_at && "painted",
      t.peeled_at && (t.clean ? "peeled clean" : "peeled, not clean"),
      t.verdict && (t.verdict === "keep" ? "kept" : "dropped"),
    ].filter((x): x is string => !!x);
  return (
    <Box>
      <Heading aside={schemes.length ? `${schemes.length} kept for the real piece` : undefined}>Trial paint</Heading>
      {trials.map((t) => (
        <Flex key={t.id} gap="10px" fontSize="14.5px">
          <Box flex="1">
            {t.scheme.layers.length} layers of colour: {did(t).join(", ") || "begun"}
            {t.corrections ? `; on the sculpt: ${t.corrections}` : ""}
          </Box>
          <Box color="muted">
            {t.who}, {dayTime(t.began_at)}
          </Box>
        </Flex>
      ))}
      {open ? (
        <Flex gap="8px" wrap="wrap" mt="4px" align="center">
          {!open.released_at && !open.peeled_at && (
            <Plain h="34px" disabled={step.busy} onClick={() => void step.run(open.id, { did: "released" })}>
              Release is on
            </Plain>
          )}
          {!open.filmed_at && !open.peeled_at && (
            <Plain h="34px" disabled={step.busy} onClick={() => void step.run(open.id, { did: "filmed" })}>
              Film is on and dry
            </Plain>
          )}
          {!open.painted_at && !open.peeled_at && (
            <Plain h="34px" disabled={step.busy} onClick={() => void step.run(open.id, { did: "painted" })}>
              It is painted
            </Plain>
          )}
          <FewWords
            label="What the trial changes on the sculpt"
            placeholder="what it changes on the sculpt"
            value={corrections}
            set={setCorrections}
            max={500}
            grow="1 1 180px"
          />
          {(open.filmed_at || open.painted_at) && (!open.peeled_at || !open.clean) && (
            <>
              <Plain h="34px" disabled={step.busy} onClick={() => void step.run(open.id, { did: "peeled", clean: true, corrections })}>
                Peeled, surface clean
              </Plain>
              {!open.peeled_at && (
                <Plain h="34px" disabled={step.busy} onClick={() => void step.run(open.id, { did: "peeled", clean: false, corrections })}>
                  Peeled, not clean
                </Plain>
              )}
            </>
          )}
          <Plain h="34px" disabled={step.busy} onClick={() => void step.run(open.id, { did: "kept", corrections })}>
            Keep the scheme
          </Plain>
          <Plain h="34px" disabled={step.busy} onClick={() => void step.run(open.id, { did: "dropped", corrections })}>
            Drop it
          </Plain>
        </Flex>
      ) : (
        <Plain h="34px" mt="4px" disabled={begin.busy} onClick={() => void begin.run()}>
          Begin a trial with the scheme
        </Plain>
      )}
      <Refusal problem={begin.problem ?? step.problem} />
    </Box>
  );
}
