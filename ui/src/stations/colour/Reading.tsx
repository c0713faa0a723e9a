import { Box, Flex } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Problem, type Schemas } from "../../app/api";
import { useDevice } from "../../app/reads";
import { Choose, Entry, Plain, WrongAt } from "../../parts/controls";
import { hex } from "./colours";

export type NewReading = Schemas["ColourNewReading"];

/** What is typed or picked of a reading. */
export interface TypedReading {
  source: NewReading["source"];
  l: string;
  a: string;
  b: string;
  file: string;
  fileName: string;
  picture?: Schemas["ColourFromCard"];
}

export const noReading = (source: NewReading["source"] = "lab"): TypedReading => ({ source, l: "", a: "", b: "", file: "", fileName: "" });

/** A typed reading as it is sent. A blank is not sent: the server asks for it, and never takes it for a zero. */
export function sent(r: TypedReading, field = "reading."): NewReading {
  const out: NewReading = { source: r.source };
  if (r.source === "lab" || r.source === "eye") {
    for (const k of ["l", "a", "b"] as const) {
      const text = r[k].trim().replace(",", ".");
      if (text === "") continue;
      const v = Number(text);
      if (!Number.isFinite(v)) throw new Problem(422, "not_a_number", field + k, `“${r[k]}” is no number.`);
      out[k] = v;
    }
  }
  if (r.source === "spectrum") out.file = r.file;
  if (r.source === "picture") out.picture = r.picture;
  return out;
}

const sources: [NewReading["source"], string][] = [
  ["reader", "with the colour reader"],
  ["lab", "typed L a b"],
  ["spectrum", "a file of spectra"],
  ["picture", "from a picture with a grey card"],
  ["eye", "judged by eye beside a swatch"],
];

/** How a reading was taken, in a word or two. */
export const readBy: Record<NewReading["source"], string> = {
  reader: "by the reader",
  lab: "typed",
  spectrum: "by its spectrum",
  picture: "from a picture",
  eye: "by eye",
};

const trust: Record<NewReading["source"], string> = {
  reader: "as good as the instrument repeats itself",
  lab: "as good as the instrument that said so",
  spectrum: "the best there is: other lights are known as well",
  picture: "with a grey card a wide band; without one a guess",
  eye: "the widest band that is not a guess, and said to be one",
};

/** How a colour is read: by instrument, file, picture or eye, each with how far it can be believed. */
export function ReadingFields({
  value,
  set,
  problem,
  field = "reading.",
  only,
}: {
  value: TypedReading;
  set: (r: TypedReading) => void;
  problem?: Problem;
  field?: string;
  only?: NewReading["source"][];
}) {
  const reader = useDevice("reader");
  const offered = sources.filter(([s]) => (!only || only.includes(s)) && (s !== "reader" || reader));
  return (
    <Flex direction="column" gap="8px">
      <Choose
        label="How it is read"
        name={`${field}source`}
        value={value.source}
        set={(s) => set({ ...value, source: s as NewReading["source"] })}
        problem={problem}
      >
        {offered.map(([s, text]) => (
          <option key={s} value={s}>
            {text}
          </option>
        ))}
      </Choose>
      {(value.source === "lab" || value.source === "eye") && (
        <Flex gap="8px">
          {(["l", "a", "b"] as const).map((k) => (
            <Entry
              key={k}
              label={k === "l" ? "L" : k}
              name={field + k}
              value={value[k]}
              set={(v) => set({ ...value, [k]: v })}
              problem={problem}
              width="80px"
            />
          ))}
          {value.l !== "" && value.a !== "" && value.b !== "" && Number.isFinite(Number(value.l) + Number(value.a) + Number(value.b)) && (
            <Box
              alignSelf="flex-end"
              w="60px"
              h="42px"
              bg={hex({ l: Number(value.l), a: Number(value.a), b: Number(value.b) })}
              role="img"
              aria-label="about how that looks"
            />
          )}
        </Flex>
      )}
      {value.source === "spectrum" && (
        <Box>
          <label>
            <Box as="span" layerStyle="small">
              A file of wavelengths and reflectance, 0 to 1
            </Box>
            <input
              type="file"
              accept=".csv,.txt,.tsv,text/*"
              aria-label="File of spectra"
              onChange={async (e) => {
                const f = e.target.files?.[0];
                if (f) set({ ...value, file: await f.text(), fileName: f.name });
              }}
            />
          </label>
          {value.fileName && <Box layerStyle="small">{value.fileName}</Box>}
          <WrongAt problem={problem} name={`${field}file`} />
        </Box>
      )}
      {value.source === "picture" && (
        <>
          <FromPicture set={(picture) => set({ ...value, picture })} />
          <WrongAt problem={problem} name={`${field}picture`} />
        </>
      )}
      <Box layerStyle="small">{trust[value.source]}. Its band stands beside it once it is kept.</Box>
    </Flex>
  );
}

