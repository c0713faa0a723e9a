import { type RefObject, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useSettled } from "../../app/useSettled";

type Order = Schemas["MixOrder"];
type Wanted = Schemas["MixWanted"];
export type Route = "each" | "clay" | "water" | "area" | "scan" | "mass";

/** What is asked for, and what each is read as. */
const kindsOf = {
  before: "mass",
  after: "mass",
  full: "mass",
  empty: "mass",
  area: "area",
  mean: "length",
  volume: "volume",
  each: "mass",
  mass: "mass",
} as const;
export type Name = keyof typeof kindsOf;

/** An amount as it stands in its field; one that the product holds already keeps its own figure until somebody types. */
interface Answer {
  text: string;
  value?: number;
}
type Answers = Record<Name, Answer>;

const none: Answer = { text: "" };
const noAnswers: Answers = {
  before: none,
  after: none,
  full: none,
  empty: none,
  area: none,
  mean: none,
  volume: none,
  each: none,
  mass: { text: "300 g", value: 300 },
};
const held = (value: number, digits: number, unit: string): Answer => ({ text: `${value.toFixed(digits)} ${unit}`, value });

/** A line of the recipe that somebody changed, or put in. */
export interface Stirred {
  material: string;
  percent: string;
  of: string;
}

export interface TakenLot {
  lot: string;
  why: string;
}

