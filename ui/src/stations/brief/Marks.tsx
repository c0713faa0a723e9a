import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../app/api";
import { Choose, Entry, Heading, Pick, Plain } from "../../parts/controls";
import { newId } from "../../parts/id";
import { mirrored, otherSheet, type Point } from "../../parts/map/form";
import type { Desk, Kind, Mark, Owner } from "../../parts/map/MapDesk";
import { fields } from "../../parts/Room";

const ownerText: Record<Owner, string> = { piece: "This piece", look: "The look", wearer: "The wearer" };

interface Props {
  desk: Desk;
  kinds: Kind[];
  regions: Schemas["BriefRegionOutline"][];
  of: Record<Owner, { marks: Mark[]; set?: (next: Mark[]) => void; name: string }>;
  result: Schemas["CraftWearmapResult"];
  pictures: Schemas["PieceReference"][];
}

/** What stands on the map, layer by layer: shown or not, chosen, added, described. */
export function Marks({ desk, kinds, regions, of, result, pictures }: Props) {
  const [owner, setOwner] = useState<Owner>("piece");
  const [kind, setKind] = useState("region");
  const [start, setStart] = useState("");
  const mine = kinds.filter((k) => k.of === owner);
  const k = mine.find((x) => x.name === kind) ?? mine[0];
  const target = of[owner];
  const add = (points: Point[], text: string) => {
    if (!k || !target.set) return;
    const id = newId();
    target.set([...target.marks, { id, kind: k.name as Mark["kind"], sheet: desk.sheet as Mark["sheet"], points, text, how: k.choice[0] ?? "" }]);
    desk.choose({ of: owner, id });
  };
  const begin = () => {
    const r = regions.find((x) => `${x.region}${x.side}` === start);
    if (!r) {
      desk.choose(undefined);
      desk.setDrawing([]);
      return;
    }
    const text = `${r.side === "L" ? "left " : r.side === "R" ? "right " : ""}${r.text}`;
    add(k?.closed ? r.outline : r.outline.slice(0, Math.ceil(r.outline.length / 2)), text);
  };
  const least = k?.closed ? 3 : 2;
  return (
    <Flex direction="column" gap="12px">
      <Box>
        <Heading>Draw</Heading>
        {desk.drawing ? (
          <Flex gap="10px" align="center" wrap="wrap">
            <Box flex="1">
              Touch the map where the {k?.text} runs: {desk.drawing.length} {desk.drawing.length === 1 ? "point" : "points"} set.
            </Box>
            <Plain
              h="34px"
              disabled={desk.drawing.length < least}
              onClick={() => {
                if (desk.drawing) add(desk.drawing, "");
                desk.setDrawing(undefined);
              }}
            >
              Done
            </Plain>
            <Plain h="34px" disabled={desk.drawing.length === 0} onClick={() => desk.setDrawing(desk.drawing?.slice(0, -1))}>
              One back
            </Plain>
            <Plain h="34px" onClick={() => desk.setDrawing(undefined)}>
              Leave it
            </Plain>
          </Flex>
        ) : (
          <Grid templateColumns={fields("1fr 1.2fr 1.4fr auto")} gap="8px" alignItems="end">
            <Choose label="For" name="owner" value={owner} set={(o) => setOwner(o as Owner)}>
              {(Object.keys(of) as Owner[])
                .filter((o) => of[o].set)
                .map((o) => (
                  <option key={o} value={o}>
                    {of[o].name}
                  </option>
                ))}
            </Choose>
            <Choose label="What" name="kind" value={k?.name ?? ""} set={setKind}>
              {mine.map((x) => (
                <option key={x.name} value={x.name}>
                  {x.text}
                </option>
              ))}
            </Choose>
            <Choose label="Beginning with" name="start" value={start} set={setStart}>
              <option value="">points set by hand</option>
              {regions.map((r) => (
                <option key={r.region + r.side} value={`${r.region}${r.side}`}>
                  {r.side === "L" ? "left " : r.side === "R" ? "right " : ""}
                  {r.text}, {r.cm2.toFixed(0)} cm²
                </option>
              ))}
            </Choose>
            <Plain disabled={!target.set} onClick={begin}>
              Draw it
            </Plain>
          </Grid>
        )}
      </Box>
      {of.wearer.set && !of.look.set && (
        <Box layerStyle="note">
          What covers a piece belongs to a look. Write one down on the{" "}
          <Link to={`/brief/${of.piece.name.split("-")[0]}`} style={{ textDecoration: "underline" }}>
            character's page
          </Link>
          , then draw it here.
        </Box>
      )}
      {(Object.keys(of) as Owner[]).map((o) =>
        of[o].marks.length === 0 ? null : (
          <Box key={o}>
            <Heading aside={of[o].set ? undefined : "drawn by leads and fabricators"}>
              {ownerText[o]}
              {o === "look" && of[o].name ? ` ${of[o].name}` : ""}
            </Heading>
            {of[o].marks.map((m) => {
              const chosen = desk.chosen?.of === o && desk.chosen.id === m.id;
              return (
                <Box key={m.id}>
                  <Flex
                    as="button"
                    w="100%"
                    gap="10px"
                    textAlign="left"
                    px="6px"
                    py="2px"
                    bg={chosen ? "heatherSoft" : undefined}
                    borderRadius="6px"
                    aria-expanded={chosen}
                    onClick={() => {
                      if (m.sheet !== desk.sheet) desk.setSheet(m.sheet);
                      desk.choose(chosen ? undefined : { of: o, id: m.id });
                    }}
                  >
                    <Box w="150px">{kinds.find((x) => x.name === m.kind)?.text ?? m.kind}</Box>
                    <Box flex="1" color="muted">
                      {[m.text, m.how, m.by].filter(Boolean).join(", ")}
                    </Box>
                    <Box>{figure(m, result)}</Box>
                  </Flex>
                  {chosen && of[o].set && (
                    <One
                      mark={m}
                      kind={kinds.find((x) => x.name === m.kind)}
                      pictures={pictures}
                      set={(next) => of[o].set?.(of[o].marks.map((x) => (x.id === m.id ? next : x)))}
                      take={() => {
                        of[o].set?.(of[o].marks.filter((x) => x.id !== m.id));
                        desk.choose(undefined);
                      }}
                      mirror={(difference) => {
                        const id = newId();
                        const other = {
                          ...m,
                          id,
                          sheet: otherSheet(m.sheet) as Mark["sheet"],
                          points: mirrored(m.points, difference),
                          text: swapped(m.text ?? ""),
                        };
                        of[o].set?.([...of[o].marks, other]);
                        desk.choose({ of: o, id });
                        if (other.sheet !== desk.sheet) desk.setSheet(other.sheet);
                      }}
                    />
                  )}
                </Box>
              );
            })}
          </Box>
        ),
      )}
      <Box>
        <Heading>Shown</Heading>
        <Flex gap="4px 14px" wrap="wrap">
          {[...kinds.map((x) => [x.name, x.text]), ["keep_out", "keep-out"], ["openings", "openings"]].map(([name, text]) => (
            <Checkbox.Root key={name} size="sm" checked={!desk.hidden.has(name)} onCheckedChange={() => desk.toggle(name)}>
              <Checkbox.HiddenInput />
              <Checkbox.Control borderColor="ink" />
              <Checkbox.Label>{text}</Checkbox.Label>
            </Checkbox.Root>
          ))}
        </Flex>
      </Box>
    </Flex>
  );
}

