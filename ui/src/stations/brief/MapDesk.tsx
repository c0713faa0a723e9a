import { Box, Flex } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import type { Schemas } from "../../app/api";
import { Pick } from "../../parts/controls";
import type { Point } from "../../parts/map/form";
import { useForm } from "../../parts/map/useForm";
import { type MapMark, WearerMap } from "../../parts/map/WearerMap";

export type Mark = Schemas["CraftWearmapMark"];
export type Kind = Schemas["CraftWearmapKind"];
export type Owner = "piece" | "look" | "wearer";

export interface Chosen {
  of: Owner;
  id: string;
}

export const sheetText: Record<string, string> = {
  head: "head and neck",
  hand_back_L: "back of the left hand",
  hand_back_R: "back of the right hand",
  palm_L: "left palm",
  palm_R: "right palm",
  forearm_L: "left forearm",
  forearm_R: "right forearm",
  belly: "waist",
};

const sides: [string, number, number][] = [
  ["front", 0, 0],
  ["left", 90, 0],
  ["right", -90, 0],
  ["back", 180, 0],
  ["from below", 0, -45],
  ["from above", 0, 45],
];

export interface Desk {
  sheet: string;
  setSheet: (s: string) => void;
  yaw: number;
  pitch: number;
  look: (yaw: number, pitch: number) => void;
  hidden: Set<string>;
  toggle: (kind: string) => void;
  chosen?: Chosen;
  choose: (c: Chosen | undefined) => void;
  /** Points of a mark that is being drawn. */
  drawing?: Point[];
  setDrawing: (p: Point[] | undefined) => void;
}

/** What is shown of a map, and what is in hand on it. */
export function useDesk(first: string): Desk {
  const [sheet, setSheet] = useState(first);
  const [side, setSide] = useState<[number, number]>([0, 0]);
  const [hidden, setHidden] = useState<Set<string>>(() => new Set());
  const [chosen, choose] = useState<Chosen>();
  const [drawing, setDrawing] = useState<Point[]>();
  return {
    sheet,
    setSheet: (s) => {
      setSheet(s);
      setSide([0, 0]);
    },
    yaw: side[0],
    pitch: side[1],
    look: (yaw, pitch) => setSide([yaw, pitch]),
    hidden,
    toggle: (kind) => {
      const next = new Set(hidden);
      if (!next.delete(kind)) next.add(kind);
      setHidden(next);
    },
    chosen,
    choose,
    drawing,
    setDrawing,
  };
}

/** Turns in steps, round the wearer and up or down, as far as the sheet is drawn. */
function turned(net: { yaws: number[]; pitches: number[] }, yaw: number, pitch: number, by: [number, number]): [number, number] {
  let y = yaw + 15 * by[0];
  if (y > 180) y -= 360;
  if (y < -165) y += 360;
  const p = pitch + 45 * by[1];
  return [net.yaws.includes(y) ? y : yaw, net.pitches.includes(p) ? p : pitch];
}

interface Props {
  desk: Desk;
  performer: number;
  stamps: Record<string, string>;
  /** Pieces with what each draws; the first is in hand. */
  pieces: { code: string; name: string; marks: Mark[] }[];
  look: Mark[];
  wearer: Mark[];
  areas: Schemas["CraftWearmapArea"][];
  openings: Schemas["CraftWearmapOpening"][];
  kinds: Kind[];
  edit?: (c: Chosen, points: Point[]) => void;
  title: string;
}

