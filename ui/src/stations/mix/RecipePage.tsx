import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, Problem, type Schemas } from "../../app/api";
import { KeptFiles } from "../../app/KeptFiles";
import { useKey } from "../../app/keys";
import { useMaterials } from "../../app/reads";
import { useDraft } from "../../app/useDraft";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { columns, fields, RoomHead } from "../../parts/Room";
import { Proposals } from "../../piece/Proposals";
import { BloodNeed } from "./BloodNeed";
import { States } from "./PourSheet";
import { actName } from "./steps";
import { Trials } from "./Trials";

type Doc = Schemas["CraftRecipeRecipe"];
type Line = Schemas["CraftRecipeLine"];
type Step = Schemas["CraftRecipeStep"];
type View = Schemas["RecipesView"];

/** One house recipe: its lines and steps, what follows from them, its versions and what it is like. */
export default function RecipePage() {
  const { slug = "" } = useParams();
  return <Opened slug={slug} key={slug} />;
}

function Opened({ slug }: { slug: string }) {
  const params = { path: { code: slug } };
  const navigate = useNavigate();
  const draft = useDraft<Doc, View>(["recipe", slug], {
    read: () => ask(api.GET("/api/recipes/{code}", { params })),
    save: (body) => ask(api.PUT("/api/recipes/{code}", { params, body })),
    undo: () => ask(api.POST("/api/recipes/{code}/undo", { params })),
    redo: () => ask(api.POST("/api/recipes/{code}/redo", { params })),
    drop: async () => {
      try {
        return await ask(api.DELETE("/api/recipes/{code}/draft", { params }));
      } catch (e) {
        if (e instanceof Problem && e.status === 404) navigate("/recipes"); // it was never agreed: nothing is left of it
        throw e;
      }
    },
    carry: (latest) => ask(api.POST("/api/recipes/{code}/carry", { params, body: { latest } })),
  });
  const [why, setWhy] = useState("");
  const agree = async () => {
    if (await draft.act(() => ask(api.POST("/api/recipes/{code}/agree", { params, body: { why } })))) setWhy("");
  };
  const { doc, view } = draft;
  const canUndo = !!view && view.state.step > 1;
  const canRedo = !!view && view.state.last > view.state.step;
  const both = draft.problem?.code === "draft_moved" || draft.problem?.code === "newer_agreed";
  useKey("U", "undo", canUndo ? () => void draft.undo() : undefined);
  if (!doc || !view) return draft.problem ? <Refusal problem={draft.problem} /> : null;
  const set = (next: Partial<Doc>) => draft.replace({ ...doc, ...next });
  const fault = view.fault && new Problem(422, "fault", view.fault.field, view.fault.detail);
  const standing = view.state.latest > 0 ? `§${view.state.latest}` : view.built_in ? "as it came" : "not agreed yet";
  return (
    <Box>
      <RoomHead
        title={doc.name}
        aside={`${standing}${view.state.drafted ? ", changed by you" : ""}`}
        acts={
          <Flex gap="10px" align="center" wrap="wrap">
            <Plain h="36px" disabled={!canUndo} onClick={() => void draft.undo()}>
              Undo
            </Plain>
            <Plain h="36px" disabled={!canRedo} onClick={() => void draft.redo()}>
              Redo
            </Plain>
            {view.state.drafted && (
              <Plain h="36px" onClick={() => void draft.drop()}>
                Let my changes go
              </Plain>
            )}
            <Link to={`/mix?recipe=${slug}`}>Mix it</Link>
            <Link to="/recipes">All recipes</Link>
          </Flex>
        }
      />
      <Grid templateColumns={columns("minmax(0,1.35fr) minmax(0,1fr)")} gap="34px">
        <Box>
          <Head doc={doc} set={set} fault={fault} />
          <Rest doc={doc} set={set} fault={fault} />
          <Lines doc={doc} set={set} fault={fault} />
          <Steps doc={doc} set={set} fault={fault} />
        </Box>
        <Box>
          <Proposals to="recipe" code={slug} />
          {view.state.drafted && (
            <Box mb="18px">
              <Heading>Agree it</Heading>
              {view.differences.map((d) => (
                <Box key={d.what} fontSize="15px">
                  <b>{d.what}</b>: {d.was || "nothing"} → {d.is || "nothing"}
                </Box>
              ))}
              {fault && <Refusal problem={fault} />}
              <Flex gap="8px" align="end" mt="6px">
                <Entry label="Why" name="why" placeholder="the last one tore" value={why} set={setWhy} problem={draft.problem} />
                <Go act={() => void agree()} disabled={!!fault || !why.trim()}>
                  Agree
                </Go>
              </Flex>
              <Refusal problem={draft.problem} />
              {both && (
                <Flex gap="8px" mt="6px">
                  <Plain onClick={() => void draft.settle(true)}>Mine over it</Plain>
                  <Plain onClick={() => void draft.settle(false)}>Take the other</Plain>
                </Flex>
              )}
            </Box>
          )}
          <Heading>What it states</Heading>
          <States follows={view.follows} />
          <Box mt="18px">
            <Trials slug={slug} />
            <Box mt="18px">
              <KeptFiles of="recipe" code={slug} key={slug} />
            </Box>
            <BloodNeed slug={slug} makes={doc.makes} />
          </Box>
          <Versions view={view} />
        </Box>
      </Grid>
    </Box>
  );
}