/** What a mix is to be, as it is typed, and its sheet with lots, worked out as it changes. Nothing is recorded before plan. */
export function useOrder(first: { piece?: string; recipe?: string; ml?: number }) {
  const navigate = useNavigate();
  const [piece, setPiece] = useState(first.piece ?? "");
  const [layer, setLayer] = useState("");
  const [recipe, setRecipe] = useState(first.recipe ?? "");
  const [route, setRoute] = useState<Route>(first.ml ? "scan" : "mass");
  const [answers, setAnswers] = useState<Answers>(first.ml ? { ...noAnswers, volume: held(first.ml, 0, "ml") } : noAnswers);
  const [copies, setCopies] = useState("1");
  const [spare, setSpare] = useState("0");
  // A volume that was reckoned elsewhere has its waste in it.
  const [waste, setWaste] = useState(first.ml ? "0" : "15");
  const [stirred, setStirred] = useState<Stirred[]>([]);
  const [bowl, setBowl] = useState("");
  const [pour, setPour] = useState("");
  const [hands, setHands] = useState("");
  const [water, setWater] = useState("");
  const [lots, setLots] = useState<Record<string, TakenLot>>({});
  // What somebody chose or typed stands, whatever is read anew of the piece meanwhile.
  const touched = useRef(false);
  const by =
    <A extends unknown[]>(set: (...a: A) => void) =>
    (...a: A) => {
      touched.current = true;
      set(...a);
    };
  const start = useStart(piece, layer, touched, {
    recipe: first.recipe ? undefined : setRecipe,
    layer: setLayer,
    route: setRoute,
    answers: setAnswers,
    copies: setCopies,
    stirred: setStirred,
  });

  const inputs = JSON.stringify({ piece, recipe, route, answers, copies, spare, waste, stirred, bowl, pour, hands, water, lots });
  const settled = useSettled(inputs);

  const read = async (name: string, text: string, kind: string, value?: number) => {
    if (value !== undefined) return value;
    try {
      return (await ask(api.GET("/api/quantity", { params: { query: { text, kind: kind as "mass" } } }))).value;
    } catch (e) {
      throw e instanceof Problem ? new Problem(e.status, e.code, name, e.message) : e;
    }
  };
  const order = async (): Promise<Order> => {
    const answer = (name: Name) => read(name, answers[name].text, kindsOf[name], answers[name].value);
    const amount: Order["amount"] = {
      copies: piece ? Number(copies) || 0 : 1,
      spare: piece ? Number(spare) || 0 : 0,
      waste: Number(waste) / 100,
      density: 0,
    };
    if (route === "clay") amount.clay = { before_g: await answer("before"), after_g: await answer("after") };
    if (route === "water") amount.water = { full_g: await answer("full"), empty_g: await answer("empty") };
    if (route === "area") amount.area = { area_cm2: await answer("area"), mean_mm: await answer("mean") };
    if (route === "scan") amount.scan = { volume_ml: await answer("volume") };
    if (route === "each") amount.each = { grams: await answer("each") };
    if (route === "mass") amount.mass = { grams: await answer("mass") };
    const split: Order["split"] = {};
    if (bowl.trim()) split.bowl_ml = await read("split.bowl_ml", bowl, "volume");
    if (pour.trim()) split.pour_min = Number(pour.replace(",", "."));
    if (hands.trim()) split.hands = Number(hands);
    const additions = stirred.map((s) => ({ material: s.material, percent: Number(s.percent.replace(",", ".")) || 0, of: s.of }));
    const out: Order = {
      recipe,
      additions,
      lots: Object.entries(lots).map(([line, t]) => ({ line, lot: t.lot, why: t.why || undefined })),
      amount,
      split,
    };
    if (piece) out.piece = piece;
    if (water.trim()) out.water_c = await read("water_c", water, "temperature");
    return out;
  };
  const sheet = useRead({
    queryKey: ["sheet", settled],
    enabled: start.known && recipe !== "",
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
    piece: [
      piece,
      (code: string) => {
        touched.current = false;
        setPiece(code);
        setLayer("");
        setRecipe("");
        setStirred([]);
        setLots({});
        if (!code) setRoute("mass");
      },
    ],
    layer: [layer, setLayer],
    recipe: [
      recipe,
      by((slug: string) => {
        setRecipe(slug);
        setLots({});
        setStirred([]);
      }),
    ],
    route: [route, by((r: string) => setRoute(r as Route))],
    answer: (name: Name) => [answers[name].text, by((text: string) => setAnswers({ ...answers, [name]: { text } }))] as const,
    copies: [copies, by(setCopies)],
    spare: [spare, by(setSpare)],
    waste: [waste, by(setWaste)],
    stirred: [stirred, by(setStirred)],
    bowl: [bowl, setBowl],
    pour: [pour, setPour],
    hands: [hands, setHands],
    water: [water, setWater],
    lots: [lots, setLots],
    start,
    sheet,
    plan,
    problem,
  } as const;
}

interface Starting {
  recipe?: (slug: string) => void;
  layer: (id: string) => void;
  route: (r: Route) => void;
  answers: (a: Answers) => void;
  copies: (n: string) => void;
  stirred: (list: Stirred[]) => void;
}

/**
 * Starts from the piece: the material of its body with the recipe that makes it, the amount that is believed or that the
 * section takes, what it says is stirred in, and the copies that are missing. Another piece or layer starts anew; what is
 * read anew of the same one changes nothing that somebody touched.
 */
function useStart(piece: string, layer: string, touched: RefObject<boolean>, set: Starting): { known: boolean; wanted: Wanted[]; at?: Wanted } {
  const params = { params: { path: { code: piece } } };
  const enabled = piece !== "";
  const amounts = useRead({ queryKey: ["amounts", piece], enabled, queryFn: () => ask(api.GET("/api/pieces/{code}/amounts", params)) });
  const wanted = useRead({ queryKey: ["wanted", piece], enabled, queryFn: () => ask(api.GET("/api/pieces/{code}/wanted", params)) });
  const view = useRead({ queryKey: ["piece", piece], enabled, queryFn: () => ask(api.GET("/api/pieces/{code}", params)) });
  const believed = amounts.data?.volume_ml ?? 0;
  const mixed = (wanted.data ?? []).filter((w) => w.recipes.length > 0);
  const at = mixed.find((w) => w.layer === layer) ?? mixed[0];
  const missing = view.data && Math.max(1, view.data.copies_wanted - view.data.copies_good);
  const begun = useRef("");
  const ready = amounts.isFetched && wanted.isFetched && view.isFetched;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is started from, not the setters
  useEffect(() => {
    if (!at || !ready) return;
    const of = `${piece} ${at.layer}`;
    if (begun.current === of && touched.current) return;
    if (begun.current !== of) touched.current = false;
    begun.current = of;
    set.layer(at.layer);
    set.recipe?.(at.recipes[0].slug);
    set.stirred(at.with.map((w) => ({ material: w.material, percent: String(w.percent), of: "parts" })));
    // What is poured goes by the volume that is believed, what is spread by what the section takes.
    if (believed > 0 && at.body && at.layer === mixed[0].layer) {
      set.route("scan");
      set.answers({ ...noAnswers, volume: held(believed, 1, "ml"), each: held(at.each_g, 1, "g") });
    } else {
      set.route("each");
      set.answers({ ...noAnswers, each: held(at.each_g, 1, "g") });
    }
  }, [at?.layer, ready, believed, piece]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: as above
  useEffect(() => {
    if (missing && !touched.current) set.copies(String(missing));
  }, [missing]);
  return { known: !enabled || ready, wanted: mixed, at };
}
