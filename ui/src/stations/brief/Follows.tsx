import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../app/api";
import { useMe } from "../../app/reads";
import { Go, Heading, Plain, Refusal } from "../../parts/controls";
import type { Both, BriefDraft } from "./useBrief";

const findingColour: Record<string, string> = { never: "rust", stop: "rust", warn: "gorse", tip: "yew" };

/** What the map says no to or cautions about, and the figures it was worked out from. */
export function Told({ view }: { view: Schemas["BriefView"] }) {
  const m = view.map;
  return (
    <Box>
      <Heading aside={`${m.cm2.toFixed(1)} cm² here, ${m.worn_cm2.toFixed(0)} cm² worn in all`}>What follows</Heading>
      <Findings list={[...m.findings, ...view.wear.findings]} />
      <Box layerStyle="note">
        Sees with {m.sight === "none" ? "no eye" : m.sight === "both" ? "both eyes" : `the ${m.sight} eye`}, hears with{" "}
        {m.hearing === "none" ? "no ear" : m.hearing === "both" ? "both ears" : `the ${m.hearing} ear`}, breathes through {m.breath}.
        {m.openings
          .filter((o) => !o.pass)
          .map((o) => ` ${o.text}: ${Math.round(o.open * 100)} % free (${o.wide_mm} × ${o.high_mm} mm), under ${o.covered_by.join(", ")}.`)
          .join("")}
        {m.overlaps.map((o) => ` ${o.a} and ${o.b} share ${o.cm2.toFixed(1)} cm².`).join("")}
        {m.gaps.map((g) => ` Gap ${g.a} to ${g.b}: ${g.mm} mm.`).join("")}
        {m.hair.map((h) => ` ${h.text}: ${h.cm2.toFixed(1)} cm² under ${h.piece}.`).join("")}
      </Box>
    </Box>
  );
}

function Findings({ list }: { list: Schemas["CraftWearmapFinding"][] }) {
  return (
    <Box mb="6px">
      {list.map((f) => (
        <Box key={f.id + f.reason} py="3px" lineHeight="1.35">
          <Box as="span" color={findingColour[f.severity]} fontWeight="700">
            {f.id} {f.severity}
          </Box>{" "}
          {f.reason}{" "}
          <Box as="span" color="muted">
            {f.remedy}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

/** What holds the brief back, and the room's next thing. */
export function Foot({ piece, draft, show }: { piece: Schemas["PieceView"]; draft: BriefDraft; show: () => void }) {
  const navigate = useNavigate();
  const [signed, setSigned] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  const me = useMe();
  const { view, waiting, problem } = draft;
  if (!view) return null;
  const heavy = [...view.map.findings, ...view.wear.findings].filter((f) => f.severity === "stop" || f.severity === "never");
  const open = view.state.drafted || waiting || view.state.latest === 0;
  const both = problem?.status === 409 && problem.data ? (problem.data as Both) : undefined;
  const agree = async () => {
    setBusy(true);
    if (!view.state.drafted && !waiting) draft.touch();
    const done = await draft.agree(
      Object.entries(signed)
        .filter(([, reason]) => reason.trim() !== "")
        .map(([id, reason]) => ({ id, reason })),
    );
    setBusy(false);
    if (done) navigate(`/piece/${piece.code}`);
  };
  return (
    <Box pt="8px" borderTopWidth="1.5px" borderColor="line">
      {open && heavy.length > 0 && (
        <Box mb="8px">
          <Findings list={heavy.slice(0, 2)} />
          {me.data?.person?.role === "lead" &&
            heavy
              .filter((f) => f.severity === "stop")
              .slice(0, 2)
              .map((f) => (
                <input
                  key={f.id}
                  aria-label={`${f.id}: signed reason`}
                  placeholder={`${f.id}: go on in spite of it, because …`}
                  value={signed[f.id] ?? ""}
                  onChange={(e) => setSigned({ ...signed, [f.id]: e.target.value })}
                  style={{
                    width: "100%",
                    height: 34,
                    padding: "0 10px",
                    borderRadius: 8,
                    border: "1.5px solid var(--chakra-colors-line)",
                    background: "var(--chakra-colors-sheet)",
                  }}
                />
              ))}
        </Box>
      )}
      <Flex gap="12px" align="center" wrap="wrap">
        {open ? (
          <Go act={() => void agree()} disabled={busy}>
            Agree the brief
          </Go>
        ) : (
          <Go act={() => navigate(`/piece/${piece.code}`)}>Draw the section</Go>
        )}
        <Plain h="36px" disabled={view.state.step === 0 && !problem} onClick={() => void draft.undo()}>
          Undo
        </Plain>
        <Plain h="36px" disabled={view.state.last <= view.state.step} onClick={() => void draft.redo()}>
          Redo
        </Plain>
        {view.state.drafted && view.state.latest > 0 && (
          <Plain h="36px" onClick={() => void draft.drop()}>
            Drop the draft
          </Plain>
        )}
        {heavy.length > 0 && (
          <Box as="button" textDecoration="underline" color="rust" onClick={show}>
            {heavy.length} to settle
          </Box>
        )}
      </Flex>
      {problem && (
        <Box mt="8px">
          <Refusal problem={problem}>
            {both && (
              <Flex gap="10px">
                <Plain h="36px" onClick={() => void draft.settle(true)}>
                  Keep mine over it
                </Plain>
                <Plain h="36px" onClick={() => void draft.settle(false)}>
                  Take the other
                </Plain>
              </Flex>
            )}
          </Refusal>
        </Box>
      )}
    </Box>
  );
}