interface Part {
  doc: Doc;
  set: (next: Partial<Doc>) => void;
  fault?: Problem;
}

function Head({ doc, set, fault }: Part) {
  const materials = useMaterials();
  return (
    <Grid templateColumns={fields("1.4fr 1.4fr 0.8fr 0.7fr 0.7fr")} gap="8px" mb="14px" alignItems="end">
      <Entry label="Name" name="name" value={doc.name} set={(name) => set({ name })} problem={fault} />
      <Choose label="Makes" name="makes" value={doc.makes} set={(makes) => set({ makes })} problem={fault}>
        <option value="">choose</option>
        {materials.data?.map((m) => (
          <option key={m.slug} value={m.slug}>
            {m.name}
          </option>
        ))}
      </Choose>
      <Choose label="Parts by" name="by_volume" value={doc.by_volume ? "volume" : "mass"} set={(by) => set({ by_volume: by === "volume" })}>
        <option value="mass">mass</option>
        <option value="volume">volume</option>
      </Choose>
      <Num label="Keeps, h" name="keep_h" value={doc.keep_h ?? 0} set={(keep_h) => set({ keep_h })} problem={fault} />
      <Num label="Rises to ×" name="rise" value={doc.rise ?? 0} set={(rise) => set({ rise })} problem={fault} />
    </Grid>
  );
}

const clocks: [NonNullable<Doc["clock"]>, string][] = [
  ["", "none"],
  ["cure", "cures, by the product's sheet"],
  ["gel", "gels, as foam does"],
  ["set", "sets, by the water's warmth"],
  ["plain", "so long at a temperature"],
  ["cools", "until it is too cool to pour"],
];

/** Its clock, whether it is food, what must not be near, and what it is like. */
function Rest({ doc, set, fault }: Part) {
  const timed = doc.clock === "set" || doc.clock === "plain" || doc.clock === "cools";
  return (
    <Box mb="16px">
      <details>
        <summary>Clock, food, what must not be near, what it is like</summary>
        <Grid templateColumns={fields("1.4fr 0.8fr 0.8fr 0.8fr auto")} gap="8px" mt="6px" alignItems="end">
          <Choose label="Clock" name="clock" value={doc.clock ?? ""} set={(clock) => set({ clock: clock as Doc["clock"] })} problem={fault}>
            {clocks.map(([c, name]) => (
              <option key={c} value={c}>
                {name}
              </option>
            ))}
          </Choose>
          {timed ? <Num label="Pourable, s" name="pot_s" value={doc.pot_s ?? 0} set={(pot_s) => set({ pot_s })} problem={fault} /> : <Box />}
          {timed ? <Num label="Set, s" name="set_s" value={doc.set_s ?? 0} set={(set_s) => set({ set_s })} problem={fault} /> : <Box />}
          {timed ? <Num label="at °C" name="ref_c" value={doc.ref_c ?? 0} set={(ref_c) => set({ ref_c })} problem={fault} /> : <Box />}
          <Flex as="label" gap="6px" pb="9px" align="center">
            <input type="checkbox" checked={!!doc.edible} onChange={(e) => set({ edible: e.target.checked })} /> edible
          </Flex>
        </Grid>
        <Grid templateColumns={fields("1fr 1fr")} gap="8px" mt="8px">
          <Entry
            label="Must not be near it"
            name="near"
            placeholder="copper; mineral oil"
            value={(doc.near ?? []).join("; ")}
            set={(t) => set({ near: t.split(";").map((w) => w.trimStart()) })}
            problem={fault}
          />
          <Entry label="What it is like" name="like" value={doc.like ?? ""} set={(like) => set({ like })} problem={fault} />
        </Grid>
      </details>
    </Box>
  );
}