/** The wearer's map with its sides and layers. */
export function MapDesk({ desk, performer, stamps, pieces, look, wearer, areas, openings, kinds, edit, title }: Props) {
  const { net, view, sight } = useForm(performer, desk.sheet, stamps[desk.sheet], desk.yaw, desk.pitch);
  const marks = useMemo(() => {
    const closed = (kind: string) => kinds.find((k) => k.name === kind)?.closed ?? true;
    const put = (of: Owner, list: Mark[], piece?: { code: string; faint: boolean }): MapMark[] =>
      list
        .filter((m) => m.sheet === desk.sheet)
        .map((m) => ({
          id: `${of} ${piece?.faint ? piece.code : ""} ${m.id}`,
          kind: m.kind,
          points: m.points,
          closed: closed(m.kind),
          faint: piece?.faint,
          name: m.text || kinds.find((k) => k.name === m.kind)?.text || m.kind,
          label: labelOf(m, areas, piece?.code, !!piece?.faint),
        }));
    return [
      ...put("look", look),
      ...put("wearer", wearer),
      ...pieces.slice(1).flatMap((p) => put("piece", p.marks, { code: p.code, faint: true })),
      ...put("piece", pieces[0]?.marks ?? [], pieces[0] && { code: pieces[0].code, faint: false }),
      ...(desk.drawing ? [{ id: "drawing", kind: "fold", points: desk.drawing, closed: false, name: "being drawn" }] : []),
    ];
  }, [pieces, look, wearer, areas, kinds, desk.sheet, desk.drawing]);
  const chosen = desk.chosen ? `${desk.chosen.of}  ${desk.chosen.id}` : undefined;
  const used = useMemo(() => new Set<string>([...pieces.flatMap((p) => p.marks), ...look, ...wearer].map((m) => m.sheet)), [pieces, look, wearer]);
  return (
    <Flex direction="column" h="100%" minH="0">
      <Flex gap="4px 12px" wrap="wrap" align="center" fontSize="14px" mb="2px">
        <Pick label="Part of the map" value={desk.sheet} set={desk.setSheet} width="190px">
          {Object.entries(sheetText).map(([name, text]) => (
            <option key={name} value={name}>
              {text}
              {used.has(name) ? " ·" : ""}
            </option>
          ))}
        </Pick>
        {net &&
          net.yaws.length > 1 &&
          sides
            .filter(([, yaw, pitch]) => net.yaws.includes(yaw) && net.pitches.includes(pitch))
            .map(([text, yaw, pitch]) => (
              <Box
                key={text}
                as="button"
                px="3px"
                fontWeight={desk.yaw === yaw && desk.pitch === pitch ? 700 : 400}
                textDecoration={desk.yaw === yaw && desk.pitch === pitch ? "none" : "underline"}
                color={desk.yaw === yaw && desk.pitch === pitch ? "ink" : "muted"}
                aria-pressed={desk.yaw === yaw && desk.pitch === pitch}
                onClick={() => desk.look(yaw, pitch)}
              >
                {text}
              </Box>
            ))}
      </Flex>
      <Box flex="1" minH="0">
        {net && view && sight ? (
          <WearerMap
            view={view}
            net={net}
            sight={sight}
            marks={marks}
            hidden={desk.hidden}
            openings={openings}
            selected={chosen}
            select={(id) => {
              if (!id) return desk.choose(undefined);
              const [of, , name] = id.split(" ");
              desk.choose({ of: of as Owner, id: name });
            }}
            edit={edit && desk.chosen ? (points) => desk.chosen && edit(desk.chosen, points) : undefined}
            place={desk.drawing ? (p) => desk.setDrawing([...(desk.drawing ?? []), p]) : undefined}
            turn={(dx, dy) => desk.look(...turned(net, desk.yaw, desk.pitch, [dx, dy]))}
            label={`${title}, ${sheetText[desk.sheet]}, seen from ${sides.find((s) => s[1] === desk.yaw && s[2] === desk.pitch)?.[0] ?? `${desk.yaw} degrees`}`}
          />
        ) : (
          <Box color="muted" p="40px">
            Fitting the form…
          </Box>
        )}
      </Box>
    </Flex>
  );
}

function labelOf(m: Mark, areas: Props["areas"], code: string | undefined, faint: boolean): [string, string] | undefined {
  if (m.kind === "region") {
    const a = areas.find((x) => x.piece === code && x.mark === m.id);
    if (faint) return [code ?? "", a ? `${a.cm2.toFixed(1)} cm²` : ""];
    return [code ?? "", a ? `${a.cm2.toFixed(1)} cm², edge ${Math.round(a.edge_mm)} mm` : ""];
  }
  if (m.kind === "hair") return [m.text || "hair", m.by ? `protected: ${m.by.split(",")[0]}` : (m.how ?? "")];
  if (m.kind === "covered" || m.kind === "moving_edge") return [m.text || "covered", m.kind === "covered" ? "hidden below it" : "its edge wanders"];
  if (m.kind === "edge" || m.kind === "seam") return [`${m.kind}: ${m.how || "say what for"}`, m.by ?? ""];
  return undefined;
}
