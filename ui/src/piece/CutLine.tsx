import { Box, Flex } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { api, ask, type Schemas } from "../app/api";
import { useRead } from "../app/read";
import { Plain } from "../parts/controls";
import type { Point } from "../parts/map/form";
import { MapDesk, type Mark, useDesk } from "../parts/map/MapDesk";
import type { Cut } from "../parts/section/geometry";

interface Props {
  piece: Schemas["PieceView"];
  cut: Cut;
  /** Its length on the skin, when it is laid. */
  mm?: number;
  set: (line: Cut["line"]) => void;
  /** Draws the cut as far as its line reaches. */
  reach: (mm: number) => void;
}

/** Where a cut runs on the wearer's map: laid from the middle of the piece to its edge, then moved point by point. */
export function CutLine({ piece, cut, mm, set, reach }: Props) {
  const [open, setOpen] = useState(false);
  const brief = useRead({
    queryKey: ["brief", piece.code, ""],
    queryFn: () => ask(api.GET("/api/pieces/{code}/brief", { params: { path: { code: piece.code } } })),
    enabled: open || !!cut.line,
  });
  const area = brief.data?.doc.marks.find((m) => m.kind === "region");
  const lay = () => area && set({ sheet: area.sheet, points: across(area.points) });
  return (
    <Box mt="8px" fontSize="14.5px">
      <Flex gap="12px" align="center" wrap="wrap">
        <Box color="muted">
          {cut.line ? `Its line is laid on the wearer's map${mm ? `: ${mm} mm on the skin` : ""}.` : "Its line is not laid on the wearer's map yet."}
        </Box>
        {mm !== undefined && Math.abs(mm - cut.half_width_mm) > 0.5 && (
          <Plain h="34px" onClick={() => reach(mm)}>
            Draw it {mm} mm wide, not {cut.half_width_mm}
          </Plain>
        )}
        <Plain h="34px" onClick={() => setOpen(!open)} aria-expanded={open}>
          {open ? "Fold the map in" : "Show it on the map"}
        </Plain>
        {open && area && !cut.line && (
          <Plain h="34px" onClick={lay}>
            Lay the line
          </Plain>
        )}
        {open && cut.line && (
          <Plain h="34px" onClick={() => set(undefined)}>
            Take the line off
          </Plain>
        )}
      </Flex>
      {open && brief.data && !area && <Box color="muted">The brief draws no area yet: draw one there first.</Box>}
      {open && brief.data && area && <OnMap piece={piece} view={brief.data} cut={cut} sheet={cut.line?.sheet ?? area.sheet} set={set} />}
    </Box>
  );
}

function OnMap({
  piece,
  view,
  cut,
  sheet,
  set,
}: {
  piece: Schemas["PieceView"];
  view: Schemas["BriefView"];
  cut: Cut;
  sheet: string;
  set: (line: Cut["line"]) => void;
}) {
  const desk = useDesk(sheet);
  const kinds = useRead({ queryKey: ["map kinds"], queryFn: () => ask(api.GET("/api/map/kinds")), staleTime: Number.POSITIVE_INFINITY });
  const pieces = useMemo(() => {
    const line: Mark[] = cut.line
      ? [{ id: "cut-line", kind: "divide", sheet: cut.line.sheet, points: cut.line.points, text: cut.name || "where it is cut" }]
      : [];
    return [{ code: piece.code, name: piece.name, marks: [...view.doc.marks.filter((m) => m.kind === "region" || m.kind === "hole"), ...line] }];
  }, [piece.code, piece.name, view.doc.marks, cut.line, cut.name]);
  if (!kinds.data) return null;
  return (
    <Box h="330px" mt="8px">
      <MapDesk
        desk={desk}
        performer={piece.performer_id ?? 0}
        stamps={view.stamps}
        pieces={pieces}
        look={[]}
        wearer={[]}
        areas={[]}
        openings={[]}
        kinds={kinds.data}
        title={`Where the section of ${piece.code} runs`}
        edit={(c, points) => {
          if (c.id === "cut-line" && cut.line) set({ ...cut.line, points });
        }}
      />
    </Box>
  );
}

/** From the middle of an area to the point of its outline that lies furthest off, with one point between. */
function across(outline: Point[]): Point[] {
  const n = outline.length;
  const mid = { u: outline.reduce((s, p) => s + p.u, 0) / n, v: outline.reduce((s, p) => s + p.v, 0) / n };
  const far = outline.reduce(
    (best, p) => ((p.u - mid.u) ** 2 + (p.v - mid.v) ** 2 > (best.u - mid.u) ** 2 + (best.v - mid.v) ** 2 ? p : best),
    outline[0],
  );
  const round = (x: number) => Math.round(x * 100) / 100;
  return [mid, { u: (mid.u + far.u) / 2, v: (mid.v + far.v) / 2 }, far].map((p) => ({ u: round(p.u), v: round(p.v) }));
}
