import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";

export type Scan = Schemas["FormScan"];
export type Measured = Schemas["FormMeasured"];
type Job = Schemas["JobsJob"];

export const going = (j: Job | undefined) => !!j && (j.state === "waiting" || j.state === "running");

/** The scans of a piece or form; asked again every second while something is computed. */
export const useScans = (of: { piece?: string; form?: string }) =>
  useRead({
    queryKey: ["scans", of.piece ?? "", of.form ?? ""],
    queryFn: () => ask(api.GET("/api/scans", { params: { query: of } })),
    refetchInterval: (q) =>
      [...(q.state.data?.scans ?? []), ...(q.state.data?.cores ?? [])].some((s) => going(s.look) || going(s.measuring)) ? 900 : false,
  });

/** What was found on a file, in words of the shop. */
export function seenOn(s: Scan): string[] {
  const l = s.looked;
  if (!l) return [];
  const out: string[] = [];
  const say: Record<string, string> = {
    TRAILING_BYTES: "more bytes behind its end than it says",
    DEGENERATE_TRIANGLES: `${l.degenerate} triangles without a third corner, left out`,
    DUPLICATE_TRIANGLES: `${l.duplicate_faces} triangles twice`,
    HOLES: l.holes === 1 ? "one open edge" : `${l.holes} open edges`,
    NON_MANIFOLD_EDGES: `${l.nonmanifold_edges} edges where three faces meet`,
    INCONSISTENT_WINDING: `${l.flipped_faces} faces look the wrong way`,
    INSIDE_OUT: "inside out",
  };
  for (const w of l.warnings) if (say[w]) out.push(say[w]);
  return out;
}

/** The unit that counts: what somebody said, else the guess. */
export const unitOf = (s: Scan) => s.unit ?? (s.looked && s.looked.unit_name !== "unknown" ? s.looked.unit_name : undefined);
const scales: Record<string, number> = { mm: 1, cm: 10, in: 25.4, m: 1000 };

/** Area in cm² and volume in ml of a surface that was looked at, by its unit. */
export function sizeOf(s: Scan): { cm2: number; ml: number; mm: number[] } | undefined {
  const k = scales[unitOf(s) ?? ""];
  if (!s.looked || !k) return undefined;
  return {
    cm2: (s.looked.area * k * k) / 100,
    ml: (s.looked.volume * k * k * k) / 1000,
    mm: s.looked.box_max.map((x, i) => (x - (s.looked?.box_min[i] ?? 0)) * k),
  };
}
