import { Box, Flex, Grid } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { useMaterials } from "../../app/reads";
import { TriedBefore } from "../../app/TriedBefore";
import { Amounts } from "../../parts/Amounts";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { duration, grams } from "../../parts/format";
import { columns, fields } from "../../parts/Room";
import { Lots } from "./Lots";
import { says, touchWords } from "./steps";
import { type Name, type Stirred, useOrder } from "./useOrder";

type Ordered = ReturnType<typeof useOrder>;

/** From the amount wanted to a sheet with lots: live, before anything is recorded. */
export function PourSheet({ pieces, piece, recipe, ml }: { pieces: Schemas["Piece"][]; piece?: string; recipe?: string; ml?: number }) {
  const o = useOrder({ piece, recipe, ml });
  return (
    <Grid templateColumns={columns("minmax(0,380px) minmax(0,1fr)")} gap="30px">
      <Flex direction="column" gap="10px">
        <WhatOf pieces={pieces} o={o} />
        {o.start.known ? (
          <>
            <HowMuch o={o} />
            <Divided o={o} />
          </>
        ) : (
          <Box color="muted">Reading what the piece takes…</Box>
        )}
        {o.piece[0] !== "" && <Amounts code={o.piece[0]} quiet />}
      </Flex>
      <Box order={{ base: -1, lg: 0 }} minW="0">
        <Sheet o={o} />
      </Box>
    </Grid>
  );
}

/** For whom, and by which recipe. */
function WhatOf({ pieces, o }: { pieces: Schemas["Piece"][]; o: Ordered }) {
  const recipes = useRead({ queryKey: ["recipes"], queryFn: () => ask(api.GET("/api/recipes")) });
  const list = recipes.data ?? [];
  const { wanted, at } = o.start;
  const fits = o.piece[0] === "" ? list : list.filter((r) => r.makes === at?.material);
  const groups = [...new Set(fits.map((r) => r.group))];
  return (
    <>
      <Heading>What for</Heading>
      <Choose label="For" name="piece" value={o.piece[0]} set={o.piece[1]} problem={o.problem}>
        {pieces.map((p) => (
          <option key={p.code} value={p.code}>
            {p.code} {p.name}
          </option>
        ))}
        <option value="">the shop: prepared stock, a mould, a trial</option>
      </Choose>
      {o.start.known && wanted.length > 1 && (
        <Choose label="What of it" name="layer" value={o.layer[0]} set={o.layer[1]}>
          {wanted.map((w) => (
            <option key={w.layer} value={w.layer}>
              {w.name}, {grams(w.each_g)} a copy
            </option>
          ))}
        </Choose>
      )}
      {o.start.known && (
        <Choose label="By" name="recipe" value={o.recipe[0]} set={o.recipe[1]} problem={o.problem}>
          {o.recipe[0] === "" && <option value="">choose a recipe</option>}
          {groups.map((g) => (
            <optgroup key={g} label={g}>
              {fits
                .filter((r) => r.group === g)
                .map((r) => (
                  <option key={r.slug} value={r.slug}>
                    {r.name}
                    {r.number > 0 ? ` §${r.number}` : ""}
                  </option>
                ))}
            </optgroup>
          ))}
        </Choose>
      )}
      {o.start.known && <StirredIn o={o} />}
    </>
  );
}

