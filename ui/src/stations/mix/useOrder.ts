import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";

type Order = Schemas["MixOrder"];
export type Route = "clay" | "water" | "area" | "scan";

/** What is asked for, and what each is read as. */
const kindsOf = { before: "mass", after: "mass", full: "mass", empty: "mass", area: "area", mean: "length", volume: "volume" } as const;
export type Name = keyof typeof kindsOf;

/** An amount as it stands in its field; one that the product holds already keeps its own figure until somebody types. */
interface Answer {
  text: string;
  value?: number;
}
type Answers = Record<Name, Answer>;

const none: Answer = { text: "" };
const noAnswers: Answers = { before: none, after: none, full: none, empty: none, area: none, mean: none, volume: none };
const held = (value: number, digits: number, unit: string): Answer => ({ text: `${value.toFixed(digits)} ${unit}`, value });

/** What a mix is to be, as it is typed, and its sheet with lots, worked out as it changes. Nothing is recorded before plan. */
export function useOrder(first: string) {
  const navigate = useNavigate();
  const [piece, setPiece] = useState(first);
  const [material, setMaterial] = useState("silicone-gel");
  const [route, setRoute] = useState<Route>("area");
  const [answers, setAnswers] = useState<Answers>(noAnswers);
  const [copies, setCopies] = useState("1");
  const [spare, setSpare] = useState("0");
  const [waste, setWaste] = useState("15");
  const [softener, setSoftener] = useState("60");
  const [of, setOf] = useState<"parts" | "total">("parts");
  const [pigments, setPigments] = useState([{ material: "pigment-flesh", percent: "1.2" }]);
  const [lots, setLots] = useState<Record<string, string>>({});
  const start = useStart(piece, {
    route: setRoute,
    answers: setAnswers,
    material: setMaterial,
    copies: setCopies,
    softener: (percent) => {
      setSoftener(percent);
      setOf("parts");
    },
    pigments: setPigments,
  });

  const inputs = JSON.stringify({ piece, material, route, answers, copies, spare, waste, softener, of, pigments, lots });
  const [settled, setSettled] = useState(inputs);
  useEffect(() => {
    const t = window.setTimeout(() => setSettled(inputs), 180);
    return () => window.clearTimeout(t);
  }, [inputs]);

  const order = async (): Promise<Order> => {
    const read = async (name: Name) => {
      const { text, value } = answers[name];
      if (value !== undefined) return value;
      try {
        return (await ask(api.GET("/api/quantity", { params: { query: { text, kind: kindsOf[name] } } }))).value;
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
    enabled: start.known,
    queryFn: async () => ask(api.POST("/api/mixes/sheet", { body: await order() })),
    retry: false,
    placeholderData: (old) => old,
  });
  const plan = useAct(async () => {
    const mix = await ask(api.POST("/api/mixes", { body: await order() }));
    navigate(`/mix/${mix.code}`);
  });
  const problem = plan.problem ?? (sheet.error instanceof Problem ? sheet.error : undefined);
  return {
    piece: [piece, setPiece],
    material: [material, setMaterial],
    route: [route, (r: string) => setRoute(r as Route)],
    answer: (name: Name) => [answers[name].text, (text: string) => setAnswers({ ...answers, [name]: { text } })] as const,
    copies: [copies, setCopies],
    spare: [spare, setSpare],
    waste: [waste, setWaste],
    softener: [softener, setSoftener],
    of: [of, (o: string) => setOf(o as typeof of)],
    pigments: [pigments, setPigments],
    lots: [lots, setLots],
    start,
    sheet,
    plan,
    problem,
  } as const;
}

interface Starting {
  route: (r: Route) => void;
  answers: (a: Answers) => void;
  material: (slug: string) => void;
  copies: (n: string) => void;
  softener: (percent: string) => void;
  pigments: (list: { material: string; percent: string }[]) => void;
}

/**
 * Starts from the amount that is believed, the silicone of the section with what it says is stirred in, and the copies
 * that are missing. stirred is false where the section says nothing of that, and usual ones stand there.
 */
function useStart(piece: string, set: Starting): { known: boolean; stirred: boolean } {
  const params = { params: { path: { code: piece } } };
  const amounts = useRead({ queryKey: ["amounts", piece], queryFn: () => ask(api.GET("/api/pieces/{code}/amounts", params)) });
  const section = useRead({ queryKey: ["section", piece], queryFn: () => ask(api.GET("/api/pieces/{code}/section", params)) });
  const view = useRead({ queryKey: ["piece", piece], queryFn: () => ask(api.GET("/api/pieces/{code}", params)) });
  const believed = amounts.data?.volume_ml ?? 0;
  const body = section.data?.result.body;
  const layer = section.data && bodyOf(section.data.doc);
  const silicone = layer?.material;
  const stirred = layer?.with;
  const missing = view.data && Math.max(1, view.data.copies_wanted - view.data.copies_good);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is started from, not the setters
  useEffect(() => {
    if (believed > 0) {
      set.route("scan");
      set.answers({ ...noAnswers, volume: held(believed, 1, "ml") });
    } else if (amounts.isSuccess && body && body.volume_ml > 0) {
      set.route("area");
      set.answers({ ...noAnswers, area: held(body.area_cm2, 1, "cm²"), mean: held(body.mean_mm, 2, "mm") });
    }
  }, [believed, body, amounts.isSuccess]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: as above
  useEffect(() => {
    if (silicone) set.material(silicone);
  }, [silicone]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: as above
  useEffect(() => {
    if (!stirred?.length) return;
    set.softener(String(stirred.find((w) => w.material === "softener")?.percent ?? 0));
    set.pigments(stirred.filter((w) => w.material !== "softener").map((w) => ({ material: w.material, percent: String(w.percent) })));
  }, [stirred]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: as above
  useEffect(() => {
    if (missing) set.copies(String(missing));
  }, [missing]);
  return { known: amounts.isFetched && section.isFetched && view.isFetched, stirred: !!stirred?.length };
}

/** The silicone that a section is cast of; undefined for other families. */
function bodyOf(doc: Schemas["CraftSectionSection"]) {
  return doc.layers?.find((l) => l.kind === "silicone" && l.method !== "direct");
}
