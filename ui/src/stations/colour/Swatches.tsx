import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas, upload } from "../../app/api";
import { useRead } from "../../app/read";
import { useMaterials } from "../../app/reads";
import { useSettled } from "../../app/useSettled";
import { Choose, Entry, Go, Heading, Narrow, Plain, Refusal } from "../../parts/controls";
import { day, millimetres } from "../../parts/format";
import { columns } from "../../parts/Room";
import { figures, hex, shows } from "./colours";
import { noReading, ReadingFields, readBy, sent } from "./Reading";

type Swatch = Schemas["ColourSwatch"];

/** The book of swatches: every colour that was made, with what is in it and how it aged. */
export function Swatches({ piece }: { piece: string }) {
  const [q, setQ] = useState("");
  const [near, setNear] = useState<Swatch>();
  const words = useSettled(q);
  const list = useRead({
    queryKey: ["swatches", words, near ? String(near.id) : ""],
    queryFn: () =>
      ask(
        api.GET("/api/swatches", {
          params: { query: { q: words || undefined, ...(near ? { l: near.now.lab.l, a: near.now.lab.a, b: near.now.lab.b } : {}) } },
        }),
      ),
    placeholderData: (before) => before,
  });
  const [open, setOpen] = useState<number>();
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 340px")} gap="36px" data-testid="swatches">
      <Box minW="0">
        <Flex gap="12px" mb="12px" align="center" wrap="wrap">
          <Narrow what="swatches" value={q} set={setQ} width="240px" />
          {near && (
            <Box>
              nearest to <b>{near.name}</b>{" "}
              <Box as="button" textDecoration="underline" onClick={() => setNear(undefined)}>
                no longer
              </Box>
            </Box>
          )}
          <a href={`/api/swatches/sheet.pdf${words ? `?q=${encodeURIComponent(words)}` : ""}`}>The book to print, at true size</a>
        </Flex>
        <Flex wrap="wrap">
          {list.data?.map((w) => (
            <Box key={w.id} w={{ base: "50%", md: "33.33%", xl: "25%" }} data-swatch={w.id}>
              <Box bg={hex(w.now.lab)} h="92px" role="img" aria-label={`${w.name}: ${figures(w.now.lab)}`} />
              <Box py="6px" pe="10px" lineHeight="1.25">
                <b>{w.name}</b>
                {w.off !== undefined && <b>, {w.off.toFixed(1)} away</b>}
                <Box fontSize="13.5px">
                  {w.medium}
                  {w.thickness_mm ? `, ${millimetres(w.thickness_mm)}` : ""}
                  {w.piece && `, ${w.piece}`}
                </Box>
                <Box fontSize="13px">
                  {figures(w.now.lab)} ±{w.now.uncertainty.toFixed(1)}
                  {!shows(w.now.lab) && ", beyond this screen"}
                  {w.aged !== undefined && `; aged by ${w.aged.toFixed(1)} since ${day(w.at)}`}
                </Box>
                <Flex gap="12px" fontSize="13.5px">
                  <Box as="button" textDecoration="underline" onClick={() => setNear(w)}>
                    find near ones
                  </Box>
                  <Box as="button" textDecoration="underline" onClick={() => setOpen(open === w.id ? undefined : w.id)}>
                    {open === w.id ? "close" : "open"}
                  </Box>
                </Flex>
                {open === w.id && <More swatch={w} />}
              </Box>
            </Box>
          ))}
        </Flex>
        {list.data?.length === 0 && (
          <Box>{q ? "No swatch has these words." : "The book is empty. Keep a colour here, or from a drawdown under Mixed and read."}</Box>
        )}
      </Box>
      <Keep piece={piece} />
    </Grid>
  );
}

