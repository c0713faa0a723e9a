import type { Schemas } from "../../app/api";

type Doc = Schemas["PieceBrief"];

export interface Difference {
  what: string;
  before: string;
  after: string;
}

const plain: [keyof Doc, string][] = [
  ["asked", "asked"],
  ["decided", "decided"],
  ["camera", "camera"],
  ["camera_m", "nearest, m"],
  ["backdrop", "backdrop"],
  ["wear_hours", "worn, hours"],
  ["exertion", "exertion"],
  ["speech", "speech"],
  ["water", "water"],
  ["stunt", "stunt"],
  ["area_cm2", "skin, cm²"],
  ["worn", "where exactly"],
  ["limit_minor", "limit"],
];

/** What two versions of a brief say differently, in words. */
export function differences(a: Doc, b: Doc): Difference[] {
  const out: Difference[] = [];
  const note = (what: string, before: string, after: string) => {
    if (before !== after) out.push({ what, before, after });
  };
  const word = (v: unknown) => (v === true ? "yes" : v === false || v === 0 ? "" : String(v ?? ""));
  for (const [name, text] of plain) note(text, word(a[name]), word(b[name]));
  note("stays free", [...a.keep_free].sort().join(", "), [...b.keep_free].sort().join(", "));
  note(
    "way out",
    [a.way_out.closure, a.way_out.minutes, a.way_out.helpers].filter(Boolean).join(", "),
    [b.way_out.closure, b.way_out.minutes, b.way_out.helpers].filter(Boolean).join(", "),
  );
  const rows = <T extends object>(what: string, x: T[], y: T[], id: (row: T) => string, say: (row: T) => string) => {
    for (const key of new Set([...x, ...y].map(id))) {
      const [p, q] = [x.find((r) => id(r) === key), y.find((r) => id(r) === key)];
      note(`${what}${(q ?? p) && say((q ?? p) as T) ? "" : " (empty)"}`, p ? say(p) : "", q ? say(q) : "");
    }
  };
  rows(
    "wish",
    a.wishes,
    b.wishes,
    (w) => w.id,
    (w) => [w.text, w.state, w.decision, w.decided_by].filter(Boolean).join(": "),
  );
  rows(
    "feature",
    a.features,
    b.features,
    (f) => f.id,
    (f) => [f.text, f.region].filter(Boolean).join(", "),
  );
  rows(
    "question",
    a.questions,
    b.questions,
    (q) => q.id,
    (q) => [q.text, q.answer || q.stand_in, q.settled].filter(Boolean).join(": "),
  );
  rows(
    "exaggeration",
    a.exaggeration,
    b.exaggeration,
    (e) => e.region,
    (e) => [e.region, e.level, e.note].filter((v) => v !== "").join(", "),
  );
  rows(
    "step",
    a.steps,
    b.steps,
    (s) => s.id,
    (s) => `${s.text}, ${s.where}, ${s.hours} h`,
  );
  rows(
    "thing",
    a.budget,
    b.budget,
    (i) => i.id,
    (i) => `${i.text}, ${i.origin}, ${(i.cost_minor / 100).toFixed(2)}`,
  );
  const drawn = (m: Doc["marks"][number]) =>
    `${[m.kind.replaceAll("_", " "), m.text, m.how, m.by].filter(Boolean).join(", ")}, ${m.points.length} points at ${m.points
      .map((p) => `${p.u.toFixed(0)}/${p.v.toFixed(0)}`)
      .slice(0, 3)
      .join(" ")}`;
  rows("on the map", a.marks, b.marks, (m) => m.id, drawn);
  return out;
}
