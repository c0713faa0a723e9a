import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { Go, Heading, Plain, Refusal } from "../../parts/controls";
import { clockTime, duration } from "../../parts/format";
import { Bench } from "./Bench";
import { FoundList, Made } from "./Eye";
import type { Found, Judged, Step, TextureDraft, View } from "./useTexture";

interface Props {
  code: string;
  draft: TextureDraft;
  view: View;
  judged: Judged;
  found: Found[];
  /** The step in hand, shown on the relief. */
  step?: Step;
  hold: (key: string | undefined) => void;
}

/** What hands do: stamps on the bench, steps in order, ticked as they are done. */
export function Work({ code, draft, view, judged, found, step, hold }: Props) {
  const params = { params: { path: { code } } };
  const [took, setTook] = useState("");
  const [failed, setFailed] = useState<string>();
  const tick = useAct((key: string, time: string) => ask(api.POST("/api/pieces/{code}/texture/ticks", { ...params, body: { key, took: time } })));
  const back = useAct((key: string) => ask(api.POST("/api/pieces/{code}/texture/ticks/back", { ...params, body: { key } })));
  const agreed = view.state.latest > 0 && !view.state.drafted && !draft.waiting;
  const done = new Map(view.ticks.map((t) => [t.key, t]));
  const steps = judged.work.steps;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a time belongs to the step that is in hand.
  useEffect(() => setTook(""), [step?.key]);
  const timed = took.trim() === "" ? "" : /^[\d.,]+$/.test(took.trim()) ? `${took.trim().replace(",", ".")} min` : took.trim();
  const left = steps.filter((s) => !done.has(s.key)).reduce((sum, s) => sum + s.hands_s, 0);
  const w = judged.work;
  const spread = w.hours > 0 ? (w.top_hours - w.low_hours) / 2 / w.hours : 0;
  // The step in hand is in sight, whatever is above it.
  const show = (el: HTMLElement | null) => {
    const list = el?.parentElement;
    if (el && list && (el.offsetTop < list.scrollTop || el.offsetTop + el.offsetHeight > list.scrollTop + list.clientHeight))
      list.scrollTop = el.offsetTop - 52;
  };
  const go = async () => {
    if (!step) return;
    setFailed(step.key);
    if (await tick.run(step.key, timed)) setFailed(undefined);
  };
  return (
    <Grid templateColumns="minmax(0, 1fr) minmax(0, 1.05fr)" gap="26px">
      <Flex direction="column" gap="12px">
        <Bench judged={judged} step={step} />
        <Made judged={judged} />
        <FoundList found={found.slice(0, 3)} />
        {w.cautions.map((c) => (
          <Box key={c} fontSize="13.5px" color="muted" lineHeight="1.35">
            {c}
          </Box>
        ))}
      </Flex>
      <Flex direction="column" minW="0">
        <Heading aside={`${view.log.done_steps} of ${steps.length} done`}>Your hands</Heading>
        <Box maxH="212px" overflowY="auto" position="relative" role="list" aria-label="Steps" tabIndex={0} className="steps">
          {groups(steps, done, step?.key).map((g) => {
            const first = g[0];
            const t = done.get(first.key);
            const here = first.key === step?.key;
            return (
              <Flex
                key={first.key}
                ref={here ? show : undefined}
                role="listitem"
                gap="8px"
                py="2px"
                align="baseline"
                fontWeight={here ? 700 : 400}
                bg={here ? "heatherSoft" : undefined}
                borderRadius="6px"
                px="4px"
              >
                <Box w="16px" color="yew" fontWeight="700" aria-hidden="true">
                  {t ? "✓" : here ? "▸" : ""}
                </Box>
                <Box
                  as={g.length === 1 ? "button" : "div"}
                  flex="1"
                  minW="0"
                  textAlign="left"
                  lineHeight="1.25"
                  title={first.detail}
                  onClick={() => g.length === 1 && hold(first.key)}
                >
                  {wordsOf(g)}
                  {here && first.detail && (
                    <Box fontWeight="400" fontSize="13.5px" color="muted">
                      {first.detail}
                    </Box>
                  )}
                </Box>
                {t && g.length === 1 ? (
                  <Box
                    as="button"
                    color="muted"
                    fontSize="13px"
                    title={`${t.who}, ${clockTime(t.at)}: take it back`}
                    onClick={() => void back.run(first.key)}
                  >
                    {t.actual_s ? duration(t.actual_s) : "done"} <u>back</u>
                  </Box>
                ) : (
                  <Box layerStyle="note" whiteSpace="nowrap">
                    {here && first.count > 0 && first.row ? `${first.count} ${first.unit}` : amount(g)}
                  </Box>
                )}
              </Flex>
            );
          })}
        </Box>
        <Box borderTopWidth="1.5px" borderColor="ink" mt="6px" pt="6px">
          {w.presses > 0 && <Sum label="Presses">{w.presses}</Sum>}
          {w.strokes > 0 && (
            <Sum label="Strokes">
              {w.strokes}, {(w.lines_mm / 1000).toFixed(1)} m
            </Sum>
          )}
          {w.spots > 0 && <Sum label="Drops, pores, holes">{w.spots}</Sum>}
          <Sum label="Clay for the relief">
            {w.clay_add_g.toFixed(0)} g to add, {w.clay_take_g.toFixed(0)} g off
          </Sum>
          {w.clay_body_g > 0 && <Sum label="Clay under it">{w.clay_body_g.toFixed(0)} g</Sum>}
          <Sum label="Left to do">
            {duration(left)} ± {duration(left * spread)}
          </Sum>
          {view.log.timed_hours > 0 && (
            <Sum label="Needed so far">
              {duration(view.log.actual_hours * 3600)} for {duration(view.log.timed_hours * 3600)} planned
            </Sum>
          )}
        </Box>
        <Flex gap="10px" mt="8px" align="center" wrap="wrap">
          {agreed && step && (
            <>
              <Go act={() => void go()} disabled={tick.busy} px="18px" h="46px">
                {step.row
                  ? `Row ${step.row} pressed`
                  : step.action === "leave"
                    ? "Rested and looked over"
                    : step.action === "form"
                      ? "The form is settled"
                      : "Done"}
              </Go>
              <input
                aria-label="How long it took, in minutes"
                placeholder="took min"
                value={took}
                onChange={(e) => setTook(e.target.value)}
                style={{
                  width: 78,
                  height: 40,
                  padding: "0 10px",
                  borderRadius: 8,
                  border: "1.5px solid var(--chakra-colors-line)",
                  background: "var(--chakra-colors-sheet)",
                }}
              />
            </>
          )}
          {agreed && !step && <Box fontWeight="600">Every step is done. The gate to the mould comes next.</Box>}
          {!agreed && <Box color="muted">Agree the plan; then its steps can be ticked here.</Box>}
        </Flex>
        <Refusal problem={tick.problem ?? back.problem}>
          {failed && tick.problem && (
            <Plain h="34px" alignSelf="start" onClick={() => void go()}>
              Try again
            </Plain>
          )}
        </Refusal>
      </Flex>
    </Grid>
  );
}

