import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMaterials } from "../../app/reads";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { duration, grams } from "../../parts/format";
import { columns } from "../../parts/Room";
import { Lots } from "./Lots";

type Order = Schemas["MixOrder"];
type Route = "clay" | "water" | "area" | "scan";

interface Answers {
  before: string;
  after: string;
  full: string;
  empty: string;
  area: string;
  mean: string;
  volume: string;
}

const kindsOf = { before: "mass", after: "mass", full: "mass", empty: "mass", area: "area", mean: "length", volume: "volume" } as const;

/** From the amount wanted to a sheet with lots: live, before anything is recorded. */
export function PourSheet({ pieces, piece: first }: { pieces: Schemas["Piece"][]; piece: string }) {
  const materials = useMaterials();
  const navigate = useNavigate();
  const [piece, setPiece] = useState(first);
  const [material, setMaterial] = useState("silicone-gel");
  const [route, setRoute] = useState<Route>("area");
  const [answers, setAnswers] = useState<Answers>({ before: "", after: "", full: "", empty: "", area: "", mean: "", volume: "" });
  const [copies, setCopies] = useState("1");
  const [spare, setSpare] = useState("0");
  const [waste, setWaste] = useState("15");
  const [softener, setSoftener] = useState("60");
  const [of, setOf] = useState<"parts" | "total">("parts");
  const [pigments, setPigments] = useState([{ material: "pigment-flesh", percent: "1.2" }]);
  const [lots, setLots] = useState<Record<string, string>>({});
  const known = useVolumes(piece, setRoute, setAnswers);

  const inputs = JSON.stringify({ piece, material, route, answers, copies, spare, waste, softener, of, pigments, lots });
  const [settled, setSettled] = useState(inputs);
  useEffect(() => {
    const t = window.setTimeout(() => setSettled(inputs), 180);
    return () => window.clearTimeout(t);
  }, [inputs]);

  const order = async (): Promise<Order> => {
    const read = async (name: keyof Answers) => {
      try {
        return (await ask(api.GET("/api/quantity", { params: { query: { text: answers[name], kind: kindsOf[name] } } }))).value;
      } catch (e) {
        throw e instanceof Problem ? new Problem(e.status, e.code, name, e.message) : e;
      }
    };
    const amount: Order["amount"] = { copies: Number(copies) || 0, spare: Number(spare) || 0, waste: Number(waste) / 100, density: 0 };
    if (route === "clay") amount.clay = { before_g: await read("before"), after_g: await read("after") };
    if (route === "water") amount.water = { full_g: await read("full"), empty_g: await read("empty") };
    if (route === "area") amount.area = { area_cm2: await read("area"), mean_mm: await read("mean") };
    if (route === "scan") amount.scan = { volume_ml: await read("volume") };
    const additions: Order["additions"] = [];
    if (Number(softener) > 0) additions.push({ material: "softener", percent: Number(softener), of, lot: lots.softener });
    for (const p of pigments) if (Number(p.percent) > 0) additions.push({ material: p.material, percent: Number(p.percent), lot: lots[p.material] });
    return { piece, material, kit: lots.A, additions, amount };
  };
  const sheet = useRead({
    queryKey: ["sheet", settled],
    enabled: known,
    queryFn: async () => ask(api.POST("/api/mixes/sheet", { body: await order() })),
    retry: false,
    placeholderData: (old) => old,
  });
  const plan = useAct(async () => {
    const mix = await ask(api.POST("/api/mixes", { body: await order() }));
    navigate(`/mix/${mix.code}`);
  });
  const problem = plan.problem ?? (sheet.error instanceof Problem ? sheet.error : undefined);
  const answer = (name: keyof Answers, label: string, placeholder: string) => (
    <Entry
      label={label}
      name={name}
      value={answers[name]}
      placeholder={placeholder}
      problem={problem?.field.endsWith(`.${name}`) ? problem.at(problem.field, name) : problem}
      set={(v) => setAnswers({ ...answers, [name]: v })}
    />
  );
  const silicones = materials.data?.filter((m) => m.ratio && m.cure) ?? [];
  return (
    <Grid templateColumns={columns("minmax(0,380px) minmax(0,1fr)")} gap="30px">
      <Flex direction="column" gap="10px">
        <Heading>How much</Heading>
        <Choose label="For" name="piece" value={piece} set={setPiece} problem={problem}>
          {pieces.map((p) => (
            <option key={p.code} value={p.code}>
              {p.code} {p.name}
            </option>
          ))}
        </Choose>
        <Grid templateColumns="1.5fr 1fr 1fr" gap="8px">
          <Choose label="Volume from" name="route" value={route} set={(r) => setRoute(r as Route)}>
            <option value="clay">clay used</option>
            <option value="water">water fill</option>
            <option value="area">area × thickness</option>
            <option value="scan">measured</option>
          </Choose>
          {route === "clay" && answer("before", "Clay before", "500 g")}
          {route === "clay" && answer("after", "Clay left", "472 g")}
          {route === "water" && answer("full", "Mould full", "1240 g")}
          {route === "water" && answer("empty", "Mould empty", "1223 g")}
          {route === "area" && answer("area", "Area", "34 cm²")}
          {route === "area" && answer("mean", "Mean thickness", "1.8 mm")}
          {route === "scan" && answer("volume", "Volume", "42 ml")}
          <Entry label="Copies" name="copies" value={copies} set={setCopies} problem={problem} />
          <Entry label="Spare" name="spare" value={spare} set={setSpare} problem={problem} />
          <Entry label="Waste, %" name="waste" value={waste} set={setWaste} problem={problem} />
        </Grid>
        <Heading>What of</Heading>
        <Choose label="Silicone" name="material" value={material} set={setMaterial} problem={problem}>
          {silicones.map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
        </Choose>
        <Grid templateColumns="1fr 1.6fr" gap="8px">
          <Entry label="Softener, %" name="additions[0].percent" value={softener} set={setSoftener} problem={problem} />
          <Choose label="counted on" name="of" value={of} set={(o) => setOf(o as typeof of)}>
            <option value="parts">A and B together</option>
            <option value="total">the finished mix</option>
          </Choose>
          {pigments.map((p, i) => (
            <PigmentLine
              key={p.material}
              line={p}
              materials={materials.data ?? []}
              set={(next) => setPigments(pigments.map((x, j) => (j === i ? next : x)))}
            />
          ))}
        </Grid>
        <Flex gap="8px">
          <Plain
            h="34px"
            onClick={() => {
              const next = materials.data?.find(
                (m) => (m.family === "pigment" || m.family === "flock") && !pigments.some((p) => p.material === m.slug),
              );
              if (next) setPigments([...pigments, { material: next.slug, percent: "0.3" }]);
            }}
          >
            Another colour
          </Plain>
          {pigments.length > 0 && (
            <Plain h="34px" onClick={() => setPigments(pigments.slice(0, -1))}>
              One fewer
            </Plain>
          )}
        </Flex>
      </Flex>
      <Box opacity={sheet.isFetching ? 0.75 : 1}>
        <Heading aside={sheet.data && `${sheet.data.amount.pours} × ${grams(sheet.data.amount.per_copy_g)} and waste`}>The pour sheet</Heading>
        {sheet.data && !sheet.error ? (
          <>
            <Flex align="baseline" gap="16px" mb="8px">
              <Box fontSize="46px" fontWeight="700" lineHeight="1.1" data-testid="sheet-total">
                {grams(sheet.data.total_g)}
              </Box>
              <Box color="muted">
                {sheet.data.amount.volume.mean_ml.toFixed(1)} ± {sheet.data.amount.volume.sd_ml.toFixed(1)} ml a copy
                <br />
                working time about {duration(sheet.data.working.left_s)} at {sheet.data.working.temp_c.toFixed(1)} °C
              </Box>
            </Flex>
            <Lots sheet={sheet.data} chosen={lots} choose={(ingredient, code) => setLots({ ...lots, [ingredient]: code })} problem={problem} />
            {sheet.data.cautions.map((c) => (
              <Box key={c} layerStyle="note" mt="6px">
                {c}
              </Box>
            ))}
            <Flex gap="14px" mt="14px" align="center">
              <Go act={() => void plan.run()} disabled={plan.busy || !!sheet.data.short}>
                Write the sheet
              </Go>
              {sheet.data.short && <Box color="rust">{sheet.data.short}</Box>}
            </Flex>
          </>
        ) : (
          <Box color="muted">{problem?.field ? "Fill in what is asked on the left; the sheet follows as you type." : null}</Box>
        )}
        <Box mt="10px">
          <Refusal problem={problem} />
        </Box>
      </Box>
    </Grid>
  );
}

function PigmentLine({
  line,
  materials,
  set,
}: {
  line: { material: string; percent: string };
  materials: Schemas["CraftMaterialProduct"][];
  set: (next: { material: string; percent: string }) => void;
}) {
  return (
    <>
      <Entry label="Colour, %" name={`${line.material}-percent`} value={line.percent} set={(percent) => set({ ...line, percent })} />
      <Choose label="of" name={`${line.material}-material`} value={line.material} set={(m) => set({ ...line, material: m })}>
        {materials
          .filter((m) => m.family === "pigment" || m.family === "flock")
          .map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
      </Choose>
    </>
  );
}

/** Starts from what the sculpting room found, or from the section's own figures. */
function useVolumes(piece: string, setRoute: (r: Route) => void, setAnswers: (a: Answers) => void): boolean {
  const volumes = useRead({
    queryKey: ["volumes", piece],
    queryFn: () => ask(api.GET("/api/pieces/{code}/volumes", { params: { path: { code: piece } } })),
  });
  const section = useRead({
    queryKey: ["section", piece],
    queryFn: () => ask(api.GET("/api/pieces/{code}/section", { params: { path: { code: piece } } })),
  });
  const latest = volumes.data?.readings[0];
  const body = section.data?.result.body;
  useEffect(() => {
    const m = latest?.measured;
    if (m) {
      // Between scans, or put under water: the volume itself is known.
      const direct = m.route === "scan" || m.route === "displacement";
      setRoute(direct ? "scan" : (m.route as Route));
      setAnswers({
        before: m.before ?? "",
        after: m.after ?? "",
        full: m.full ?? "",
        empty: m.empty ?? "",
        area: m.area ?? "",
        mean: m.mean ?? "",
        volume: direct ? `${latest.volume_ml.toFixed(1)} ml` : "",
      });
    } else if (volumes.isSuccess && body && body.volume_ml > 0) {
      setRoute("area");
      setAnswers({
        before: "",
        after: "",
        full: "",
        empty: "",
        area: `${body.area_cm2.toFixed(1)} cm²`,
        mean: `${body.mean_mm.toFixed(2)} mm`,
        volume: "",
      });
    }
  }, [latest, body, volumes.isSuccess, setRoute, setAnswers]);
  return volumes.isFetched && section.isFetched;
}
