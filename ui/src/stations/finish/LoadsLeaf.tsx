import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { Choose, Entry, Heading, Plain, Teach } from "../../parts/controls";
import { grams, words } from "../../parts/format";
import { columns } from "../../parts/Room";
import { freshId, type PlanDraft } from "./bench";
import { Figure } from "./Figure";
import { Follows } from "./HairLeaf";
import { Out } from "./Out";
import { PlanFoot } from "./PlanFoot";

type Bags = Schemas["CraftPlanBags"];
type Closure = Schemas["CraftPlanClosure"];
const fillers: Bags["filler"][] = ["pulses", "rice", "plastic_pellets", "glass_beads", "dry_sand", "steel_shot"];
const shown: Closure["shown"][] = ["hidden by costume and hair", "faded by colour", "left in view"];

/** What weighs it down, how it opens and shuts, how far it is aged, and where it meets another piece. */
export function LoadsLeaf({ draft, of }: { draft: PlanDraft; of: string }) {
  const { doc, view: v } = draft;
  if (!doc || !v) return null;
  return (
    <>
      <Grid templateColumns={columns("minmax(0,1fr) minmax(0,1fr)")} gap="36px">
        <Box minW="0">
          <Shared draft={draft} />
          <Weights draft={draft} />
          <Closures draft={draft} />
        </Box>
        <Box minW="0">
          <Ageing draft={draft} />
          {!of.startsWith("look-") && <Borders draft={draft} />}
          <Follows draft={draft} />
        </Box>
      </Grid>
      <PlanFoot draft={draft} />
    </>
  );
}

/** What comes from the piece that this one follows; it is changed there. */
function Shared({ draft }: { draft: PlanDraft }) {
  const { doc, view: v } = draft;
  const names = [...(v?.shared?.weights ?? []), ...(v?.shared?.closures ?? [])].map((x) => x.name);
  if (!doc?.follows || names.length === 0) return null;
  return (
    <Box layerStyle="note" mb="10px">
      Shared with {doc.follows}: {names.join(", ")}.
    </Box>
  );
}

function Weights({ draft }: { draft: PlanDraft }) {
  const { doc, view: v } = draft;
  if (!doc || !v) return null;
  const set = (b: Bags, part: Partial<Bags>, now = true) => draft.change({ weights: doc.weights.map((x) => (x === b ? { ...x, ...part } : x)) }, now);
  return (
    <Box>
      <Heading>Weights</Heading>
      {doc.weights.length === 0 && <Teach>What should swing has weight in it: pulses, beads or shot, in bags that are not quite full.</Teach>}
      {doc.weights.map((b) => {
        const came = v.result?.weights.find((w) => w.id === b.id)?.bags;
        return (
          <Box key={b.id} borderBottomWidth="1px" borderColor="line" py="8px">
            <Flex gap="8px" wrap="wrap">
              <Entry label="Where" name="weight name" value={b.name} set={(name) => set(b, { name }, false)} width="210px" />
              <Figure label="together, g" value={b.target_g} set={(target_g) => set(b, { target_g })} />
              <Choose label="Filled with" name="filler" value={b.filler} set={(filler) => set(b, { filler: filler as Bags["filler"] })} width="150px">
                {fillers.map((f) => (
                  <option key={f} value={f}>
                    {words(f)}
                  </option>
                ))}
              </Choose>
              <Figure label="a bag, ml" value={b.bag_ml} set={(bag_ml) => set(b, { bag_ml })} width="90px" />
              <Figure label="filled, %" value={Math.round(100 * b.fill)} set={(f) => set(b, { fill: f / 100 })} width="90px" />
            </Flex>
            <Flex gap="14px" align="center" mt="4px" wrap="wrap">
              <Checkbox.Root checked={b.sweat} onCheckedChange={(e) => set(b, { sweat: e.checked === true })}>
                <Checkbox.HiddenInput />
                <Checkbox.Control borderColor="ink" />
                <Checkbox.Label>worn where one sweats</Checkbox.Label>
              </Checkbox.Root>
              {came && (
                <Box>
                  <b>
                    {came.bags} bags of {grams(came.per_bag_g)}
                  </b>
                  , {(came.volume_ml / 1000).toFixed(1)} l{came.wet_gain_g > 0 && `, and about ${grams(came.wet_gain_g)} of sweat`}
                </Box>
              )}
              <Out act={() => draft.change({ weights: doc.weights.filter((x) => x !== b) }, true)} />
            </Flex>
          </Box>
        );
      })}
      <Plain
        h="34px"
        mt="8px"
        onClick={() =>
          draft.change(
            {
              weights: [
                ...doc.weights,
                { id: freshId("b", doc.weights), name: "belly", filler: "glass_beads", target_g: 500, bag_ml: 60, fill: 0.7, sweat: true },
              ],
            },
            true,
          )
        }
      >
        Add weights
      </Plain>
    </Box>
  );
}

