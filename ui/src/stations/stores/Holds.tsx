import { Box, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useSubstances } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { fields } from "../../parts/Room";

type Says = Schemas["StoresStated"]["says"];

/** What a product holds and is free of, by its sheets: the rules of every piece and of every hand go by it. */
export function Holds({ p }: { p: Schemas["CraftMaterialProduct"] }) {
  const substances = useSubstances();
  const [substance, setSubstance] = useState("");
  const [says, setSays] = useState<Says>("contains");
  const [source, setSource] = useState("");
  const state = useAct(async () => {
    await ask(api.POST("/api/materials/{slug}/contents", { params: { path: { slug: p.slug } }, body: { substance, says, source } }));
    setSubstance("");
    setSource("");
  });
  const name = (code: string) => substances.data?.find((s) => s.code === code)?.name ?? code;
  const told = (code: string) => p.sources?.[`substance ${code}`];
  const list = (codes: string[] | null | undefined) => (codes ?? []).map((c) => (told(c) ? `${name(c)} (${told(c)})` : name(c))).join(", ");
  return (
    <Box data-testid="holds">
      <Heading>What it holds</Heading>
      <Box>{p.contains?.length ? `Holds or gives off: ${list(p.contains)}.` : "Nothing is written down that it holds."}</Box>
      {!!p.free_of?.length && <Box>Free of: {list(p.free_of)}.</Box>}
      <Box layerStyle="small">What stands in neither is not known, and is asked where it matters.</Box>
      <Grid templateColumns={fields("1.3fr 0.9fr 1.6fr auto")} gap="8px" mt="6px" alignItems="end">
        <Choose label="Of" name="substance" value={substance} set={setSubstance} problem={state.problem}>
          <option value="">choose a substance</option>
          {substances.data?.map((s) => (
            <option key={s.code} value={s.code}>
              {s.name}
            </option>
          ))}
        </Choose>
        <Choose label="the sheet says" name="says" value={says} set={(s) => setSays(s as Says)} problem={state.problem}>
          <option value="contains">it holds it</option>
          <option value="free of">it is free of it</option>
          <option value="not stated">nothing</option>
        </Choose>
        <Entry label="Which sheet" name="source" value={source} set={setSource} problem={state.problem} placeholder="safety sheet of 3 March" />
        <Plain h="38px" disabled={state.busy || !substance} onClick={() => void state.run()}>
          Write it down
        </Plain>
      </Grid>
      <Refusal problem={state.problem} />
    </Box>
  );
}
