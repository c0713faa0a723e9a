import type { Change } from "./changes";

/** What the run-up is made of. */
const planned = [
  "plan",
  "pieces",
  "section",
  "brief",
  "texture",
  "copies",
  "pots",
  "tools",
  "runs",
  "mixes",
  "kits",
  "days",
  "moulds",
  "lots",
  "work",
  "clock",
] as const;

/**
 * What the screens read, by the first word of its key, and which topics of the
 * server's hints change it. A hint or an act touches only what it names. A read
 * that stands here with "any" is read again whatever changed; one with nothing
 * is only what it is.
 */
export const readsOf = {
  // What never changes while a screen is open, or follows from its own key alone.
  regions: [],
  "layer kinds": [],
  methods: [],
  hands: [],
  tools: ["tools"],
  blood: [],
  "blood need": [],
  "map kinds": [],
  "texture choices": [],
  rules: ["section", "brief"],
  surface: [],
  scale: [],
  sheet: ["lots", "mixes", "section", "materials", "clock", "recipes"],
  "mould sheet": ["moulds", "scans", "section", "texture", "volumes", "jobs", "materials"],
  "scan change": ["scans", "jobs"],
  // The shop.
  me: ["sign-in"],
  people: ["sign-in"],
  "sign-ins": ["sign-in"],
  clock: ["clock"],
  restored: ["restored"],
  today: "any",
  mine: "any",
  meanwhile: "any",
  search: "any",
  record: "any",
  "run-up": planned,
  standing: planned,
  mends: [...planned, "cost"],
  tries: [...planned, "cost", "tries"],
  cost: ["cost", "work", "pieces", "section", "brief", "copies", "runs", "mixes", "lots", "days"],
  account: ["cost", "work", "pieces", "section", "brief", "copies", "runs", "mixes", "lots", "days"],
  terms: ["cost"],
  plan: ["pieces", "copies", "runs", "mixes", "kits", "days", "clock"],
  // Pieces and what they are.
  pieces: ["pieces", "section", "brief", "texture", "copies", "mixes", "runs"],
  piece: ["pieces", "section", "brief", "texture", "journal", "days", "copies", "mixes", "runs", "kits", "moulds"],
  section: ["section", "volumes", "brief", "days", "scans", "copies", "materials", "moulds", "clock"],
  brief: ["brief", "section", "days", "texture"],
  "brief versions": ["brief"],
  hours: ["brief", "section", "texture", "moulds", "days", "volumes", "scans", "jobs"],
  advice: ["brief", "section", "days", "clock"],
  ready: ["brief", "section", "days"],
  character: ["brief", "pieces"],
  "wearer marks": ["brief"],
  body: ["brief"],
  performer: ["section", "brief", "kits"],
  equipment: ["brief"],
  outlook: ["section", "days", "copies", "runs", "mixes", "clock"],
  // Forms, scans, sculpts and moulds.
  forms: ["forms", "scans"],
  "built on": ["forms", "pieces"],
  "life casts": ["forms"],
  scans: ["scans", "jobs"],
  measured: ["scans", "jobs"],
  textures: ["texture", "pieces"],
  texture: ["texture", "section", "stamps", "patterns"],
  outlines: ["brief"],
  patterns: ["patterns"],
  stamps: ["stamps"],
  "sculpt photos": ["texture"],
  volumes: ["volumes"],
  amounts: ["volumes", "section", "brief", "scans", "jobs", "mixes"],
  mould: ["moulds", "pots", "copies"],
  moulds: ["moulds", "pots", "copies"],
  "mould plan": ["moulds", "volumes", "section", "brief", "scans", "jobs", "materials"],
  // Materials, mixes, what is made and where it goes.
  materials: ["materials"],
  substances: ["materials"],
  sensitivities: ["people"],
  lots: ["lots", "mixes", "runs", "clock"],
  receipts: ["lots", "mixes"],
  stock: ["lots", "mixes", "runs", "copies", "days", "section", "materials", "clock"],
  recalls: ["lots", "kits"],
  recall: ["lots", "kits", "copies", "mixes"],
  lot: ["lots", "mixes", "runs", "copies", "kits", "clock"],
  recipes: ["recipes", "materials"],
  recipe: ["recipes", "materials"],
  trials: ["recipes"],
  tried: ["tried", "materials"],
  "kept files": ["lots", "materials", "recipes"],
  wanted: ["section", "runs", "materials", "recipes"],
  exposures: ["mixes"],
  mixes: ["mixes"],
  mix: ["mixes", "moulds", "copies", "runs"],
  pots: ["pots", "moulds", "runs", "clock"],
  runs: ["runs", "pots", "copies", "mixes", "clock"],
  run: ["runs", "pots", "copies", "mixes", "clock"],
  "coat plans": ["runs", "pots", "clock"],
  buildup: ["runs", "pots", "clock"],
  places: ["pots", "clock"],
  night: ["pots", "clock"],
  match: ["section", "brief", "colours", "materials", "lots", "days"],
  "colour room": ["section", "brief", "colours", "mixes", "days"],
  injury: ["brief", "colours"],
  palettes: ["colours", "brief"],
  swatches: ["colours"],
  lights: ["colours"],
  cards: ["colours"],
  pigments: ["colours", "materials", "lots"],
  "day colours": ["colours", "kits"],
  paint: ["colours", "section", "materials"],
  curve: ["pots", "clock"],
  "comes out": ["copies", "section"],
  "help along": ["runs", "pots", "clock"],
  paces: ["pots"],
  copies: ["copies", "runs", "pots", "kits"],
  copy: ["copies", "runs", "moulds"],
  features: ["copies", "brief"],
  "piece work": ["copies", "section", "brief", "finish"],
  edges: ["copies", "section", "brief"],
  "finish plan": ["finish", "copies", "section", "brief"],
  "texture marks": ["texture"],
  beside: ["copies", "pieces", "texture"],
  "copy trials": ["copies", "section"],
  "fault kinds": ["section"],
  faults: ["copies"],
  fault: ["copies", "mixes", "runs", "moulds", "section"],
  proposals: ["copies"],
  yields: ["copies"],
  samples: [],
  "touch-ups": ["colours"],
  kits: ["kits"],
  kit: ["kits", "copies"],
  "kit contents": ["kits", "copies", "lots", "section", "brief", "days", "colours"],
  "kit chair": ["kits", "section", "brief", "days"],
  "hair routines": [],
  "not reached": ["kits", "lots"],
  incidents: ["kits", "section"],
  workshop: ["kits"],
  "kit-sheet": ["kits", "copies", "section", "colours"],
  trace: ["kits", "copies", "mixes", "lots"],
  artists: ["kits"],
} as const satisfies Record<string, readonly string[] | "any">;

export type Head = keyof typeof readsOf;
type Named<T> = T extends readonly (infer W)[] ? W : never;
/** What a hint or an act may be about. */
export type Topic = Named<(typeof readsOf)[Head]>;

/**
 * Reads whose key has the code of one thing in second place, and hints that
 * always name one of the same kind: another one's change does not touch them.
 */
const oneOf: Partial<Record<Head, Topic[]>> = {
  section: ["section", "texture"],
  texture: ["section", "texture"],
  piece: ["section", "texture"],
  outlook: ["section"],
  mix: ["mixes"],
  kit: ["kits"],
  "kit-sheet": ["kits"],
  "kit contents": ["kits"],
  "kit chair": ["kits"],
  lot: ["lots"],
};

/** Whether these changes touch what is read under this key. */
export function touches(key: readonly unknown[], changes: readonly Change[]): boolean {
  const head = key[0] as Head;
  const on: readonly string[] | "any" | undefined = readsOf[head];
  // A key that is not listed is read again: better once too often than stale.
  if (on === undefined || on === "any") return true;
  const kind: readonly string[] = oneOf[head] ?? [];
  return changes.some((c) => on.includes(c.topic) && !(c.code && kind.includes(c.topic) && c.code !== key[1]));
}
