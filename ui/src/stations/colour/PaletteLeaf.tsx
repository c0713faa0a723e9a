import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas, upload } from "../../app/api";
import { useRead } from "../../app/read";
import { Choose, Entry, Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { day } from "../../parts/format";
import { readLab } from "../../parts/lab";
import { apart, figures, hex, useColourRoom } from "./colours";

type Palette = Schemas["ColourPalette"];
type Shared = Schemas["ColourPaletteColour"];
type Day = Schemas["ColourDayLight"];

/** The colours that pieces, hair, hands and headdress of a look share, and how far they are from one another. */
export function PaletteLeaf({ piece }: { piece: string }) {
  const palettes = useRead({
    queryKey: ["palettes", piece],
    queryFn: () => ask(api.GET("/api/pieces/{code}/palettes", { params: { path: { code: piece } } })),
  });
  const room = useColourRoom(piece);
  if (!palettes.data) return null;
  if (palettes.data.length === 0)
    return <Teach>This character has no look yet. Begin one in Brief, on the wearer's map: its colours are shared here.</Teach>;
  return (
    <Flex direction="column" gap="30px">
      {palettes.data.map((p) => (
        <One key={p.look} palette={p} days={room.data?.days ?? []} />
      ))}
    </Flex>
  );
}

function One({ palette, days }: { palette: Palette; days: Day[] }) {
  const keep = useAct((colours: Shared[]) =>
    ask(
      api.PUT("/api/looks/{id}/palette", { params: { path: { id: palette.look } }, body: { colours: colours.map(bare), version: palette.version } }),
    ),
  );
  const [name, setName] = useState("");
  const [lab, setLab] = useState({ l: "", a: "", b: "" });
  const add = useAct(async () => {
    const c = readLab(lab);
    await ask(
      api.PUT("/api/looks/{id}/palette", {
        params: { path: { id: palette.look } },
        body: {
          colours: [...palette.colours.map(bare), bare({ name, lab: c, parts: palette.pieces.map((what) => ({ what })), spread: 0 })],
          version: palette.version,
        },
      }),
    );
    setName("");
    setLab({ l: "", a: "", b: "" });
  });
  const change = (i: number, part: Partial<Shared>) => keep.run(palette.colours.map((c, k) => (k === i ? { ...c, ...part } : c)));
  return (
    <Box data-look={palette.look}>
      <Heading aside={palette.pieces.join(", ")}>
        {palette.character}, {palette.name}
      </Heading>
      <Flex direction="column" gap="18px">
        {palette.colours.map((c, i) => (
          <Grid key={c.name} templateColumns={{ base: "1fr", lg: "220px minmax(0,1fr)" }} gap="16px">
            <Box>
              <Box h="70px" bg={hex(c.lab)} role="img" aria-label={`${c.name}: ${figures(c.lab)}`} />
              <b>{c.name}</b>
              <Box fontSize="13px">{figures(c.lab)}</Box>
              <Box fontSize="13px" fontWeight={c.spread > 2 ? 700 : 400}>
                {c.spread > 0 ? `its parts are up to ${c.spread.toFixed(1)} apart: ${c.apart}` : "read it on two parts to compare them"}
              </Box>
              <Box as="button" fontSize="13.5px" textDecoration="underline" onClick={() => void keep.run(palette.colours.filter((_, k) => k !== i))}>
                take it out
              </Box>
            </Box>
            <Parts colour={c} change={async (parts) => (await change(i, { parts })) !== undefined} />
          </Grid>
        ))}
      </Flex>
      <Flex gap="10px" align="flex-end" mt="12px" wrap="wrap">
        <Entry label="A colour that is shared" name="name" value={name} set={setName} problem={add.problem} placeholder="quay grey" width="210px" />
        {(["l", "a", "b"] as const).map((k) => (
          <Entry
            key={k}
            label={k === "l" ? "L" : k}
            name={k}
            value={lab[k]}
            set={(v) => setLab({ ...lab, [k]: v })}
            problem={add.problem}
            width="76px"
          />
        ))}
        <Plain disabled={add.busy || name.trim() === ""} onClick={() => void add.run()}>
          Share it
        </Plain>
      </Flex>
      <Refusal problem={keep.problem ?? add.problem} />
      <Continuity palette={palette} days={days} />
    </Box>
  );
}

/** How the look stood on its days, so that the next day can follow it. */
function Continuity({ palette, days }: { palette: Palette; days: Day[] }) {
  const [on, setOn] = useState("");
  const [note, setNote] = useState("");
  const shoot = useAct(async (file: File) => {
    const form = new FormData();
    form.append("day", on || String(days[0]?.id ?? ""));
    form.append("note", note);
    form.append("file", file);
    await upload<Palette>(`/api/looks/${palette.look}/continuity`, form);
    setNote("");
  });
  return (
    <Box mt="14px">
      {palette.shots.length > 0 && (
        <Flex gap="12px" wrap="wrap" mb="8px">
          {palette.shots.map((x) => (
            <Box key={x.picture + x.at} w="150px" lineHeight="1.25" fontSize="13.5px">
              <a href={`/api/files/${x.picture}`}>
                <img src={`/api/files/${x.picture}?width=480`} alt={`${palette.name} on ${day(x.day)}`} style={{ width: "100%" }} />
              </a>
              <b>{day(x.day)}</b>, {x.place}, {x.light}
              {x.note && <Box>{x.note}</Box>}
            </Box>
          ))}
        </Flex>
      )}
      {days.length > 0 && (
        <Flex gap="10px" align="flex-end" wrap="wrap">
          <Choose label="How it stood on" name={`day of ${palette.look}`} value={on} set={setOn} width="220px">
            {days.map((d) => (
              <option key={d.id} value={d.id}>
                {day(d.day)}, {d.place}
              </option>
            ))}
          </Choose>
          <Entry label="What to see on it" name="note" value={note} set={setNote} problem={shoot.problem} width="200px" />
          <input
            type="file"
            accept="image/*"
            capture="environment"
            aria-label={`Picture of ${palette.name} on its day`}
            onChange={(e) => {
              const f = e.target.files?.[0];
              if (f) void shoot.run(f);
            }}
          />
        </Flex>
      )}
      <Refusal problem={shoot.problem} />
    </Box>
  );
}

/** A colour as it is sent: what follows from it is worked out by the server. */
function bare(c: Shared): Shared {
  return {
    name: c.name,
    lab: c.lab,
    swatch: c.swatch,
    note: c.note,
    spread: 0,
    parts: c.parts.map((p) => ({ what: p.what, lab: p.lab, matches: p.matches })),
  };
}

function Parts({ colour, change }: { colour: Shared; change: (parts: Shared["parts"]) => Promise<boolean> }) {
  const [what, setWhat] = useState("");
  return (
    <Box>
      <Flex wrap="wrap" gap="14px">
        {colour.parts.map((p, i) => (
          <PartOf
            key={p.what}
            part={p}
            set={(next) => change(colour.parts.map((x, k) => (k === i ? next : x)))}
            gone={() => void change(colour.parts.filter((_, k) => k !== i))}
          />
        ))}
      </Flex>
      <Flex gap="8px" mt="8px" align="flex-end">
        <Entry
          label="Also on"
          name={`also on ${colour.name}`}
          value={what}
          set={setWhat}
          placeholder="hair, hands, headdress"
          suggestions={["hair", "hands", "headdress", "costume", "body", "brows"]}
          width="190px"
        />
        <Plain
          disabled={what.trim() === "" || colour.parts.some((p) => p.what === what.trim())}
          onClick={async () => {
            // What was typed stays where it was refused.
            if (await change([...colour.parts, { what: what.trim() }])) setWhat("");
          }}
        >
          Add it
        </Plain>
      </Flex>
    </Box>
  );
}

function PartOf({ part, set, gone }: { part: Shared["parts"][number]; set: (p: Shared["parts"][number]) => Promise<boolean>; gone: () => void }) {
  const [open, setOpen] = useState(false);
  const [lab, setLab] = useState({ l: "", a: "", b: "" });
  const keep = useAct(async () => {
    if (await set({ ...part, lab: readLab(lab) })) setOpen(false);
  });
  return (
    <Box w="150px" lineHeight="1.25">
      <Box h="48px" bg={part.lab ? hex(part.lab) : "transparent"} borderWidth={part.lab ? "0" : "1.5px"} borderStyle="dashed" borderColor="ink" />
      <b>{part.what}</b>
      <Box fontSize="13px">{part.off === undefined ? "not read there yet" : `${part.off.toFixed(1)} off, ${apart(part.off)}`}</Box>
      <Flex gap="10px" fontSize="13.5px">
        <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
          {open ? "close" : "read it"}
        </Box>
        <Box as="button" textDecoration="underline" onClick={gone}>
          out
        </Box>
      </Flex>
      {open && (
        <Box>
          {(["l", "a", "b"] as const).map((k) => (
            <Entry key={k} label={k === "l" ? "L" : k} name={k} value={lab[k]} set={(v) => setLab({ ...lab, [k]: v })} problem={keep.problem} />
          ))}
          <Plain h="34px" mt="4px" onClick={() => void keep.run()}>
            Keep
          </Plain>
        </Box>
      )}
    </Box>
  );
}
