import { millimetres } from "../../parts/format";
import type { Marked } from "../../parts/surface/SurfaceView";
import type { Vec } from "../../parts/surface/surface";
import type { Measured } from "./useScans";

/** The places worth pointing at on a leaf, in the order in which they are listed. */
export function marksOf(leaf: string, m: Measured): Marked[] {
  const at = (v: number[]) => v as Vec;
  if (leaf === "Thickness")
    return [
      ...m.thickness.core_contacts.map((c, i) => ({
        key: `contact ${i}`,
        at: at(c.at),
        tone: "heather" as const,
        words: `core contact, ${(c.area_mm2 / 100).toFixed(1)} cm²`,
      })),
      ...m.thin.map((c, i) => ({
        key: `thin ${i}`,
        at: at(c.at),
        tone: "gorse" as const,
        words: `thin, ${millimetres(c.depth_mm)} over ${(c.area_mm2 / 100).toFixed(1)} cm²`,
      })),
    ];
  if (leaf === "Pull")
    return [
      ...m.undercuts
        .filter((u) => u.value > 5)
        .map((u, i) => ({ key: `undercut ${i}`, at: at(u.at), tone: "rust" as const, words: `locks, ${(u.value / 100).toFixed(1)} cm²` })),
      ...m.vents.map((u, i) => ({ key: `vent ${i}`, at: at(u.at), tone: "yew" as const, words: "air is caught: vent" })),
    ];
  return [];
}
