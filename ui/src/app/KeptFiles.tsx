import { Box, Flex } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Choose, Entry, Heading, Plain, Refusal } from "../parts/controls";
import { dayTime } from "../parts/format";
import { useAct } from "./act";
import { api, ask, type Schemas, upload } from "./api";
import { useRead } from "./read";

type Of = "lot" | "material" | "recipe";
type What = Schemas["StoresKeptFile"]["what"];

const offered: Record<Of, What[]> = {
  lot: ["label", "data sheet", "safety sheet"],
  material: ["data sheet", "safety sheet"],
  recipe: ["swatch"],
};
const titles: Record<Of, string> = { lot: "Label and sheets", material: "Data sheet and safety sheet", recipe: "Swatches" };
const nothing: Record<Of, string> = {
  lot: "None yet: a photograph of the label, its sheets.",
  material: "None yet: the data sheet and the safety data sheet, as PDF or photographed.",
  recipe: "None yet: photograph a swatch or a drop that ran.",
};

/** Pictures and PDFs that are kept with a lot, a product or a recipe. */
export function KeptFiles({ of, code }: { of: Of; code: string }) {
  const query = { of, code };
  const kept = useRead({ queryKey: ["kept files", of, code], queryFn: () => ask(api.GET("/api/kept-files", { params: { query } })) });
  const [file, setFile] = useState<File>();
  const [what, setWhat] = useState<What>(offered[of][0]);
  const [words, setWords] = useState("");
  const chosen = useRef<HTMLInputElement>(null);
  const add = useAct(async () => {
    const form = new FormData();
    if (file) form.set("file", file);
    for (const [name, value] of Object.entries({ ...query, what, words })) form.set(name, value);
    await upload("/api/kept-files", form);
    setFile(undefined);
    setWords("");
    if (chosen.current) chosen.current.value = "";
  });
  const drop = useAct((id: number) => ask(api.DELETE("/api/kept-files/{id}", { params: { path: { id }, query } })));
  const accept = of === "recipe" ? "image/*" : "image/*,application/pdf";
  return (
    <Box>
      <Heading>{titles[of]}</Heading>
      {kept.data?.length === 0 && <Box color="muted">{nothing[of]}</Box>}
      <Flex gap="14px" wrap="wrap">
        {kept.data?.map((k) => {
          const name = k.words ? `${k.what}: ${k.words}` : k.what;
          return (
            <Box key={k.id} maxW="180px">
              {k.media_type === "application/pdf" ? (
                // Saved rather than shown: what was uploaded runs nothing in the shop's own page.
                <a href={`/api/files/${k.sha256}`} download={`${code}-${k.what.replace(" ", "-")}.pdf`} style={{ textDecoration: "underline" }}>
                  {name}, PDF
                </a>
              ) : (
                <a href={`/api/files/${k.sha256}`} target="_blank" rel="noreferrer">
                  <img src={`/api/files/${k.sha256}?width=480`} alt={name} style={{ maxHeight: 150, border: "1.5px solid" }} />
                </a>
              )}
              <Box layerStyle="note">
                {k.media_type !== "application/pdf" && `${name} · `}
                {k.who}, {dayTime(k.added_at)}{" "}
                <Box as="button" textDecoration="underline" aria-label={`Take ${name} away`} onClick={() => void drop.run(k.id)}>
                  take away
                </Box>
              </Box>
            </Box>
          );
        })}
      </Flex>
      <Flex gap="8px" wrap="wrap" align="end" mt="8px">
        <input
          ref={chosen}
          type="file"
          accept={accept}
          aria-label={of === "recipe" ? "Photograph" : "Photograph or PDF"}
          onChange={(e) => setFile(e.target.files?.[0])}
          style={{ maxWidth: 210 }}
        />
        {offered[of].length > 1 && (
          <Choose label="It is the" name="what" value={what} set={(w) => setWhat(w as What)} problem={add.problem} width="130px">
            {offered[of].map((w) => (
              <option key={w}>{w}</option>
            ))}
          </Choose>
        )}
        <Entry label="In a word" name="words" value={words} set={setWords} problem={add.problem} width="150px" />
        <Plain h="40px" disabled={!file || add.busy} onClick={() => void add.run()}>
          Keep it
        </Plain>
      </Flex>
      <Refusal problem={add.problem ?? drop.problem} />
    </Box>
  );
}