function More({ swatch: w }: { swatch: Swatch }) {
  const [reading, setReading] = useState(noReading());
  const again = useAct(async () => {
    await ask(api.POST("/api/swatches/{id}/readings", { params: { path: { id: w.id } }, body: sent(reading, "") }));
    setReading(noReading(reading.source));
  });
  const shoot = useAct((file: File) => {
    const form = new FormData();
    form.append("file", file);
    return upload<Swatch>(`/api/swatches/${w.id}/picture`, form);
  });
  return (
    <Box mt="6px" p="8px" bg="deep" fontSize="13.5px">
      {w.parts.map((p) => (
        <Flex key={p.material} gap="8px">
          <Box flex="1">{p.material}</Box>
          {p.per_100_g.toFixed(3)} g in 100
        </Flex>
      ))}
      {w.readings.map((r) => (
        <Box key={r.at}>
          {day(r.at)}: {figures(r.lab)}, {readBy[r.source]}
          {r.note && `, ${r.note}`}, {r.by}
        </Box>
      ))}
      {w.mix && <Box>of mix {w.mix}</Box>}
      {w.note && <Box>{w.note}</Box>}
      {w.picture && (
        <a href={`/api/files/${w.picture}`}>
          <img
            src={`/api/files/${w.picture}?width=480`}
            alt={`${w.name} as photographed${w.light ? ` under ${w.light}` : ""}`}
            style={{ maxWidth: "100%" }}
          />
        </a>
      )}
      <label>
        <Box layerStyle="small">{w.picture ? "Another picture of it" : "A picture of it"}</Box>
        <input
          type="file"
          accept="image/*"
          capture="environment"
          aria-label={`Picture of ${w.name}`}
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) void shoot.run(f);
          }}
        />
      </label>
      <Refusal problem={shoot.problem} />
      <Box mt="6px">
        <ReadingFields value={reading} set={setReading} problem={again.problem} field="" />
        <Plain mt="6px" h="34px" disabled={again.busy} onClick={() => void again.run()}>
          Read it again
        </Plain>
        <Refusal problem={again.problem} />
      </Box>
    </Box>
  );
}

function Keep({ piece }: { piece: string }) {
  const materials = useMaterials();
  const list = materials.data?.filter(
    (m) =>
      m.family.startsWith("paint") ||
      ["silicone_addition", "silicone_condensation", "gelatin", "latex", "latex_paste", "foam_latex", "wax", "blood"].includes(m.family),
  );
  const [name, setName] = useState("");
  const [material, setMaterial] = useState("paint-alcohol");
  const [x, setX] = useState("");
  const [light, setLight] = useState("");
  const [note, setNote] = useState("");
  const [reading, setReading] = useState(noReading());
  const keep = useAct(async () => {
    await ask(
      api.POST("/api/swatches", {
        body: {
          name,
          material,
          piece,
          thickness_mm: x.trim() === "" ? undefined : Number(x.replace(",", ".")),
          light,
          note,
          reading: sent(reading),
        },
      }),
    );
    setName("");
    setNote("");
    setReading(noReading(reading.source));
  });
  return (
    <Flex direction="column" gap="9px">
      <Heading>Put a colour into the book</Heading>
      <Entry label="Called" name="name" value={name} set={setName} problem={keep.problem} placeholder="wet slate" />
      <Choose label="Mixed in" name="material" value={material} set={setMaterial} problem={keep.problem}>
        {list?.map((m) => (
          <option key={m.slug} value={m.slug}>
            {m.name}
          </option>
        ))}
      </Choose>
      <Flex gap="10px">
        <Entry label="Thick, mm" name="thickness_mm" value={x} set={setX} problem={keep.problem} />
        <Entry label="Judged under" name="light" value={light} set={setLight} problem={keep.problem} placeholder="daylight" />
      </Flex>
      <ReadingFields value={reading} set={setReading} problem={keep.problem} />
      <Entry label="Note" name="note" value={note} set={setNote} problem={keep.problem} placeholder="one drop more and it turns" />
      <Flex>
        <Go disabled={keep.busy} act={() => void keep.run()}>
          Keep the colour
        </Go>
      </Flex>
      <Refusal problem={keep.problem} />
    </Flex>
  );
}