/** Points at a place in a picture and at the grey card in it; the picture stays on this device. */
function FromPicture({ set }: { set: (p: Schemas["ColourFromCard"]) => void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [aim, setAim] = useState<"place" | "card">("place");
  const [grey, setGrey] = useState("119");
  const [seen, setSeen] = useState<{ place?: number[]; card?: number[] }>({});
  const [loaded, setLoaded] = useState(false);
  const [typed, setTyped] = useState({ place: "", card: "" });
  const give = (next: { place?: number[]; card?: number[] }, is = grey) => {
    setSeen(next);
    if (!next.place) return;
    const g = Number(is);
    const card = next.card && Number.isFinite(g) ? [{ seen: next.card, is: [g, g, g] }] : [];
    set({ seen: next.place, patches: card });
  };
  const mean = (x: number, y: number) => {
    const c = canvas.current;
    const at = c?.getContext("2d", { willReadFrequently: true });
    if (!c || !at) return;
    const d = at.getImageData(Math.max(0, x - 4), Math.max(0, y - 4), 9, 9).data;
    const sum = [0, 0, 0];
    for (let i = 0; i < d.length; i += 4) for (let k = 0; k < 3; k++) sum[k] += d[i + k];
    return sum.map((v) => Math.round((4 * v) / d.length));
  };
  const three = (text: string) => {
    const v = text
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    return v.length === 3 && v.every((x) => x >= 0 && x <= 255) ? v : undefined;
  };
  return (
    <Box>
      <input
        type="file"
        accept="image/*"
        aria-label="Picture with a grey card"
        onChange={async (e) => {
          const f = e.target.files?.[0];
          const c = canvas.current;
          if (!f || !c) return;
          const image = await createImageBitmap(f);
          c.width = Math.min(900, image.width);
          c.height = (c.width * image.height) / image.width;
          c.getContext("2d", { willReadFrequently: true })?.drawImage(image, 0, 0, c.width, c.height);
          setLoaded(true);
        }}
      />
      <canvas
        ref={canvas}
        style={{ width: "100%", display: loaded ? "block" : "none", cursor: "crosshair", marginTop: 6 }}
        onClick={(e) => {
          const c = e.currentTarget;
          const box = c.getBoundingClientRect();
          const v = mean(((e.clientX - box.left) * c.width) / box.width, ((e.clientY - box.top) * c.height) / box.height);
          if (v) give({ ...seen, [aim]: v });
          if (aim === "place") setAim("card");
        }}
      />
      {loaded && (
        <Flex gap="8px" mt="6px" align="center" wrap="wrap">
          <Plain h="34px" aria-pressed={aim === "place"} onClick={() => setAim("place")}>
            Point at the place
          </Plain>
          <Plain h="34px" aria-pressed={aim === "card"} onClick={() => setAim("card")}>
            Point at the grey card
          </Plain>
        </Flex>
      )}
      <Flex gap="8px" mt="6px" align="flex-end" wrap="wrap">
        {(["place", "card"] as const).map((k) => (
          <Entry
            key={k}
            label={k === "place" ? "The place, R G B" : "The card, R G B"}
            name={`picture_${k}`}
            value={typed[k] || (seen[k]?.join(" ") ?? "")}
            set={(t) => {
              setTyped({ ...typed, [k]: t });
              const v = three(t);
              if (v) give({ ...seen, [k]: v });
            }}
            width="140px"
          />
        ))}
        <Entry
          label="The card is, sRGB"
          name="picture_is"
          value={grey}
          set={(g) => {
            setGrey(g);
            give(seen, g);
          }}
          width="120px"
        />
      </Flex>
    </Box>
  );
}
