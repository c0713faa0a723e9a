import type { Schemas } from "../../app/api";

/** What one lane does without a pause worth drawing: several steps of one piece are one block. */
export interface Block {
  lane: string;
  piece: string;
  family: string;
  text: string;
  from: number;
  to: number;
  wait: boolean;
  binds: boolean;
  overtime: boolean;
  steps: Schemas["PlanBar"][];
}

/** A pause shorter than this does not part a block, ms. */
const PAUSE = 40 * 60_000;

/** The blocks of every lane, in the order of their begin. */
export function blocks(bars: Schemas["PlanBar"][]): Block[] {
  const out: Block[] = [];
  const last = new Map<string, Block>();
  for (const b of [...bars].sort((x, y) => Date.parse(x.from) - Date.parse(y.from))) {
    const from = Date.parse(b.from);
    const to = Date.parse(b.to);
    const before = last.get(b.lane);
    if (before && b.piece && before.piece === b.piece && before.wait === b.wait && from - before.to <= PAUSE) {
      before.to = Math.max(before.to, to);
      before.binds ||= b.binds;
      before.overtime ||= b.overtime;
      before.steps.push(b);
      before.text = b.piece;
      continue;
    }
    const one: Block = {
      lane: b.lane,
      piece: b.piece,
      family: b.family,
      text: b.text,
      from,
      to,
      wait: b.wait,
      binds: b.binds,
      overtime: b.overtime,
      steps: [b],
    };
    last.set(b.lane, one);
    out.push(one);
  }
  return out;
}