function Lines({ doc, set, fault }: Part) {
  const materials = useMaterials();
  const put = (i: number, next: Partial<Line>) => set({ lines: doc.lines.map((l, j) => (j === i ? { ...l, ...next } : l)) });
  const two = (slug: string) => !!materials.data?.find((m) => m.slug === slug)?.ratio;
  return (
    <Box mb="18px">
      <Heading>What is in it</Heading>
      {doc.lines.map((l, i) => (
        <Grid key={l.id} templateColumns={fields("minmax(0,1.6fr) 0.8fr 0.7fr minmax(0,1.1fr) auto auto")} gap="8px" mb="6px" alignItems="end">
          <Box pb="9px" fontWeight="600" lineHeight="1.2">
            {l.kit ? `Part ${l.kit}, ` : ""}
            {materials.data?.find((m) => m.slug === l.material)?.name ?? l.material}
          </Box>
          <Choose
            label="as"
            name={`lines[${i}].as`}
            value={l.top_up ? "top" : l.parts ? "parts" : "percent"}
            set={(as) =>
              put(
                i,
                as === "top"
                  ? { top_up: true, parts: 0, percent: 0 }
                  : as === "parts"
                    ? { parts: l.percent || 1, percent: 0, top_up: false }
                    : { percent: l.parts || 1, parts: 0, of: "parts", top_up: false },
              )
            }
          >
            <option value="parts">parts</option>
            <option value="percent">percent</option>
            <option value="top">topped up</option>
          </Choose>
          {l.top_up ? (
            <Box />
          ) : l.parts ? (
            <Num label="Parts" name={`lines[${i}].parts`} value={l.parts} set={(parts) => put(i, { parts })} problem={fault} />
          ) : (
            <Num label="%" name={`lines[${i}].percent`} value={l.percent ?? 0} set={(percent) => put(i, { percent })} problem={fault} />
          )}
          {!l.parts && !l.top_up ? (
            <Choose label="of" name={`lines[${i}].of`} value={l.of || "parts"} set={(of) => put(i, { of })} problem={fault}>
              <option value="parts">all parts</option>
              <option value="total">the whole</option>
              {doc.lines
                .filter((o) => o.parts && o.id !== l.id)
                .map((o) => (
                  <option key={o.id} value={o.id}>
                    {o.kit ? `part ${o.kit}` : (materials.data?.find((m) => m.slug === o.material)?.name ?? o.id)}
                  </option>
                ))}
            </Choose>
          ) : (
            <Box />
          )}
          <Flex as="label" gap="5px" pb="9px" fontSize="14px" align="center" title="The clock starts when the second of these comes in">
            <input type="checkbox" checked={!!l.sets} onChange={(e) => put(i, { sets: e.target.checked })} /> sets off
          </Flex>
          <Plain
            h="38px"
            aria-label={`Take ${l.id} out`}
            onClick={() => set({ lines: doc.lines.filter((_, j) => j !== i), steps: doc.steps.filter((s) => s.line !== l.id) })}
          >
            ×
          </Plain>
        </Grid>
      ))}
      <Choose
        label="Put in"
        name="lines"
        value=""
        width="320px"
        problem={fault}
        set={(slug) => {
          if (!slug) return;
          const fresh: Line[] = two(slug)
            ? [
                { id: "A", material: slug, kit: "A", parts: 1, sets: true },
                { id: "B", material: slug, kit: "B", parts: 1, sets: true },
              ]
            : [{ id: doc.lines.some((l) => l.id === slug) ? `${slug}-${doc.lines.length + 1}` : slug, material: slug, parts: 1 }];
          set({ lines: [...doc.lines, ...fresh] });
        }}
      >
        <option value="">choose a material</option>
        {materials.data?.map((m) => (
          <option key={m.slug} value={m.slug}>
            {m.name}
          </option>
        ))}
      </Choose>
    </Box>
  );
}

const acts: Step["act"][] = ["weigh", "stir", "whisk", "rest", "warm", "de_air", "sieve", "test", "weigh_back", "measure_volume"];

