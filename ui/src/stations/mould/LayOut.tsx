import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { Quantities } from "./Laid";

type Plan = Schemas["MouldPlan"];
type Order = Schemas["CraftMouldmathOrder"];

const num = (s: string) => Number(s.replace(",", "."));

/** Says what the mould is to be, and sees at once what that takes. */
export function LayOut({ plan, code, done }: { plan: Plan; code: string; done: () => void }) {
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
  const sheet = useRead({
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
  // What the server said no to when it was to be kept may be tried again.
  const wrong =
    (odd && new Problem(422, "not_a_number", odd[0], `“${odd[1]}” is no number.`)) ?? (sheet.error instanceof Problem ? sheet.error : undefined);
  const problem = wrong ?? lay.problem;
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
          <Go act={() => void lay.run()} disabled={lay.busy || !!wrong}>
            Keep this build sheet
          </Go>
          {plan.sheet && <Plain onClick={done}>Back to the one that is kept</Plain>}
        </Flex>
        <Refusal problem={problem} />
      </Flex>
      <Box opacity={problem ? 0.5 : 1}>{sheet.data && <Quantities sheet={sheet.data} />}</Box>
    </Grid>
  );
}
