import { Box, Flex } from "@chakra-ui/react";
import { useLayoutEffect, useRef, useState } from "react";
import { useEach } from "../../app/act";
import { api, ask } from "../../app/api";
import { colour } from "../../parts/colour";
import { Entry, Pick, Plain, Refusal } from "../../parts/controls";
import type { About, Shot } from "./bench";

/** Fields of a plain grey scale, sRGB, as they are; those of a colour card are typed. */
const fields: Record<string, [number, number, number]> = {
  "white field": [243, 243, 242],
  "light grey field": [200, 200, 200],
  "grey field, 18 %": [118, 118, 118],
  "dark grey field": [85, 85, 85],
  "black field": [52, 52, 52],
};

/** What a field of a colour card is, as its maker says: three code values; undefined for anything else. */
function typedField(text: string): [number, number, number] | undefined {
  const v = text
    .trim()
    .split(/[\s,;]+/)
    .map(Number);
  return v.length === 3 && v.every((x) => x >= 0 && x <= 255) ? [v[0], v[1], v[2]] : undefined;
}

const another = "a field of colour";

type Doing = "mark" | "card" | "scale";

interface Props {
  shot: Shot;
  title: string;
  /** Landmarks of the picture beside it, to be set here by the same names. */
  names: string[];
  name: string;
  setName: (name: string) => void;
}

