import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useDevice, useRegions } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal, WrongAt } from "../../parts/controls";
import { day } from "../../parts/format";
import { labToHex } from "../../parts/lab";
import { fields } from "../../parts/Room";

type BodyOf = Schemas["BriefBody"];

/** What is measured of the wearer, and how their skin reads. */
export function Body({ id, part }: { id: number; part: string }) {
  const body = useRead({ queryKey: ["body", id], queryFn: () => ask(api.GET("/api/performers/{id}/body", { params: { path: { id } } })) });
  if (!body.data) return null;
  return (
    <Flex direction="column" gap="16px">
      <Skin body={body.data} />
      <Measures body={body.data} part={part.startsWith("palm") ? "hand" : part.split("_")[0]} />
    </Flex>
  );
}

function Measures({ body, part }: { body: BodyOf; part: string }) {
  const [name, setName] = useState("");
  const [typed, setTyped] = useState("");
  const measure = useAct(async () => {
    await ask(api.POST("/api/performers/{id}/measures", { params: { path: { id: body.id } }, body: { name: name || list[0]?.name || "", typed } }));
    setTyped("");
  });
  const erase = useAct((n: string) => ask(api.DELETE("/api/performers/{id}/measures/{name}", { params: { path: { id: body.id, name: n } } })));
  const list = body.measures.filter((m) => m.part === part);
  const [own, setOwn] = useState(false);
  const taken = body.measures.filter((m) => m.mm > 0);
  return (
    <Box>
      <Heading aside="the form on the map follows them">Measurements</Heading>
      {taken.length === 0 && <Box color="muted">None yet: the map shows a usual form. A few lengths make its areas this wearer's own.</Box>}
      {taken.map((m) => (
        <Grid key={m.name} templateColumns="1fr 92px 120px 90px 56px" gap="8px" py="1px" lineHeight="1.3">
          <Box title={m.how}>{m.text}</Box>
          <Box fontWeight="600">{m.mm} mm</Box>
          <Box layerStyle="note">{m.part ? `form ${m.form_mm} mm` : "kept beside it"}</Box>
          <Box layerStyle="note">
            {m.by.split(" ")[0]}
            {m.taken_at ? `, ${day(m.taken_at).slice(4)}` : ""}
          </Box>
          <Box
            as="button"
            color="muted"
            fontSize="13px"
            textDecoration="underline"
            aria-label={`erase ${m.text}`}
            onClick={() => void erase.run(m.name)}
          >
            erase
          </Box>
        </Grid>
      ))}
      <Grid templateColumns={fields("1.5fr 1fr auto")} gap="8px" mt="8px" alignItems="end">
        {own ? (
          <Entry label="A measurement of our own" name="name" value={name} set={setName} problem={measure.problem} placeholder="hat size inside" />
        ) : (
          <Choose
            label="Measured"
            name="name"
            value={name || list[0]?.name || ""}
            set={(n) => {
              setOwn(n === "*");
              setName(n === "*" ? "" : n);
            }}
            problem={measure.problem}
          >
            {list.map((m) => (
              <option key={m.name} value={m.name}>
                {m.text}, {m.how}
              </option>
            ))}
            <option value="*">something else …</option>
          </Choose>
        )}
        <Entry label="Length" name="typed" value={typed} set={setTyped} problem={measure.problem} placeholder="565 mm, 22 1/4 in" />
        <Plain disabled={measure.busy} onClick={() => void measure.run()}>
          Write it down
        </Plain>
      </Grid>
      <Refusal problem={measure.problem ?? erase.problem} />
    </Box>
  );
}

function Skin({ body }: { body: BodyOf }) {
  const regions = useRegions();
  const [region, setRegion] = useState("forehead");
  const [side, setSide] = useState<"" | "L" | "R">("");
  const sided = regions.data?.find((r) => r.name === region)?.sided;
  const reader = useDevice("reader");
  const [chosen, setSource] = useState<"reader" | "lab" | "srgb" | "spectrum">();
  const source = chosen ?? (reader ? "reader" : "lab");
  const [three, setThree] = useState("");
  const [file, setFile] = useState({ text: "", name: "" });
  const [open, setOpen] = useState<string>();
  const read = useAct(async () => {
    const v = three
      .split(/[\s,;/]+/)
      .filter(Boolean)
      .map(Number);
    await ask(
      api.POST("/api/performers/{id}/skin", {
        params: { path: { id: body.id } },
        body: {
          region,
          side: sided ? side : "",
          source,
          ...(source === "lab" && v.length === 3 ? { lab: { l: v[0], a: v[1], b: v[2] } } : {}),
          ...(source === "srgb" && v.length === 3 ? { srgb: v } : {}),
          ...(source === "spectrum" ? { file: file.text } : {}),
        },
      }),
    );
    if (source !== "reader") setThree("");
    setFile({ text: "", name: "" });
  });
  return (
    <Box>
      <Heading aside="three or more at each place">Skin read</Heading>
      {body.skin.length === 0 && <Box color="muted">Not read yet. Read bare skin three to five times at each place, without pressing.</Box>}
      <Grid templateColumns="1fr 1fr" gap="6px 18px">
        {body.skin.map((s) => (
          <Box key={s.region + s.side}>
            <Flex
              as="button"
              gap="10px"
              w="100%"
              textAlign="left"
              align="center"
              aria-expanded={open === s.region + s.side}
              onClick={() => setOpen(open === s.region + s.side ? undefined : s.region + s.side)}
            >
              <Box w="44px" h="34px" bg={s.hex} borderWidth="1px" borderColor="ink" flexShrink="0" />
              <Box lineHeight="1.25">
                {s.side === "L" ? "left " : s.side === "R" ? "right " : ""}
                {s.text}{" "}
                <Box as="span" layerStyle="small">
                  {s.ita_class}, ITA {s.ita.toFixed(0)}°
                </Box>
                <Box fontSize="13.5px">
                  L* {s.result.mean_lab.l.toFixed(1)} a* {s.result.mean_lab.a.toFixed(1)} b* {s.result.mean_lab.b.toFixed(1)}
                  <Box as="span" color={s.result.uncertain ? "gorse" : "muted"}>
                    {" "}
                    ± {s.result.mcdm.toFixed(2)} ΔE
                    {s.result.uncertain ? ", uncertain" : ""}
                  </Box>
                </Box>
              </Box>
            </Flex>
            {open === s.region + s.side && (
              <Flex gap="4px" wrap="wrap" mt="4px" fontSize="13px">
                {s.readings.map((r) => (
                  <Box key={r.id} textAlign="center" opacity={r.kept ? 1 : 0.7} title={`${r.source}, ${r.by}`}>
                    <Box w="52px" h="20px" bg={labToHex(r.lab.l, r.lab.a, r.lab.b)} borderWidth="1px" borderColor={r.kept ? "ink" : "rust"} />
                    {r.kept ? r.lab.l.toFixed(1) : "put aside"}
                  </Box>
                ))}
                {s.guess && <Box color="gorse">From a camera's or a screen's colours: a guess, unless a grey card was in the picture.</Box>}
              </Flex>
            )}
          </Box>
        ))}
      </Grid>
      <Grid templateColumns={sided ? "1fr 96px 1.1fr 1fr auto" : "1fr 1.1fr 1.1fr auto"} gap="8px" mt="8px" alignItems="end">
        <Choose label="Where" name="region" value={region} set={setRegion} problem={read.problem}>
          {regions.data?.map((r) => (
            <option key={r.name} value={r.name}>
              {r.text}
            </option>
          ))}
        </Choose>
        {sided && (
          <Choose label="Side" name="side" value={side} set={(v) => setSide(v as typeof side)} problem={read.problem}>
            <option value="">not said</option>
            <option value="L">left</option>
            <option value="R">right</option>
          </Choose>
        )}
        <Choose label="With" name="source" value={source} set={(s) => setSource(s as typeof source)} problem={read.problem}>
          {reader && <option value="reader">the colour reader</option>}
          <option value="lab">typed L* a* b*</option>
          <option value="srgb">typed sRGB</option>
          <option value="spectrum">a file of spectra</option>
        </Choose>
        {source === "reader" ? (
          <Box />
        ) : source === "spectrum" ? (
          <label>
            <Box layerStyle="small">A column a reading{file.name && `: ${file.name}`}</Box>
            <input
              type="file"
              accept=".csv,.txt,.tsv,text/*"
              aria-label="File of skin spectra"
              onChange={async (e) => {
                const f = e.target.files?.[0];
                if (f) setFile({ text: await f.text(), name: f.name });
              }}
            />
            <WrongAt problem={read.problem} name="file" />
          </label>
        ) : (
          <Entry
            label={source === "lab" ? "L* a* b*" : "R G B"}
            name={source}
            value={three}
            set={setThree}
            problem={read.problem}
            placeholder={source === "lab" ? "61.2 10.1 17.9" : "178 142 119"}
          />
        )}
        <Plain disabled={read.busy} onClick={() => void read.run()}>
          {source === "reader" ? "Read" : "Keep"}
        </Plain>
      </Grid>
      <Refusal problem={read.problem} />
    </Box>
  );
}