/** What is stirred in beyond the recipe, each percentage with what it is of. */
function StirredIn({ o }: { o: Ordered }) {
  const materials = useMaterials();
  const [stirred, setStirred] = o.stirred;
  const makes = materials.data?.find((m) => m.slug === o.sheet.data?.makes);
  const may = (materials.data ?? []).filter(
    (m) =>
      (m.into
        ? m.into.includes(makes?.family ?? "")
        : ["softener", "pigment", "flock"].includes(m.family) && !!makes?.family.startsWith("silicone")) &&
      !stirred.some((s) => s.material === m.slug),
  );
  const put = (i: number, next: Partial<Stirred>) => setStirred(stirred.map((s, j) => (j === i ? { ...s, ...next } : s)));
  return (
    <>
      {stirred.map((s, i) => (
        <Grid key={s.material} templateColumns="minmax(0,1.2fr) 70px minmax(0,1fr) auto" gap="8px" alignItems="end">
          <Box fontWeight="600" pb="9px" lineHeight="1.2">
            {materials.data?.find((m) => m.slug === s.material)?.name ?? s.material}
          </Box>
          <Entry
            label={i === 0 ? "%" : ""}
            name={`additions[${i}].percent`}
            value={s.percent}
            set={(percent) => put(i, { percent })}
            problem={o.problem}
          />
          <Choose label={i === 0 ? "of" : ""} name={`additions[${i}].of`} value={s.of} set={(of) => put(i, { of })} problem={o.problem}>
            <option value="parts">{makes?.ratio ? "A and B" : "the parts"}</option>
            <option value="total">the whole</option>
          </Choose>
          <Plain h="38px" aria-label={`Leave ${s.material} out`} onClick={() => setStirred(stirred.filter((_, j) => j !== i))}>
            ×
          </Plain>
        </Grid>
      ))}
      {may.length > 0 && (
        <Choose label="Stir in" name="stir" value="" set={(m) => m && setStirred([...stirred, { material: m, percent: "1", of: "parts" }])}>
          <option value="">nothing more</option>
          {may.map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
        </Choose>
      )}
    </>
  );
}

function HowMuch({ o }: { o: Ordered }) {
  const [route] = o.route;
  const answer = (name: Name, label: string, placeholder: string) => {
    const [value, set] = o.answer(name);
    const { problem } = o;
    return (
      <Entry
        label={label}
        name={name}
        value={value}
        placeholder={placeholder}
        problem={problem?.field.endsWith(`.${name}`) || problem?.field === `${name}.grams` ? problem.at(problem.field, name) : problem}
        set={set}
      />
    );
  };
  const forPiece = o.piece[0] !== "";
  const learned = o.sheet.data?.learned;
  return (
    <>
      <Heading>How much</Heading>
      <Grid templateColumns={fields("1.5fr 1fr 1fr")} gap="8px">
        <Choose label="Told by" name="route" value={route} set={o.route[1]}>
          {forPiece && <option value="each">the section</option>}
          <option value="scan">{forPiece ? "what is believed" : "a volume"}</option>
          <option value="clay">clay used</option>
          <option value="water">water fill</option>
          <option value="area">area × thickness</option>
          <option value="mass">the whole mass</option>
        </Choose>
        {route === "clay" && answer("before", "Clay before", "500 g")}
        {route === "clay" && answer("after", "Clay left", "472 g")}
        {route === "water" && answer("full", "Mould full", "1240 g")}
        {route === "water" && answer("empty", "Mould empty", "1223 g")}
        {route === "area" && answer("area", "Area", "34 cm²")}
        {route === "area" && answer("mean", "Mean thickness", "1.8 mm")}
        {route === "scan" && answer("volume", "Volume", "42 ml")}
        {route === "each" && answer("each", "Each copy", "12 g")}
        {route === "mass" && answer("mass", "Mass", "300 g")}
        {forPiece && <Entry label="Copies" name="copies" value={o.copies[0]} set={o.copies[1]} problem={o.problem} />}
        {forPiece && <Entry label="Spare" name="spare" value={o.spare[0]} set={o.spare[1]} problem={o.problem} />}
        {route !== "mass" && <Entry label="Waste, %" name="waste" value={o.waste[0]} set={o.waste[1]} problem={o.problem} />}
      </Grid>
      {learned && route !== "mass" && (
        <Box layerStyle="small">
          {learned.n} {learned.mine >= 3 ? "of yours" : "mixes"} wasted {(learned.waste * 100).toFixed(0)} % ({(learned.waste_low * 100).toFixed(0)}{" "}
          to {(learned.waste_high * 100).toFixed(0)}) and took {learned.minutes.toFixed(0)} min ({learned.minutes_low.toFixed(0)} to{" "}
          {learned.minutes_high.toFixed(0)}).{" "}
          <Box as="button" textDecoration="underline" onClick={() => o.waste[1](String(Math.max(0, Math.round(learned.waste * 100))))}>
            Take {Math.max(0, Math.round(learned.waste * 100))} %
          </Box>
        </Box>
      )}
      {learned?.casts && forPiece && <Casts casts={learned.casts} take={o.spare[1]} />}
    </>
  );
}

/** How many to pour for so many good ones, as verdicts of before have it. */
function Casts({ casts, take }: { casts: Schemas["MixCasts"]; take: (spare: string) => void }) {
  const spare = casts.pour - casts.need;
  return (
    <Box layerStyle="small">
      Of {casts.judged} casts by it that were judged {casts.good} {casts.good === 1 ? "was" : "were"} good: {casts.pour} poured give {casts.need} good{" "}
      {casts.need === 1 ? "one" : "ones"} in {(casts.chance * 100).toFixed(0)} of 100 cases.{" "}
      <Box as="button" textDecoration="underline" onClick={() => take(String(spare))}>
        {spare === 0 ? "Take none to spare" : `Take ${spare} to spare`}
      </Box>
    </Box>
  );
}

/** What limits one mix, and the warmth of the water where that moves the set. */
function Divided({ o }: { o: Ordered }) {
  const sets = o.sheet.data?.recipe.clock === "set";
  const held = o.sheet.data?.bowl_ml;
  return (
    <details>
      <summary>Bowl, hands{sets ? ", water" : ""}</summary>
      <Grid templateColumns={fields("1fr 1fr 1fr")} gap="8px" mt="6px">
        <Entry
          label="Bowl holds"
          name="split.bowl_ml"
          placeholder={held ? `${held / 1000} l, the largest here` : "2 l"}
          value={o.bowl[0]}
          set={o.bowl[1]}
          problem={o.problem}
        />
        <Entry label="Min a pour" name="split.pour_min" placeholder="4" value={o.pour[0]} set={o.pour[1]} problem={o.problem} />
        <Entry label="Hands" name="split.hands" placeholder="1" value={o.hands[0]} set={o.hands[1]} problem={o.problem} />
        {sets && <Entry label="Water" name="water_c" placeholder="20 °C" value={o.water[0]} set={o.water[1]} problem={o.problem} />}
      </Grid>
    </details>
  );
}

function Sheet({ o }: { o: Ordered }) {
  const sheet = o.sheet.data;
  if (!sheet) return <Box>{o.problem && <Refusal problem={o.problem} />}</Box>;
  const { mixes, amount } = sheet;
  return (
    <Box>
      <Heading aside={sheet.number > 0 ? `${sheet.name} §${sheet.number}` : sheet.name}>The sheet</Heading>
      <Flex align="center" gap="12px" mb="4px" wrap="wrap">
        <Box fontSize="46px" fontWeight="700" lineHeight="1.1" data-testid="sheet-total">
          {grams(sheet.total_g)}
        </Box>
        <Go act={() => void o.plan.run()} disabled={o.plan.busy || !!sheet.short || o.sheet.isError}>
          Write the sheet
        </Go>
        <Box color="muted">
          {amount.pours} × {grams(amount.per_copy_g)}
          {amount.volume.mean_ml > 0 && `, ${amount.volume.mean_ml.toFixed(1)} ± ${amount.volume.sd_ml.toFixed(1)} ml`}
          {sheet.volume_ml > 0 && `, in a bowl of ${bowl(sheet.volume_ml)} or more`}
          {sheet.working.left_s > 0 && `, to be poured within ${duration(sheet.working.left_s)} at ${sheet.working.temp_c.toFixed(1)} °C`}
        </Box>
      </Flex>
      {mixes.mixes > 1 && (
        <Box mb="6px" data-testid="split">
          In {mixes.mixes} mixes of {mixes.sizes.join(", ")}:{" "}
          {{ bowl: "the bowl holds no more", pot_life: "no more is poured in time", moulds: "so many moulds are free", none: "" }[mixes.limit]}.
        </Box>
      )}
      <Lots sheet={sheet} chosen={o.lots[0]} choose={(line, t) => o.lots[1]({ ...o.lots[0], [line]: t })} problem={o.problem} />
      <Steps sheet={sheet} />
      {sheet.short && (
        <Box mt="8px" color="rust">
          {sheet.short}
        </Box>
      )}
      {o.problem && <Refusal problem={o.problem} />}
      <Box mt="10px">
        <TriedBefore materials={[sheet.makes, ...sheet.lines.map((l) => l.material)]} />
      </Box>
      <States follows={sheet.follows} />
    </Box>
  );
}

/** What a bowl must hold so that what is stirred or whisked in it stays in it. */
const bowl = (ml: number) => (ml / 0.85 >= 1000 ? `${(ml / 850).toFixed(1)} l` : `${Math.ceil(ml / 0.85 / 10) * 10} ml`);

/** What is done between the weighings. */
function Steps({ sheet }: { sheet: Schemas["MixSheet"] }) {
  const steps = sheet.steps.filter((s) => s.act !== "weigh");
  if (steps.length === 0) return null;
  return (
    <Box mt="8px" layerStyle="small">
      Between and after: {steps.map(says).join("; ")}.
    </Box>
  );
}

/** What a recipe states: where it may go, what is asked first, what must not be near. */
export function States({ follows: f }: { follows: Schemas["CraftRecipeFollows"] }) {
  return (
    <Box mt="14px" fontSize="15px" display="grid" gap="4px">
      <Box>
        <b>{touchWords(f.touch)}</b> {f.touch_why}
      </Box>
      {f.confirm.length > 0 && <Box>Before it is begun: {f.confirm.map((n) => n.text).join(" ")}</Box>}
      {!!f.heat_c && <Box>It is warmed to {f.heat_c} °C: mind pot, steam and skin.</Box>}
      {f.allergens.length > 0 && (
        <Box color="gorse" fontWeight="600">
          In it: {f.allergens.join(", ")}.
        </Box>
      )}
      {f.near.length > 0 && <Box>Keep away: {f.near.join("; ")}.</Box>}
      {f.stains && <Box>Stains {f.stains === "strong" ? "everything, cloth for good" : f.stains}.</Box>}
      {f.cautions.map((c) => (
        <Box key={c} layerStyle="small">
          {c}
        </Box>
      ))}
    </Box>
  );
}
