import type { Schemas } from "../../app/api";
import { duration } from "../../parts/format";

type Step = Schemas["CraftRecipeStep"];

const acts: Record<Step["act"], string> = {
  weigh: "weigh",
  whisk: "whisk",
  stir: "stir",
  rest: "let it rest",
  warm: "warm it",
  de_air: "de-air",
  sieve: "sieve",
  test: "test",
  weigh_back: "weigh the pot back",
  measure_volume: "measure the volume",
};

/** A step in a few words, with its time, speed and warmth. */
export function says(s: Pick<Step, "act" | "seconds" | "speed" | "temp_c">): string {
  let out = acts[s.act];
  if (s.speed) out += `, ${s.speed}`;
  if (s.temp_c) out += ` to ${s.temp_c} °C`;
  if (s.seconds) out += ` ${duration(s.seconds)}`;
  return out;
}

export const actName = (act: Step["act"]) => acts[act];

export const touchWords = (touch: string) =>
  ({
    mouth: "May go to mouth and lip; never to the eye.",
    skin: "For skin outside the keep-out only; not for mouth or lip.",
    off_skin: "Not for skin as it is mixed.",
  })[touch] ?? "";