function Steps({ doc, set, fault }: Part) {
  const put = (i: number, next: Partial<Step>) => set({ steps: doc.steps.map((s, j) => (j === i ? { ...s, ...next } : s)) });
  const move = (i: number, by: number) => {
    const steps = [...doc.steps];
    const [s] = steps.splice(i, 1);
    steps.splice(i + by, 0, s);
    set({ steps });
  };
  return (
    <Box>
      <Heading>In this order</Heading>
      {doc.steps.map((s, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: steps have no key of their own
        <Grid key={i} templateColumns={fields("120px minmax(0,1fr) 74px 70px 74px auto")} gap="8px" mb="5px" alignItems="end">
          <Choose label={i === 0 ? "Act" : ""} name={`steps[${i}].act`} value={s.act} set={(act) => put(i, { act: act as Step["act"] })}>
            {acts.map((a) => (
              <option key={a} value={a}>
                {actName(a)}
              </option>
            ))}
          </Choose>
          {s.act === "weigh" ? (
            <Choose label={i === 0 ? "What" : ""} name={`steps[${i}].line`} value={s.line ?? ""} set={(line) => put(i, { line })} problem={fault}>
              <option value="">which</option>
              {doc.lines.map((l) => (
                <option key={l.id} value={l.id}>
                  {l.id}
                </option>
              ))}
            </Choose>
          ) : (
            <Entry label={i === 0 ? "How" : ""} name={`steps[${i}].text`} value={s.text ?? ""} set={(text) => put(i, { text })} problem={fault} />
          )}
          {s.act === "weigh" ? (
            <Box />
          ) : (
            <Num
              label={i === 0 ? "Seconds" : ""}
              name={`steps[${i}].seconds`}
              value={s.seconds ?? 0}
              set={(seconds) => put(i, { seconds })}
              problem={fault}
            />
          )}
          {s.act === "whisk" ? (
            <Entry label="Speed" name={`steps[${i}].speed`} value={s.speed ?? ""} set={(speed) => put(i, { speed })} />
          ) : s.act === "warm" ? (
            <Num label="°C" name={`steps[${i}].temp_c`} value={s.temp_c ?? 0} set={(temp_c) => put(i, { temp_c })} problem={fault} />
          ) : (
            <Box />
          )}
          {s.act === "warm" ? (
            <Num label="At most" name={`steps[${i}].max_c`} value={s.max_c ?? 0} set={(max_c) => put(i, { max_c })} problem={fault} />
          ) : (
            <Box />
          )}
          <Flex gap="4px">
            <Plain h="38px" px="9px" aria-label={`Step ${i + 1} earlier`} disabled={i === 0} onClick={() => move(i, -1)}>
              ↑
            </Plain>
            <Plain h="38px" px="9px" aria-label={`Step ${i + 1} later`} disabled={i === doc.steps.length - 1} onClick={() => move(i, 1)}>
              ↓
            </Plain>
            <Plain h="38px" px="9px" aria-label={`Take step ${i + 1} out`} onClick={() => set({ steps: doc.steps.filter((_, j) => j !== i) })}>
              ×
            </Plain>
          </Flex>
        </Grid>
      ))}
      <Plain h="36px" onClick={() => set({ steps: [...doc.steps, { act: "stir", text: "", seconds: 60 }] })}>
        One more step
      </Plain>
      {doc.steps.length === 0 && <Box layerStyle="small">Without steps the lines are weighed in their order.</Box>}
    </Box>
  );
}

function Versions({ view }: { view: View }) {
  if (view.versions.length === 0) return null;
  return (
    <Box mt="18px">
      <Heading>Versions</Heading>
      {view.versions.map((v) => (
        <Box key={v.number} py="4px" borderBottomWidth="1px" borderColor="line" fontSize="15px">
          <b>§{v.number}</b> {v.at}, {v.by}: {v.why}
          {v.changed.map((d) => (
            <Box key={d.what} layerStyle="small">
              {d.what}: {d.was || "nothing"} → {d.is || "nothing"}
            </Box>
          ))}
        </Box>
      ))}
    </Box>
  );
}

/** A number, taken as soon as it is one. */
function Num({ label, name, value, set, problem }: { label: string; name: string; value: number; set: (n: number) => void; problem?: Problem }) {
  const [text, setText] = useState(value ? String(value) : "");
  const shown = Number(text.replace(",", ".")) === value || (text === "" && value === 0) ? text : String(value);
  return (
    <Entry
      label={label}
      name={name}
      value={shown}
      problem={problem}
      set={(t) => {
        setText(t);
        const n = Number(t.replace(",", "."));
        if (!Number.isNaN(n)) set(n);
      }}
    />
  );
}
