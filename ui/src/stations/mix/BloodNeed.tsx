import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useSettled } from "../../app/useSettled";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { fields } from "../../parts/Room";

const nameOf: Record<string, string> = {
  spatter: "spatter",
  arterial: "fresh, bright",
  venous: "fresh, dark",
  aged: "aged",
  gel: "gel",
  scab: "scab",
  edible_fresh: "edible, fresh",
  edible_old: "edible, old",
};
const stainsOf = ["It does not stain", "It stains skin for a day", "It stains cloth and grout", "It stains fabric for good"];

interface Place {
  type: string;
  area: string;
  depth: string;
  runs: string;
  length: string;
}

const number = (text: string) => Number(text.replace(",", "."));

/** How much of a blood a scene takes, place by place and take by take. Nothing of it is recorded: it ends in a pour sheet. */
export function BloodNeed({ slug, makes }: { slug: string; makes: string }) {
  const kinds = useRead({ queryKey: ["blood"], queryFn: () => ask(api.GET("/api/blood")) });
  const of = (kinds.data ?? []).filter((k) => k.product === makes);
  if (of.length === 0) return null;
  return (
    <Box mt="18px">
      <Heading>How much a scene takes</Heading>
      <Scene slug={slug} kinds={of} />
    </Box>
  );
}

function Scene({ slug, kinds }: { slug: string; kinds: Schemas["CraftBloodKind"][] }) {
  const first = (): Place => ({ type: kinds[0].id, area: "12", depth: "", runs: "3", length: "60" });
  const [takes, setTakes] = useState("4");
  const [waste, setWaste] = useState("30");
  const [places, setPlaces] = useState([first()]);
  const asked = useSettled(JSON.stringify({ takes, waste, places }));
  const need = useRead({
    queryKey: ["blood need", asked],
    queryFn: () => {
      const a = JSON.parse(asked) as { takes: string; waste: string; places: Place[] };
      const body = {
        takes: number(a.takes),
        waste_pct: number(a.waste),
        places: a.places.map((p) => ({
          type: p.type as Schemas["MixWetted"]["type"],
          area_cm2: number(p.area),
          depth_mm: p.depth.trim() === "" ? undefined : number(p.depth),
          runs: number(p.runs),
          run_mm: number(p.length),
        })),
      };
      return ask(api.POST("/api/blood/need", { body }));
    },
    retry: false,
    placeholderData: (old) => old,
  });
  const problem = need.error instanceof Problem ? need.error : undefined;
  const change = (i: number, next: Partial<Place>) => setPlaces(places.map((p, at) => (at === i ? { ...p, ...next } : p)));
  const ml = need.data && Math.ceil(need.data.ml);
  return (
    <Box>
      {places.map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a place has no name of its own
        <Grid key={i} templateColumns={fields("1.3fr 1fr 1fr 0.8fr 1fr auto")} gap="8px" alignItems="end" mb="6px">
          <Choose label={i ? "" : "Place"} name={`places[${i}].type`} value={p.type} set={(type) => change(i, { type })} problem={problem}>
            {kinds.map((k) => (
              <option key={k.id} value={k.id}>
                {nameOf[k.id] ?? k.id}
              </option>
            ))}
          </Choose>
          <Entry label="cm²" name={`places[${i}].area_cm2`} value={p.area} set={(area) => change(i, { area })} problem={problem} />
          <Entry
            label="mm deep"
            name={`places[${i}].depth_mm`}
            value={p.depth}
            set={(depth) => change(i, { depth })}
            problem={problem}
            placeholder={String(kinds.find((k) => k.id === p.type)?.depth_mm ?? "")}
          />
          <Entry label="Runs" name={`places[${i}].runs`} value={p.runs} set={(runs) => change(i, { runs })} problem={problem} />
          <Entry label="mm each" name={`places[${i}].run_mm`} value={p.length} set={(length) => change(i, { length })} problem={problem} />
          {places.length > 1 && (
            <Plain h="40px" aria-label={`Leave place ${i + 1} out`} onClick={() => setPlaces(places.filter((_, at) => at !== i))}>
              ×
            </Plain>
          )}
        </Grid>
      ))}
      <Grid templateColumns="1fr 1fr auto" gap="8px" alignItems="end">
        <Entry label="Takes" name="takes" value={takes} set={setTakes} problem={problem} />
        <Entry label="Waste, %" name="waste_pct" value={waste} set={setWaste} problem={problem} />
        <Plain h="40px" onClick={() => setPlaces([...places, first()])}>
          One more place
        </Plain>
      </Grid>
      {problem ? (
        <Refusal problem={problem} />
      ) : (
        need.data && (
          <Box mt="10px">
            <Flex align="baseline" gap="14px" wrap="wrap">
              <Box fontSize="30px" fontWeight="700" lineHeight="1.1">
                {ml} ml
              </Box>
              <Box>
                {need.data.first_ml.toFixed(1)} ml for the first take. <Link to={`/mix?recipe=${slug}&ml=${ml}`}>Weigh {ml} ml</Link>
              </Box>
            </Flex>
            <Box color="muted" fontSize="14px" mt="4px">
              Skins over in about {need.data.skins_min.toFixed(0)} minutes at 21 °C. {stainsOf[need.data.stains]}: try it on the costume's own cloth.
            </Box>
          </Box>
        )
      )}
    </Box>
  );
}
