import { colour } from "../colour";

/** How each kind of mark is drawn. Words on the layer say what a line means; colour never does alone. */
export const markStyle: Record<string, { stroke: string; fill: string; dash?: string; width: number }> = {
  region: { stroke: colour("ink"), fill: "url(#hatch-piece)", width: 1 },
  other: { stroke: colour("muted"), fill: "url(#hatch-other)", width: 0.7 },
  hole: { stroke: colour("ink"), fill: colour("sheet"), width: 0.7 },
  divide: { stroke: colour("ink"), fill: "none", dash: "4 1.5 1 1.5", width: 0.8 },
  edge: { stroke: colour("yew"), fill: "none", width: 2.2 },
  seam: { stroke: colour("ink"), fill: "none", dash: "1.4 1.4", width: 1.2 },
  covered: { stroke: colour("muted"), fill: "url(#hatch-covered)", width: 0.6 },
  moving_edge: { stroke: colour("muted"), fill: "url(#hatch-covered)", dash: "3 2", width: 0.9 },
  border: { stroke: colour("heather"), fill: "none", dash: "6 2", width: 1.2 },
  hair: { stroke: colour("wood"), fill: "url(#hatch-hair)", dash: "0.8 1.4", width: 0.8 },
  fold: { stroke: colour("wood"), fill: "none", width: 1.1 },
  pull: { stroke: colour("heather"), fill: "none", width: 1.3 },
  keep_out: { stroke: colour("rust"), fill: "none", dash: "2.4 1.6", width: 1 },
};
