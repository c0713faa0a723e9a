import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useSettled } from "../../app/useSettled";

export type Plan = Schemas["MouldPlan"];
type Order = Schemas["CraftMouldmathOrder"];

const num = (s: string) => Number(s.replace(",", "."));

/** What a mould is to be, as it is typed, and what that takes, worked out as it changes. */
export function useLayOut(plan: Plan, code: string, done: () => void) {
  const was = plan.sheet?.order;
  const start = was?.body ?? (plan.scanned.known ? plan.scanned.body : plan.usual);
  const [kind, setKind] = useState(was?.kind ?? "block");
  const [stuff, setStuff] = useState(was?.stuff ?? "hard stone");
  const [jacket, setJacket] = useState(was?.jacket ?? "glass laminate");
  const [wall, setWall] = useState(was?.wall_mm ? String(was.wall_mm) : "");
  const [parts, setParts] = useState(was?.parts ? String(was.parts) : "");
  const [core, setCore] = useState(was?.core ?? true);
  const [coreOf, setCoreOf] = useState(was?.core_of ?? "");
  const [release, setRelease] = useState(was?.release ?? plan.release ?? "");
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
  const shell = kind === "glove in a jacket" || kind === "jacket with liner";
  const own = plan.stuffs.find((s) => s.name === stuff);
  // A kind is made of what suits it, unless that suits already.
  const chooseKind = (k: string) => {
    setKind(k);
    const soft = k === "glove in a jacket" || k === "jacket with liner";
    if (soft && !own?.gives) setStuff("mould silicone, condensation");
    if (k === "slush mould") setStuff("casting plaster");
  };
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
  const settled = useSettled(asked);
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
  return {
    kind: [kind, chooseKind],
    stuff: [stuff, setStuff],
    jacket: [jacket, setJacket],
    wall: [wall, setWall],
    parts: [parts, setParts],
    core: [core, setCore],
    coreOf: [coreOf, setCoreOf],
    release: [release, setRelease],
    separator: [separator, setSeparator],
    clay: [clay, (c: string) => setClay(c as typeof clay)],
    baked: [baked, setBaked],
    water: [water, setWater],
    waterC: [waterC, setWaterC],
    typed: [typed, (on: boolean) => setTyped(on)],
    area: [area, setArea],
    volume: [volume, setVolume],
    size: [size, setSize],
    own,
    shell,
    sheet: sheet.data,
    lay,
    wrong: !!wrong,
    problem,
  } as const;
}

export type LaidOut = ReturnType<typeof useLayOut>;
