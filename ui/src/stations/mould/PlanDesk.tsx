import { Box, Flex, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, Problem, type Schemas } from "../../app/api";
import { useClock, useForms, useFound, usePiece } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { clockTime, duration, grams, isoDay } from "../../parts/format";
import { RoomHead } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { to } from "./Moulds";

type Plan = Schemas["MouldPlan"];
type Order = Schemas["CraftMouldmathOrder"];
type Sheet = Schemas["CraftMouldmathSheet"];

/** The build sheet of a piece's next mould: laid out, worked through, printed. */
export function PlanDesk({ code }: { code: string }) {
  const piece = usePiece(code);
  const plan = useQuery({
    queryKey: ["mould plan", code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/mould-plan", { params: { path: { code } } })),
  });
  const moulds = useQuery({ queryKey: ["moulds", code], queryFn: () => ask(api.GET("/api/moulds", { params: { query: { piece: code } } })) });
  const [anew, setAnew] = useState(false);
  const found = useFound(code).data;
  useInHand(code);
  if (!piece.data || !plan.data) return null;
  const laid = plan.data.sheet && !anew;
  return (
    <Box>
      <RoomHead
        code={code}
        to={`/piece/${code}`}
        title={piece.data.name}
        aside={laid ? `${plan.data.sheet?.order.kind} of ${plan.data.sheet?.order.stuff}` : "lay out the build sheet of its mould"}
        acts={
          <Flex gap="8px" align="center" wrap="wrap">
            {moulds.data?.map((m) => (
              <Tag key={m.code} code={m.code} to={to(m.code)} />
            ))}
            {laid && (
              <a href={`/api/pieces/${code}/mould-plan.pdf`} target="_blank" rel="noreferrer" style={{ textDecoration: "underline" }}>
                Print the build sheet
              </a>
            )}
          </Flex>
        }
      />
      {plan.data.held && (
        <Box color="gorse" fontWeight="600" mb="8px">
          The sculpt is not through its gate: {plan.data.held}{" "}
          <Link to={`/sculpt/${code}?leaf=Gate`} style={{ textDecoration: "underline" }}>
            To its gate
          </Link>
        </Box>
      )}
      {!!found?.places.length && (
        <Box color="gorse" fontWeight="600" mb="8px">
          To mend on the sculpt first: {found.places.map((p) => p.words).join("; ")}.{" "}
          <Link to={`/form/${code}`} style={{ textDecoration: "underline" }}>
            Look at it
          </Link>
        </Box>
      )}
      {laid ? <Laid plan={plan.data} code={code} anew={() => setAnew(true)} /> : <LayOut plan={plan.data} code={code} done={() => setAnew(false)} />}
    </Box>
  );
}

const num = (s: string) => Number(s.replace(",", "."));

function LayOut({ plan, code, done }: { plan: Plan; code: string; done: () => void }) {
  const was = plan.sheet?.order;
  const start = was?.body ?? (plan.scanned.known ? plan.scanned.body : plan.usual);
  const [kind, setKind] = useState(was?.kind ?? "block");
  const [stuff, setStuff] = useState(was?.stuff ?? "hard stone");
  const [jacket, setJacket] = useState(was?.jacket ?? "glass laminate");
  const [wall, setWall] = useState(was?.wall_mm ? String(was.wall_mm) : "");
  const [parts, setParts] = useState(was?.parts ? String(was.parts) : "");
  const [core, setCore] = useState(was?.core ?? true);
  const [coreOf, setCoreOf] = useState(was?.core_of ?? "");
  const [release, setRelease] = useState(was?.release ?? "");
  const [separator, setSeparator] = useState(was?.separator ?? "");
  const [clay, setClay] = useState<"" | "oil clay" | "sulphur clay">(was?.clay ?? "oil clay");
  const [baked, setBaked] = useState(was?.baked ?? plan.family === "foam_latex");
  const [water, setWater] = useState(was?.water_per_100 ? String(was.water_per_100) : "");
  const [waterC, setWaterC] = useState(was?.water_c ? String(was.water_c) : "20");
  // A scan may be measured while the sheet is open: it counts unless somebody says otherwise.
  const [said, setTyped] = useState<boolean>();
  const typed = said ?? !(was?.body ? was.body.scanned : plan.scanned.known);
  const [area, setArea] = useState((start.area_mm2 / 100).toFixed(0));
  const [volume, setVolume] = useState((start.volume_mm3 / 1000).toFixed(0));
  const [size, setSize] = useState(start.size_mm.map((x) => x.toFixed(0)).join(" × "));
  const gives = plan.stuffs.find((s) => s.name === stuff)?.gives ?? false;
  const shell = kind === "glove in a jacket" || kind === "jacket with liner";
  const own = plan.stuffs.find((s) => s.name === stuff);
  const order: Order = {
    kind,
    stuff,
    jacket: shell ? jacket : undefined,
    wall_mm: num(wall) || undefined,
    parts: num(parts) || undefined,
    core,
    core_of: core ? coreOf : undefined,
    release,
    separator,
    clay,
    baked,
    cast: plan.family || undefined,
    water_per_100: num(water) || undefined,
    water_c: num(waterC) || undefined,
    locks_mm2: plan.scanned.known && plan.scanned.locks_mm2 > 5 ? plan.scanned.locks_mm2 : undefined,
    body:
      !typed && plan.scanned.known
        ? plan.scanned.body
        : {
            area_mm2: (num(area) || 0) * 100,
            volume_mm3: (num(volume) || 0) * 1000,
            size_mm: [0, 1, 2].map((i) => num(size.split(/[×x,;\s]+/)[i] ?? "") || 0),
          },
  };
  const asked = JSON.stringify(order);
  const [settled, setSettled] = useState(asked);
  useEffect(() => {
    const t = window.setTimeout(() => setSettled(asked), 200);
    return () => window.clearTimeout(t);
  }, [asked]);
  const sheet = useQuery({
    queryKey: ["mould sheet", settled],
    queryFn: () => ask(api.POST("/api/mould-sheets", { body: JSON.parse(settled) as Order })),
    retry: false,
    placeholderData: (old) => old,
  });
  const lay = useAct(async () => {
    await ask(api.POST("/api/pieces/{code}/mould-plan", { params: { path: { code } }, body: order }));
    done();
  });
  // What is no number must not quietly become the usual one.
  const entered: [string, string][] = [
    ["wall_mm", wall],
    ["parts", parts],
    ["water_per_100", water],
    ["water_c", waterC],
    ...((typed
      ? [
          ["body.area_mm2", area],
          ["body.volume_mm3", volume],
        ]
      : []) as [string, string][]),
  ];
  const odd = entered.find(([, text]) => text.trim() !== "" && !Number.isFinite(num(text)));
  const problem =
    lay.problem ??
    (odd && new Problem(422, "not_a_number", odd[0], `“${odd[1]}” is no number.`)) ??
    (sheet.error instanceof Problem ? sheet.error : undefined);
  const fields = [
    "kind",
    "stuff",
    "jacket",
    "wall_mm",
    "parts",
    "water_per_100",
    "water_c",
    "body.area_mm2",
    "body.volume_mm3",
    "body.size_mm",
    "core_of",
  ];
  return (
    <Grid templateColumns={{ base: "1fr", lg: "430px minmax(0,1fr)" }} gap="30px">
      <Flex direction="column" gap="8px">
        <Heading>What it is to be</Heading>
        <Grid templateColumns="1fr 1fr" gap="8px">
          <Choose
            label="Kind"
            name="kind"
            value={kind}
            set={(k) => {
              setKind(k);
              const soft = k === "glove in a jacket" || k === "jacket with liner";
              if (soft && !gives) setStuff("mould silicone, condensation");
              if (k === "slush mould") setStuff("casting plaster");
            }}
            problem={problem}
          >
            {plan.kinds.map((k) => (
              <option key={k}>{k}</option>
            ))}
          </Choose>
          <Choose label="Made of" name="stuff" value={stuff} set={setStuff} problem={problem}>
            {plan.stuffs.map((s) => (
              <option key={s.name}>{s.name}</option>
            ))}
          </Choose>
          {shell && (
            <Choose label="Jacket of" name="jacket" value={jacket} set={setJacket} problem={problem}>
              {["glass laminate", "plaster bandage", "casting plaster", "hard stone"].map((j) => (
                <option key={j}>{j}</option>
              ))}
            </Choose>
          )}
          <Entry
            label="Wall, mm"
            name="wall_mm"
            value={wall}
            set={setWall}
            problem={problem}
            placeholder={own ? `${own.wall_mm} (${own.wall_range.join(" to ")})` : ""}
          />
          <Entry label="Parts" name="parts" value={parts} set={setParts} problem={problem} placeholder="usual for the kind" />
          {own?.gypsum && (
            <Entry
              label="Water to 100 of powder"
              name="water_per_100"
              value={water}
              set={setWater}
              problem={problem}
              placeholder={`${own.water_per_100} (${own.water_range?.join(" to ")}), see the bag`}
            />
          )}
          {own?.gypsum && <Entry label="Water, °C" name="water_c" value={waterC} set={setWaterC} problem={problem} />}
          <Entry
            label="Release"
            name="release"
            value={release}
            set={setRelease}
            problem={problem}
            placeholder="wax paste"
            suggestions={["wax paste", "soap", "petroleum jelly, thin", "silicone release, sprayed"]}
          />
          <Entry
            label="Between its parts"
            name="separator"
            value={separator}
            set={setSeparator}
            problem={problem}
            placeholder="alcohol-thinned soap"
            suggestions={["soap, three coats", "shellac and wax"]}
          />
          <Choose label="Sculpted in" name="clay" value={clay} set={(c) => setClay(c as typeof clay)} problem={problem}>
            <option>oil clay</option>
            <option>sulphur clay</option>
          </Choose>
          {core && (
            <Choose label="Core" name="core_of" value={coreOf} set={setCoreOf} problem={problem}>
              <option value="">is there already</option>
              <option value="hard stone">cast in hard stone</option>
              <option value="casting plaster">cast in casting plaster</option>
            </Choose>
          )}
        </Grid>
        <Flex gap="18px" wrap="wrap">
          <label>
            <input type="checkbox" checked={core} onChange={(e) => setCore(e.target.checked)} /> closes over a core
          </label>
          <label>
            <input type="checkbox" checked={baked} onChange={(e) => setBaked(e.target.checked)} /> goes into the oven
          </label>
        </Flex>
        <Heading aside={!typed ? `by the scan ${plan.scanned.name}` : plan.scanned.known ? "typed" : "usual for the region; type your own"}>
          What it goes round
        </Heading>
        {plan.scanned.known && (
          <label>
            <input type="checkbox" checked={!typed} onChange={(e) => setTyped(!e.target.checked)} /> as it was scanned:{" "}
            {(plan.scanned.body.area_mm2 / 100).toFixed(0)} cm², {plan.scanned.body.size_mm.map((x) => x.toFixed(0)).join(" × ")} mm
          </label>
        )}
        {typed && (
          <Grid templateColumns="1fr 1fr 1.5fr" gap="8px">
            <Entry label="Surface, cm²" name="body.area_mm2" value={area} set={setArea} problem={problem} />
            <Entry label="Body, ml" name="body.volume_mm3" value={volume} set={setVolume} problem={problem} />
            <Entry label="Wide × high × deep, mm" name="body.size_mm" value={size} set={setSize} problem={problem} />
          </Grid>
        )}
        <Flex gap="10px" mt="4px">
          <Go act={() => void lay.run()} disabled={lay.busy || !!problem}>
            Keep this build sheet
          </Go>
          {plan.sheet && <Plain onClick={done}>Back to the one that is kept</Plain>}
        </Flex>
        <Refusal problem={problem} fields={fields} />
      </Flex>
      <Box opacity={problem ? 0.5 : 1}>{sheet.data && <Quantities sheet={sheet.data} />}</Box>
    </Grid>
  );
}

/** What it takes, with the rule by which each figure was found. */
function Quantities({ sheet: s }: { sheet: Sheet }) {
  return (
    <Flex direction="column" gap="12px">
      <Box>
        <Heading aside={`about ${(s.price_minor / 100).toFixed(0)} in materials`}>What it takes</Heading>
        {s.lines.map((l, i) => (
          <Box key={`${l.what}${i === 0 ? "" : i}`} py="3px">
            <Flex gap="10px">
              <Box flex="1">{l.what}</Box>
              <Box w="92px" textAlign="end" fontWeight="700" fontSize="17px">
                {grams(l.need_g)}
              </Box>
              <Box w="148px" textAlign="end" color="muted">
                have ready {grams(l.order_g)}
              </Box>
            </Flex>
            <Box color="muted" fontSize="13px" lineHeight="1.25">
              {l.rule}
            </Box>
          </Box>
        ))}
        {!!s.dry_kg && (
          <Box fontSize="14px" mt="2px">
            Wet about {s.wet_kg?.toFixed(2)} kg, dry {s.dry_kg.toFixed(2)} kg: it stands about {s.casts} casts.
          </Box>
        )}
      </Box>
      {s.findings.length > 0 && (
        <Box>
          <Heading>What the rules say</Heading>
          {s.findings.map((f) => (
            <Flex key={f.id + f.reason} gap="10px" py="2px">
              <Box
                w="54px"
                fontWeight="600"
                color={f.severity === "stop" || f.severity === "never" ? "rust" : f.severity === "warn" ? "gorse" : "muted"}
              >
                {f.id}
              </Box>
              <Box flex="1" lineHeight="1.3" fontSize="14.5px">
                {f.reason}{" "}
                <Box as="span" color="muted">
                  {f.remedy}
                </Box>
              </Box>
            </Flex>
          ))}
        </Box>
      )}
      <Box fontSize="14px">
        {duration(s.hands_s)} of hands, {duration(s.wait_s)} of waiting{s.dry_kg ? ", then drying by the scale" : ""}. Hands are our figures for a
        face, by area.
      </Box>
    </Flex>
  );
}

function Laid({ plan, code, anew }: { plan: Plan; code: string; anew: () => void }) {
  const s = plan.sheet as Sheet;
  const tick = useAct((item: string, is: boolean) =>
    ask(api.POST("/api/pieces/{code}/mould-plan/ticks", { params: { path: { code } }, body: { plan: plan.id ?? 0, item, done: is } })),
  );
  const ticked = (key: string) => plan.ticks.find((t) => t.item === key);
  const all = [...s.items, ...s.steps];
  const next = all.find((i) => !ticked(i.key));
  return (
    <Grid templateColumns={{ base: "1fr", lg: "minmax(0,1fr) 430px" }} gap="30px">
      <Box>
        <Flex gap="12px" align="center" mb="10px" wrap="wrap">
          {next ? (
            <Go act={() => void tick.run(next.key, true)} disabled={tick.busy}>
              Done
            </Go>
          ) : (
            <RegisterIt plan={plan} code={code} />
          )}
          <Box flex="1" minW="0" lineHeight="1.25">
            {next ? next.text : "Everything is done. Register the mould: it stands on the pot shelf until it is dry."}
          </Box>
          <Box color="muted">
            {plan.ticks.length} of {all.length}
          </Box>
        </Flex>
        <Refusal problem={tick.problem} />
        <Heading>To place before the first pour</Heading>
        {s.items.map((i) => (
          <Check key={i.key} id={i.key} text={i.text} aside={i.why} tick={ticked(i.key)} set={(is) => void tick.run(i.key, is)} busy={tick.busy} />
        ))}
        <Box mt="12px">
          <Heading aside={`${duration(s.hands_s)} of hands`}>In this order</Heading>
          {s.steps.map((i) => (
            <Check
              key={i.key}
              id={i.key}
              text={i.text}
              aside={[
                i.hands_s > 0 ? duration(i.hands_s) : "",
                i.wait_s > 0 ? `then ${duration(i.wait_s)}, ${i.wait}` : i.wait ? `then until ${i.wait}` : "",
                i.mind ?? "",
              ]
                .filter(Boolean)
                .join(" · ")}
              tick={ticked(i.key)}
              set={(is) => void tick.run(i.key, is)}
              busy={tick.busy}
            />
          ))}
        </Box>
      </Box>
      <Flex direction="column" gap="12px">
        <Quantities sheet={s} />
        <Box color="rust" fontSize="13.5px">
          {s.cautions.map((c) => (
            <Box key={c} mb="3px">
              {c}
            </Box>
          ))}
          <Box color="muted">Safety data sheets, local codes and licensed professionals have the last word.</Box>
        </Box>
        <Flex>
          <Plain onClick={anew}>Lay it out anew</Plain>
        </Flex>
      </Flex>
    </Grid>
  );
}

function Check({
  id,
  text,
  aside,
  tick,
  set,
  busy,
}: {
  id: string;
  text: string;
  aside: string;
  tick?: Schemas["MouldTicked"];
  set: (is: boolean) => void;
  busy: boolean;
}) {
  return (
    <Flex gap="10px" py="3px" align="start">
      <input type="checkbox" id={`m-${id}`} checked={!!tick} disabled={busy} onChange={(e) => set(e.target.checked)} style={{ marginTop: 4 }} />
      <label htmlFor={`m-${id}`} style={{ lineHeight: 1.3 }}>
        {text}{" "}
        <Box as="span" color="muted" fontSize="13.5px">
          {tick ? `${tick.who}, ${clockTime(tick.at)}` : aside}
        </Box>
      </label>
    </Flex>
  );
}

/** The mould that was built by the sheet comes into the shop. */
function RegisterIt({ plan, code }: { plan: Plan; code: string }) {
  const s = plan.sheet as Sheet;
  const forms = useForms();
  const clock = useClock();
  const [core, setCore] = useState("");
  const [place, setPlace] = useState("");
  const add = useAct(() =>
    ask(
      api.POST("/api/pieces/{code}/moulds", {
        params: { path: { code } },
        body: {
          kind: s.order.kind,
          material: s.order.stuff,
          core,
          state: "wet",
          release_agent: s.order.release,
          separator: s.order.separator,
          parts: s.order.parts,
          place,
          life: s.casts,
          dry_kg: s.dry_kg,
          plan: plan.id,
          made_on: clock.data ? isoDay(new Date(clock.data.now)) : "",
        },
      }),
    ),
  );
  return (
    <Flex gap="8px" align="end" wrap="wrap">
      <Choose label="Core" name="core" value={core} set={setCore} problem={add.problem} width="170px">
        <option value="">none</option>
        {forms.data?.map((f) => (
          <option key={f.code} value={f.code}>
            {f.code} {f.performer ?? "general"}
          </option>
        ))}
      </Choose>
      <Entry label="Stands" name="place" value={place} set={setPlace} problem={add.problem} width="130px" placeholder="rack 2" />
      <Go act={() => void add.run()} disabled={add.busy}>
        Register the mould
      </Go>
      <Refusal problem={add.problem} fields={["core", "place"]} />
    </Flex>
  );
}