/** Sets landmarks, the card's fields and the scale on one picture; saved with every placing. */
export function Marker({ shot, title, names, name, setName }: Props) {
  const [doing, setDoing] = useState<Doing>("mark");
  const [field, setField] = useState("grey field, 18 %");
  const [rgb, setRGB] = useState("");
  const is = field === another ? typedField(rgb) : fields[field];
  const [ends, setEnds] = useState<number[][]>([]);
  const [mm, setMM] = useState("50");
  const about = shot.about;
  // Taps come faster than answers: each goes on top of what the one before it left.
  const latest = useRef(about);
  useLayoutEffect(() => {
    if (about.version >= latest.current.version) latest.current = about;
  }, [about]);
  const save = useEach(async (change: (a: About) => Partial<About>) => {
    const body = { ...latest.current, ...change(latest.current) };
    latest.current = await ask(api.PUT("/api/pictures/{sha}/about", { params: { path: { sha: shot.sha256 } }, body }));
  });
  const w = shot.width;
  const h = shot.height;
  const unit = Math.max(w, h) / 100;
  const put = (x: number, y: number) => {
    if (doing === "mark") {
      if (!name.trim()) return;
      const set = name.trim();
      void save.run((a) => ({ marks: [...a.marks.filter((m) => m.name !== set), { name: set, x, y }] }));
      const next = names.find((n) => n !== name && !about.marks.some((m) => m.name === n));
      if (next) setName(next);
    } else if (doing === "card") {
      if (is) void save.run((a) => ({ fields: [...a.fields, { x, y, is, seen: [0, 0, 0] }] }));
    } else {
      const next = [...ends, [x, y]];
      setEnds(next.length === 2 ? [] : next);
      if (next.length < 2) return;
      const way = Math.hypot((next[1][0] - next[0][0]) * w, (next[1][1] - next[0][1]) * h);
      const said = Number(mm.replace(",", "."));
      if (way > 1 && said > 0) void save.run(() => ({ mm_across: (said * w) / way }));
    }
  };
  return (
    <Box>
      <Flex gap="4px 10px" wrap="wrap" align="center" mb="4px" fontSize="14px">
        <b>{title}</b>
        {(
          [
            ["mark", "landmarks"],
            ["card", "its card"],
            ["scale", "its scale"],
          ] as [Doing, string][]
        ).map(([d, text]) => (
          <Box
            key={d}
            as="button"
            aria-pressed={doing === d}
            textDecoration="underline"
            fontWeight={doing === d ? 700 : 400}
            onClick={() => setDoing(d)}
          >
            {text}
          </Box>
        ))}
      </Flex>
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: every landmark that is set can be moved by the arrow keys. */}
      <svg
        viewBox={`0 0 ${w} ${h}`}
        role="application"
        aria-label={`${title}: ${about.marks.length} landmarks, ${about.fields.length} fields of a card`}
        style={{ width: "100%", maxHeight: 300, display: "block", background: "#8d8d8d", cursor: "crosshair" }}
        onClick={(e) => {
          const m = e.currentTarget.getScreenCTM();
          if (m) put(Math.min(1, Math.max(0, (e.clientX - m.e) / m.a / w)), Math.min(1, Math.max(0, (e.clientY - m.f) / m.d / h)));
        }}
      >
        <image href={`/api/files/${shot.sha256}?width=1600`} width={w} height={h} />
        {about.marks.map((m) => (
          // biome-ignore lint/a11y/useSemanticElements: a mark on a picture cannot be a button of HTML.
          <g
            key={m.name}
            role="button"
            tabIndex={0}
            aria-label={`${m.name}: arrow keys move it, Delete takes it away, D says that it is meant to differ`}
            onClick={(e) => {
              e.stopPropagation();
              setName(m.name);
            }}
            onKeyDown={(e) => {
              const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
              const change = (to: (x: typeof m) => typeof m | undefined) =>
                void save.run((a) => ({ marks: a.marks.flatMap((x) => (x.name === m.name ? (to(x) ?? []) : [x])) }));
              if (by)
                change((x) => ({ ...x, x: Math.min(1, Math.max(0, x.x + (by[0] * 2) / w)), y: Math.min(1, Math.max(0, x.y + (by[1] * 2) / h)) }));
              else if (e.key === "Delete") change(() => undefined);
              else if (e.key === "d") change((x) => ({ ...x, differs: !x.differs }));
              else return;
              e.preventDefault();
              e.stopPropagation();
            }}
          >
            <circle
              cx={m.x * w}
              cy={m.y * h}
              r={2 * unit}
              fill="none"
              stroke={colour(m.differs ? "gorseDot" : "heather")}
              strokeWidth={(m.name === name ? 0.9 : 0.5) * unit}
            />
            <path
              d={`M${m.x * w - 3 * unit} ${m.y * h}h${6 * unit}M${m.x * w} ${m.y * h - 3 * unit}v${6 * unit}`}
              stroke={colour("heather")}
              strokeWidth={0.3 * unit}
            />
            <text
              x={m.x * w + 2.6 * unit}
              y={m.y * h - 2 * unit}
              fill="#fff"
              stroke="#1d1a17"
              strokeWidth={0.5 * unit}
              paintOrder="stroke"
              style={{ fontSize: 2.8 * unit, fontWeight: 700 }}
            >
              {m.name}
            </text>
          </g>
        ))}
        {about.fields.map((f, i) => (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: a field is told by its place in the list.
            key={i}
            x={f.x * w - 1.6 * unit}
            y={f.y * h - 1.6 * unit}
            width={3.2 * unit}
            height={3.2 * unit}
            fill={`rgb(${f.is.join(",")})`}
            stroke="#fff"
            strokeWidth={0.4 * unit}
          />
        ))}
        {ends.map((p) => (
          <circle key={`${p}`} cx={p[0] * w} cy={p[1] * h} r={1.4 * unit} fill={colour("yew")} stroke="#fff" strokeWidth={0.4 * unit} />
        ))}
      </svg>
      <Flex gap="8px" align="end" wrap="wrap" mt="4px">
        {doing === "mark" && (
          <>
            <Entry label="Next landmark" name="landmark" value={name} set={setName} width="150px" suggestions={names} placeholder="brow L" />
            {about.marks.length > 0 && (
              <Plain h="36px" onClick={() => void save.run((a) => ({ marks: a.marks.slice(0, -1) }))}>
                Last one out
              </Plain>
            )}
          </>
        )}
        {doing === "card" && (
          <>
            <Pick label="Field of the card" value={field} set={setField} width="170px">
              {[...Object.keys(fields), another].map((f) => (
                <option key={f}>{f}</option>
              ))}
            </Pick>
            {field === another && (
              <>
                <Entry label="It is, sRGB r g b" name="rgb" value={rgb} set={setRGB} width="150px" placeholder="175 54 60" />
                {!is && <Box layerStyle="small">three values from 0 to 255, as the card's maker says; then tap it</Box>}
              </>
            )}
            {about.fields.length > 0 && (
              <Plain h="36px" onClick={() => void save.run(() => ({ fields: [] }))}>
                No card
              </Plain>
            )}
            <Box layerStyle="small">
              {shot.card ? `${shot.card.quality}: the card itself is ${shot.card.de_mean.toFixed(1)} off` : "tap each field where it lies"}
            </Box>
          </>
        )}
        {doing === "scale" && (
          <>
            <Entry label="Way between two taps, mm" name="mm" value={mm} set={setMM} width="170px" />
            <Box layerStyle="small">{about.mm_across ? `the picture is ${about.mm_across.toFixed(0)} mm wide` : "tap two places"}</Box>
          </>
        )}
      </Flex>
      <Refusal problem={save.problem} />
    </Box>
  );
}
