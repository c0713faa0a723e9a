import { Box, Flex, Grid } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { useMaterials } from "../../app/reads";
import { Amounts } from "../../parts/Amounts";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { duration, grams } from "../../parts/format";
import { columns } from "../../parts/Room";
import { Lots } from "./Lots";
import { type Name, useOrder } from "./useOrder";

type Ordered = ReturnType<typeof useOrder>;

/** From the amount wanted to a sheet with lots: live, before anything is recorded. */
export function PourSheet({ pieces, piece }: { pieces: Schemas["Piece"][]; piece: string }) {
  const o = useOrder(piece);
  return (
    <Grid templateColumns={columns("minmax(0,380px) minmax(0,1fr)")} gap="30px">
      <Flex direction="column" gap="10px">
        <HowMuch pieces={pieces} o={o} />
        <WhatOf o={o} />
        <Amounts code={o.piece[0]} quiet />
      </Flex>
      <Sheet o={o} />
    </Grid>
  );
}

function HowMuch({ pieces, o }: { pieces: Schemas["Piece"][]; o: Ordered }) {
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
        problem={problem?.field.endsWith(`.${name}`) ? problem.at(problem.field, name) : problem}
        set={set}
      />
    );
  };
  return (
    <>
      <Heading>How much</Heading>
      <Choose label="For" name="piece" value={o.piece[0]} set={o.piece[1]} problem={o.problem}>
        {pieces.map((p) => (
          <option key={p.code} value={p.code}>
            {p.code} {p.name}
          </option>
        ))}
      </Choose>
      <Grid templateColumns="1.5fr 1fr 1fr" gap="8px">
        <Choose label="Volume from" name="route" value={o.route[0]} set={o.route[1]}>
          <option value="clay">clay used</option>
          <option value="water">water fill</option>
          <option value="area">area × thickness</option>
          <option value="scan">believed</option>
        </Choose>
        {route === "clay" && answer("before", "Clay before", "500 g")}
        {route === "clay" && answer("after", "Clay left", "472 g")}
        {route === "water" && answer("full", "Mould full", "1240 g")}
        {route === "water" && answer("empty", "Mould empty", "1223 g")}
        {route === "area" && answer("area", "Area", "34 cm²")}
        {route === "area" && answer("mean", "Mean thickness", "1.8 mm")}
        {route === "scan" && answer("volume", "Volume", "42 ml")}
        <Entry label="Copies" name="copies" value={o.copies[0]} set={o.copies[1]} problem={o.problem} />
        <Entry label="Spare" name="spare" value={o.spare[0]} set={o.spare[1]} problem={o.problem} />
        <Entry label="Waste, %" name="waste" value={o.waste[0]} set={o.waste[1]} problem={o.problem} />
      </Grid>
    </>
  );
}

function WhatOf({ o }: { o: Ordered }) {
  const materials = useMaterials();
  const [pigments, setPigments] = o.pigments;
  const silicones = materials.data?.filter((m) => m.ratio && m.cure) ?? [];
  return (
    <>
      <Heading>What of</Heading>
      <Choose label="Silicone" name="material" value={o.material[0]} set={o.material[1]} problem={o.problem}>
        {silicones.map((m) => (
          <option key={m.slug} value={m.slug}>
            {m.name}
          </option>
        ))}
      </Choose>
      <Grid templateColumns="1fr 1.6fr" gap="8px">
        <Entry label="Softener, %" name="additions[0].percent" value={o.softener[0]} set={o.softener[1]} problem={o.problem} />
        <Choose label="counted on" name="of" value={o.of[0]} set={o.of[1]}>
          <option value="parts">A and B together</option>
          <option value="total">the finished mix</option>
        </Choose>
        {pigments.map((p, i) => (
          <PigmentLine
            key={p.material}
            line={p}
            materials={materials.data ?? []}
            set={(next) => setPigments(pigments.map((x, j) => (j === i ? next : x)))}
          />
        ))}
      </Grid>
      {o.start.known && !o.start.stirred && <Box layerStyle="small">The section says nothing of softener and colour: these are usual ones.</Box>}
      <Flex gap="8px">
        <Plain
          h="34px"
          onClick={() => {
            const next = materials.data?.find(
              (m) => (m.family === "pigment" || m.family === "flock") && !pigments.some((p) => p.material === m.slug),
            );
            if (next) setPigments([...pigments, { material: next.slug, percent: "0.3" }]);
          }}
        >
          Another colour
        </Plain>
        {pigments.length > 0 && (
          <Plain h="34px" onClick={() => setPigments(pigments.slice(0, -1))}>
            One fewer
          </Plain>
        )}
      </Flex>
    </>
  );
}

function PigmentLine({
  line,
  materials,
  set,
}: {
  line: { material: string; percent: string };
  materials: Schemas["CraftMaterialProduct"][];
  set: (next: { material: string; percent: string }) => void;
}) {
  return (
    <>
      <Entry label="Colour, %" name={`${line.material}-percent`} value={line.percent} set={(percent) => set({ ...line, percent })} />
      <Choose label="of" name={`${line.material}-material`} value={line.material} set={(m) => set({ ...line, material: m })}>
        {materials
          .filter((m) => m.family === "pigment" || m.family === "flock")
          .map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
      </Choose>
    </>
  );
}

function Sheet({ o }: { o: Ordered }) {
  const sheet = o.sheet.data;
  return (
    <Box opacity={o.sheet.isFetching ? 0.75 : 1}>
      <Heading aside={sheet && `${sheet.amount.pours} × ${grams(sheet.amount.per_copy_g)} and waste`}>The pour sheet</Heading>
      {sheet && !o.sheet.error ? (
        <>
          <Flex align="baseline" gap="16px" mb="8px">
            <Box fontSize="46px" fontWeight="700" lineHeight="1.1" data-testid="sheet-total">
              {grams(sheet.total_g)}
            </Box>
            <Box color="muted">
              {sheet.amount.volume.mean_ml.toFixed(1)} ± {sheet.amount.volume.sd_ml.toFixed(1)} ml a copy
              <br />
              working time about {duration(sheet.working.left_s)} at {sheet.working.temp_c.toFixed(1)} °C
            </Box>
          </Flex>
          <Lots sheet={sheet} chosen={o.lots[0]} choose={(ingredient, code) => o.lots[1]({ ...o.lots[0], [ingredient]: code })} problem={o.problem} />
          {sheet.cautions.map((c) => (
            <Box key={c} layerStyle="note" mt="6px">
              {c}
            </Box>
          ))}
          <Flex gap="14px" mt="14px" align="center">
            <Go act={() => void o.plan.run()} disabled={o.plan.busy || !!sheet.short}>
              Write the sheet
            </Go>
            {sheet.short && <Box color="rust">{sheet.short}</Box>}
          </Flex>
        </>
      ) : (
        <Box color="muted">{o.problem?.field ? "Fill in what is asked on the left; the sheet follows as you type." : null}</Box>
      )}
      <Box mt="10px">
        <Refusal problem={o.problem} />
      </Box>
    </Box>
  );
}
