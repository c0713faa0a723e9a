import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import { useEach } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRegions } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { newId } from "../../parts/id";
import { fields } from "../../parts/Room";
import { Rows } from "./Rows";
import type { BriefDraft } from "./useBrief";

const levels: [string, string][] = [
  ["0", "as grown"],
  ["1", "hinted"],
  ["2", "clear"],
  ["3", "strong"],
  ["4", "beyond anatomy"],
];

/** What was asked for by whom, what speaks against it, what was decided; what must not be left out; what is open. */
export function Asked({ code, draft }: { code: string; draft: BriefDraft }) {
  const regions = useRegions();
  const { doc, view, change, problem } = draft;
  const see = useEach((id: string, there: boolean) =>
    ask(api.POST("/api/pieces/{code}/features/{feature}", { params: { path: { code, feature: id } }, body: { there } })),
  );
  if (!doc || !view) return null;
  const places: [string, string][] = [["", "anywhere"], ...(regions.data ?? []).map((r): [string, string] => [r.name, r.text])];
  const agreed = new Set(view.state.latest > 0 ? Object.keys(view.seen) : []);
  return (
    <Flex direction="column" gap="14px">
      <Grid templateColumns="1fr 1fr" gap="10px">
        <Entry label="Asked, in their words" name="asked" rows={3} value={doc.asked} set={(asked) => change({ asked })} problem={problem} />
        <Entry label="Decided about it" name="decided" rows={3} value={doc.decided} set={(decided) => change({ decided })} problem={problem} />
      </Grid>
      <Box>
        <Heading aside={doc.wishes.some((w) => w.state === "open") ? "an open wish holds the brief back" : undefined}>Wishes</Heading>
        {doc.wishes.map((w, i) => {
          const set = (part: Partial<typeof w>) => change({ wishes: doc.wishes.map((x, k) => (k === i ? { ...x, ...part } : x)) });
          return (
            <Grid key={w.id} templateColumns={fields("2.2fr 1fr 74px 118px")} gap="5px" pb="8px" mb="8px" borderBottomWidth="1px" borderColor="line">
              <Entry label="Wish" name={`wish ${i}`} value={w.text} set={(text) => set({ text })} />
              <Entry label="Who asked" name={`by ${i}`} value={w.by} set={(by) => set({ by })} />
              <Entry label="Times" name={`times ${i}`} value={String(w.times)} set={(t) => set({ times: Math.max(1, Math.round(Number(t)) || 1) })} />
              <Choose label="It is" name={`state ${i}`} value={w.state} set={(state) => set({ state: state as typeof w.state })}>
                <option value="open">open</option>
                <option value="agreed">agreed</option>
                <option value="declined">declined</option>
              </Choose>
              <Entry label="What speaks against it" name={`constraint ${i}`} value={w.constraint} set={(constraint) => set({ constraint })} />
              <Entry label="Who decided" name={`decided by ${i}`} value={w.decided_by} set={(decided_by) => set({ decided_by })} />
              <Box gridColumn="span 2">
                <Entry label="Decision" name={`decision ${i}`} value={w.decision} set={(decision) => set({ decision })} />
                <Box
                  as="button"
                  color="muted"
                  fontSize="13px"
                  textDecoration="underline"
                  onClick={() => change({ wishes: doc.wishes.filter((x) => x.id !== w.id) })}
                >
                  take this wish out
                </Box>
              </Box>
            </Grid>
          );
        })}
        {doc.wishes.length === 0 && <Box color="muted">What was wished for, what anatomy or the day allows, and who decided.</Box>}
        <Plain
          h="32px"
          px="14px"
          fontSize="14px"
          onClick={() =>
            change({
              wishes: [...doc.wishes, { id: newId(), text: "", by: "", times: 1, constraint: "", decision: "", decided_by: "", state: "open" }],
            })
          }
        >
          Write a wish down
        </Plain>
      </Box>
      <Box>
        <Heading aside="Check asks for each of them">Must not be left out</Heading>
        <Rows
          name="features"
          rows={doc.features}
          set={(features) => change({ features })}
          columns={[
            { name: "text", label: "What the reference shows", width: "1fr" },
            { name: "region", label: "Where", width: "150px", kind: "choice", choices: places },
          ]}
          blank={() => ({ id: newId(), text: "", region: "", picture: 0 })}
          add="Add a feature"
          empty="Go over the references once more: ears, neck, lashes, smile lines."
          problem={problem}
        />
        {view.state.latest > 0 && doc.features.length > 0 && (
          <Flex gap="4px 16px" wrap="wrap" mt="6px" aria-label="Seen on the piece">
            {doc.features.map((f) => (
              <Checkbox.Root key={f.id} size="sm" checked={agreed.has(f.id)} onCheckedChange={(e) => void see.run(f.id, e.checked === true)}>
                <Checkbox.HiddenInput />
                <Checkbox.Control borderColor="ink" borderRadius="full" />
                <Checkbox.Label>
                  {f.text}
                  <Box as="span" color="muted">
                    {view.seen[f.id] ? `, seen by ${view.seen[f.id].by}` : ""}
                  </Box>
                </Checkbox.Label>
              </Checkbox.Root>
            ))}
          </Flex>
        )}
        <Refusal problem={see.problem} />
      </Box>
      <Box>
        <Heading>Exaggeration by region</Heading>
        <Rows
          name="exaggeration"
          rows={doc.exaggeration.map((e) => ({ ...e, level: String(e.level) }))}
          set={(list) => change({ exaggeration: list.map((e) => ({ ...e, level: Number(e.level) })) })}
          columns={[
            { name: "region", label: "Region", width: "150px", kind: "choice", choices: places.slice(1) },
            { name: "level", label: "How far", width: "150px", kind: "choice", choices: levels },
            { name: "note", label: "Note", width: "1fr" },
          ]}
          blank={() => ({ region: "cheek", level: "1", note: "" })}
          add="Add a region"
          empty="Nothing goes beyond the natural yet."
          problem={problem}
        />
      </Box>
      <Box>
        <Heading>Assumed and open</Heading>
        <Rows
          name="questions"
          rows={doc.questions}
          set={(questions) => change({ questions })}
          columns={[
            { name: "text", label: "Question", width: "1.3fr" },
            { name: "stand_in", label: "Assumed until then", width: "1.2fr" },
            { name: "answer", label: "Answer", width: "1fr" },
            { name: "settled", label: "Settled on", width: "128px", kind: "day" },
          ]}
          blank={() => ({ id: newId(), text: "", stand_in: "", answer: "", settled: "" })}
          add="Add a question"
          empty="Where reference is thin, say what is assumed and when it was settled."
          problem={problem}
        />
      </Box>
    </Flex>
  );
}