function Closures({ draft }: { draft: PlanDraft }) {
  const { doc, view: v } = draft;
  if (!doc || !v) return null;
  const set = (c: Closure, part: Partial<Closure>, now = true) =>
    draft.change({ closures: doc.closures.map((x) => (x === c ? { ...x, ...part } : x)) }, now);
  return (
    <Box mt="22px">
      <Heading aside={v.result && doc.closures.length > 0 ? `${v.result.don_min} min to don, ${v.result.doff_min} to get out` : undefined}>
        Closures
      </Heading>
      {doc.closures.map((c) => (
        <Box key={c.id} borderBottomWidth="1px" borderColor="line" py="8px">
          <Flex gap="8px" wrap="wrap">
            <Entry label="Where" name="closure name" value={c.name} set={(name) => set(c, { name }, false)} width="250px" />
            <Choose label="It is" name="closure" value={c.sort} set={(sort) => set(c, { sort: sort as Closure["sort"] })} width="120px">
              {["zip", "straps", "hooks", "magnets", "lacing", "touch tape"].map((s) => (
                <option key={s}>{s}</option>
              ))}
            </Choose>
            <Choose label="Its line is" name="shown" value={c.shown} set={(s) => set(c, { shown: s as Closure["shown"] })} width="220px">
              {shown.map((s) => (
                <option key={s}>{s}</option>
              ))}
            </Choose>
            <Figure label="on, min" value={c.don_min} set={(don_min) => set(c, { don_min })} width="80px" />
            <Figure label="open, min" value={c.doff_min} set={(doff_min) => set(c, { doff_min })} width="90px" />
            <Entry label="Cools how" name="cooling" value={c.cooling ?? ""} set={(cooling) => set(c, { cooling }, false)} width="200px" />
          </Flex>
          <Out act={() => draft.change({ closures: doc.closures.filter((x) => x !== c) }, true)} />
        </Box>
      ))}
      <Plain
        h="34px"
        mt="8px"
        onClick={() =>
          draft.change(
            { closures: [...doc.closures, { id: freshId("c", doc.closures), name: "back", sort: "zip", shown: shown[0], don_min: 3, doff_min: 1 }] },
            true,
          )
        }
      >
        Add a closure
      </Plain>
    </Box>
  );
}

const levels = ["new", "used", "worn", "hard worn", "ruined"];

function Ageing({ draft }: { draft: PlanDraft }) {
  const { doc } = draft;
  if (!doc) return null;
  const age = doc.age ?? { level: 0, words: "", reversible: true };
  const set = (part: Partial<typeof age>, now = true) => draft.change({ age: { ...age, ...part } }, now);
  return (
    <Box>
      <Heading aside="mostly last">Aged and dirtied</Heading>
      <Flex gap="8px" wrap="wrap" align="end">
        <Choose label="How far" name="level" value={String(age.level)} set={(l) => set({ level: Number(l) })} width="130px">
          {levels.map((l, i) => (
            <option key={l} value={i}>
              {l}
            </option>
          ))}
        </Choose>
        {age.level > 0 && (
          <>
            <Entry label="Where, and with what" name="age words" value={age.words} set={(w) => set({ words: w }, false)} width="260px" />
            <Choose label="It" name="reversible" value={age.reversible ? "off" : "stays"} set={(w) => set({ reversible: w === "off" })} width="150px">
              <option value="off">comes off again</option>
              <option value="stays">stays</option>
            </Choose>
          </>
        )}
      </Flex>
    </Box>
  );
}

function Borders({ draft }: { draft: PlanDraft }) {
  const { doc, view: v } = draft;
  if (!doc || !v || v.others.length === 0) return null;
  type Border = (typeof doc.borders)[number];
  const set = (b: Border, part: Partial<Border>, now = true) =>
    draft.change({ borders: doc.borders.map((x) => (x === b ? { ...x, ...part } : x)) }, now);
  return (
    <Box mt="22px">
      <Heading>Where it meets another piece</Heading>
      {doc.borders.map((b) => {
        const met = v.borders.find((m) => m.id === b.id);
        return (
          <Box key={b.id} borderBottomWidth="1px" borderColor="line" py="8px">
            <Flex gap="8px" wrap="wrap" align="end">
              <Entry label="Border" name="border" value={b.name} set={(name) => set(b, { name }, false)} width="160px" />
              <Choose label="with" name="with" value={b.with} set={(w) => set(b, { with: w })} width="120px">
                {v.others.map((o) => (
                  <option key={o}>{o}</option>
                ))}
              </Choose>
              <Entry label="The same on both sides" name="share" value={b.share ?? ""} set={(share) => set(b, { share }, false)} width="200px" />
              <Out act={() => draft.change({ borders: doc.borders.filter((x) => x !== b) }, true)} />
            </Flex>
            {met && (
              <Box mt="4px" fontWeight={met.finding ? 700 : 400}>
                {met.said}
                {met.overlap_cm2 > 0 && `; they overlap by ${met.overlap_cm2.toFixed(1)} cm²`}
                {met.gap_mm !== undefined && `; ${met.gap_mm.toFixed(1)} mm lie between them`}.
              </Box>
            )}
          </Box>
        );
      })}
      <Plain
        h="34px"
        mt="8px"
        onClick={() => draft.change({ borders: [...doc.borders, { id: freshId("m", doc.borders), with: v.others[0], name: "the join" }] }, true)}
      >
        Add a border
      </Plain>
    </Box>
  );
}