/** Rows that are done stand on one line, those to come on one line a stamp; the row in hand stands alone. */
export function groups(steps: Step[], done: Map<string, unknown>, here?: string): Step[][] {
  const out: Step[][] = [];
  for (const s of steps) {
    const last = out[out.length - 1];
    const open = last && last[0].key !== here && s.key !== here && s.row && last[0].row && s.layer === last[0].layer;
    const alike = last && done.has(s.key) === done.has(last[0].key) && (done.has(s.key) || s.stamp === last[0].stamp);
    if (open && alike) last.push(s);
    else out.push([s]);
  }
  return out;
}

/** Rows 12–21, 3.8 mm through film. */
export function wordsOf(g: Step[]): string {
  if (g.length === 1) return g[0].text;
  const last = g[g.length - 1];
  const size = (s: Step) => s.text.replace(/^Row \d+, /, "");
  const rows = `Rows ${g[0].row}–${last.row}`;
  return size(g[0]) === size(last) ? `${rows}, ${size(g[0])}` : `${rows}, ${size(g[0]).replace(/ through film$/, "")} to ${size(last)}`;
}

function amount(g: Step[]): string {
  if (g[0].wait_s) return "wait";
  const s = g.reduce((sum, x) => sum + x.hands_s, 0);
  return s > 0 ? duration(s) : "";
}

function Sum({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Flex gap="12px">
      <Box flex="1">{label}</Box>
      <Box fontWeight="700" textAlign="right">
        {children}
      </Box>
    </Flex>
  );
}