const swapped = (text: string) => (text.includes("left") ? text.replace("left", "right") : text.replace("right", "left"));

function figure(m: Mark, result: Schemas["CraftWearmapResult"]): string {
  const area = result.areas.find((a) => a.mark === m.id);
  if (m.kind === "region" && area) return `${area.cm2.toFixed(1)} cm²`;
  const edge = result.edges.find((e) => e.mark === m.id);
  return edge ? `${Math.round(edge.mm)} mm` : "";
}

/** One mark in words: what it is for, by whom, traced from which picture. */
function One({
  mark,
  kind,
  pictures,
  set,
  take,
  mirror,
}: {
  mark: Mark;
  kind?: Kind;
  pictures: Schemas["PieceReference"][];
  set: (m: Mark) => void;
  take: () => void;
  mirror: (difference: number) => void;
}) {
  const [difference, setDifference] = useState("0.05");
  const hidden = "Hidden by what, and by whom";
  const byLabel = ({ hair: "Protected with", covered: "What covers", edge: hidden, seam: hidden } as Record<string, string>)[mark.kind];
  return (
    <Box p="8px 10px" mb="6px" bg="deep" borderRadius="4px 14px 14px 14px">
      <Grid templateColumns={fields("1.2fr 1fr 1.3fr")} gap="8px">
        <Entry label="What it is" name="text" value={mark.text ?? ""} set={(text) => set({ ...mark, text })} />
        {kind && kind.choice.length > 0 ? (
          <Choose
            label={kind.name === "edge" || kind.name === "seam" ? "It shall" : "How"}
            name="how"
            value={mark.how ?? ""}
            set={(how) => set({ ...mark, how })}
          >
            {kind.choice.map((c) => (
              <option key={c} value={c}>
                {c}
              </option>
            ))}
          </Choose>
        ) : (
          <Box />
        )}
        {byLabel && <Entry label={byLabel} name="by" value={mark.by ?? ""} set={(by) => set({ ...mark, by })} />}
        {mark.kind === "pull" && (
          <>
            <Entry
              label="Coats"
              name="layers"
              value={String(mark.layers ?? "")}
              set={(t) => set({ ...mark, layers: Math.max(0, Math.min(20, Math.round(Number(t)) || 0)) })}
            />
            <Entry
              label="Held, seconds, until powdered"
              name="hold_s"
              value={String(mark.hold_s ?? "")}
              set={(t) => set({ ...mark, hold_s: Math.max(0, Math.min(3600, Number(t) || 0)) })}
            />
          </>
        )}
        {(mark.kind === "fold" || mark.kind === "pull") && (
          <Choose label="Traced from" name="picture" value={String(mark.picture ?? 0)} set={(t) => set({ ...mark, picture: Number(t) })}>
            <option value="0">no picture</option>
            {pictures.map((p) => (
              <option key={p.id} value={p.id}>
                {p.caption}
              </option>
            ))}
          </Choose>
        )}
      </Grid>
      <Flex gap="10px" mt="8px" align="center" wrap="wrap">
        <Plain h="32px" px="14px" fontSize="14px" onClick={() => mirror(Number(difference))}>
          Mirror it
        </Plain>
        <Pick label="How unlike the other side" value={difference} set={setDifference} width="172px">
          <option value="0">exactly alike</option>
          <option value="0.05">a little unlike</option>
          <option value="0.1">unlike</option>
          <option value="0.2">quite unlike</option>
        </Pick>
        <Plain h="32px" px="14px" fontSize="14px" onClick={take}>
          Take it off
        </Plain>
        <Box layerStyle="small">{mark.points.length} points: drag them on the map, or Tab to one and use the arrows</Box>
      </Flex>
    </Box>
  );
}
