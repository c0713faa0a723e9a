import { Box, Flex } from "@chakra-ui/react";
import { memo, useCallback, useMemo, useState } from "react";
import type { Schemas } from "../../app/api";
import { useKey } from "../../app/keys";
import { Pick } from "../controls";
import type { Net, Point } from "./form";
import { useForm } from "./useForm";
import { type MapMark, WearerMap } from "./WearerMap";

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
  const [hidden, setHidden] = useState<Set<string>>(() => new Set());
  const [chosen, choose] = useState<Chosen>();
  const [drawing, setDrawing] = useState<Point[]>();
  return {
    sheet,
    setSheet,
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
  /** Where the map of what is in hand is printed from. */
  print?: string;
  /** The room's arrow keys turn it. */
  keys?: boolean;
}

/** The wearer's map with its sides and layers. */
export function MapDesk(props: Props) {
  const { desk, performer, stamps, pieces, look, wearer, areas, openings, kinds, edit, title, print, keys = true } = props;
  // From which side is the map's own matter: turning it asks nothing of the leaves beside it.
  const [side, setSide] = useState<{ sheet: string; yaw: number; pitch: number }>();
  const { yaw, pitch } = side?.sheet === desk.sheet ? side : { yaw: 0, pitch: 0 };
  const turn = useCallback((y: number, p: number) => setSide({ sheet: desk.sheet, yaw: y, pitch: p }), [desk.sheet]);
  const { net, view, sight } = useForm(performer, desk.sheet, stamps[desk.sheet], yaw, pitch);
  const step = (by: number) => net && turn(...turned(net, yaw, pitch, [by, 0]));
  useKey("ArrowLeft", "turn the wearer", keys ? () => step(-1) : undefined);
  useKey("ArrowRight", "turn the wearer", keys ? () => step(1) : undefined);
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
      <Flex gap="4px 9px" wrap="wrap" align="center" fontSize="14px" mb="2px">
        <PartPick sheet={desk.sheet} set={desk.setSheet} used={used} />
        {net && net.yaws.length > 1 && <SideWords net={net} yaw={yaw} pitch={pitch} turn={turn} />}
        {print && (
          <Box asChild ms="auto" textDecoration="underline">
            <a href={`${print}&sheet=${desk.sheet}&yaw=${yaw}&pitch=${pitch}`} target="_blank" rel="noreferrer">
              print it
            </a>
          </Box>
        )}
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
            turn={(dx, dy) => turn(...turned(net, yaw, pitch, [dx, dy]))}
            label={`${title}, ${sheetText[desk.sheet]}, seen from ${sides.find((s) => s[1] === yaw && s[2] === pitch)?.[0] ?? `${yaw} degrees`}`}
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

/** The sides of the form in words. */
function SideWords({ net, yaw, pitch, turn }: { net: Net; yaw: number; pitch: number; turn: (y: number, p: number) => void }) {
  return sides
    .filter(([, y, p]) => net.yaws.includes(y) && net.pitches.includes(p))
    .map(([text, y, p]) => <SideWord key={text} text={text} yaw={y} pitch={p} chosen={yaw === y && pitch === p} turn={turn} />);
}

const SideWord = memo(function SideWord({
  text,
  yaw,
  pitch,
  chosen,
  turn,
}: {
  text: string;
  yaw: number;
  pitch: number;
  chosen: boolean;
  turn: (y: number, p: number) => void;
}) {
  return (
    <Box
      as="button"
      px="3px"
      fontWeight={chosen ? 700 : 400}
      textDecoration={chosen ? "none" : "underline"}
      color={chosen ? "ink" : "muted"}
      aria-pressed={chosen}
      onClick={() => turn(yaw, pitch)}
    >
      {text}
    </Box>
  );
});

/** Which part of the body is looked at; those with something on them bear a dot. */
const PartPick = memo(function PartPick({ sheet, set, used }: { sheet: string; set: (s: string) => void; used: Set<string> }) {
  return (
    <Pick label="Part of the map" value={sheet} set={set} width="176px">
      {Object.entries(sheetText).map(([name, text]) => (
        <option key={name} value={name}>
          {text}
          {used.has(name) ? " ·" : ""}
        </option>
      ))}
    </Pick>
  );
});

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
