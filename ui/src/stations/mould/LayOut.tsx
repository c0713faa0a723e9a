import { Box, Flex, Grid } from "@chakra-ui/react";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { Quantities } from "./Laid";
import { type LaidOut, type Plan, useLayOut } from "./useLayOut";

/** Says what the mould is to be, and sees at once what that takes. */
export function LayOut({ plan, code, done }: { plan: Plan; code: string; done: () => void }) {
  const l = useLayOut(plan, code, done);
  return (
    <Grid templateColumns={{ base: "1fr", lg: "430px minmax(0,1fr)" }} gap="30px">
      <Flex direction="column" gap="8px">
        <WhatItIs plan={plan} l={l} />
        <WhatItGoesRound plan={plan} l={l} />
        <Flex gap="10px" mt="4px">
          <Go act={() => void l.lay.run()} disabled={l.lay.busy || l.wrong}>
            Keep this build sheet
          </Go>
          {plan.sheet && <Plain onClick={done}>Back to the one that is kept</Plain>}
        </Flex>
        <Refusal problem={l.problem} />
      </Flex>
      <Box opacity={l.problem ? 0.5 : 1}>{l.sheet && <Quantities sheet={l.sheet} />}</Box>
    </Grid>
  );
}

function WhatItIs({ plan, l }: { plan: Plan; l: LaidOut }) {
  const { own } = l;
  return (
    <>
      <Heading>What it is to be</Heading>
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Choose label="Kind" name="kind" value={l.kind[0]} set={l.kind[1]} problem={l.problem}>
          {plan.kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Choose>
        <Choose label="Made of" name="stuff" value={l.stuff[0]} set={l.stuff[1]} problem={l.problem}>
          {plan.stuffs.map((s) => (
            <option key={s.name}>{s.name}</option>
          ))}
        </Choose>
        {l.shell && (
          <Choose label="Jacket of" name="jacket" value={l.jacket[0]} set={l.jacket[1]} problem={l.problem}>
            {["glass laminate", "plaster bandage", "casting plaster", "hard stone"].map((j) => (
              <option key={j}>{j}</option>
            ))}
          </Choose>
        )}
        <Entry
          label="Wall, mm"
          name="wall_mm"
          value={l.wall[0]}
          set={l.wall[1]}
          problem={l.problem}
          placeholder={own ? `${own.wall_mm} (${own.wall_range.join(" to ")})` : ""}
        />
        <Entry label="Parts" name="parts" value={l.parts[0]} set={l.parts[1]} problem={l.problem} placeholder="usual for the kind" />
        {own?.gypsum && (
          <Entry
            label="Water to 100 of powder"
            name="water_per_100"
            value={l.water[0]}
            set={l.water[1]}
            problem={l.problem}
            placeholder={`${own.water_per_100} (${own.water_range?.join(" to ")}), see the bag`}
          />
        )}
        {own?.gypsum && <Entry label="Water, °C" name="water_c" value={l.waterC[0]} set={l.waterC[1]} problem={l.problem} />}
        <Entry
          label="Release"
          name="release"
          value={l.release[0]}
          set={l.release[1]}
          problem={l.problem}
          placeholder="wax paste"
          suggestions={["wax paste", "soap", "petroleum jelly, thin", "silicone release, sprayed"]}
        />
        <Entry
          label="Between its parts"
          name="separator"
          value={l.separator[0]}
          set={l.separator[1]}
          problem={l.problem}
          placeholder="alcohol-thinned soap"
          suggestions={["soap, three coats", "shellac and wax"]}
        />
        <Choose label="Sculpted in" name="clay" value={l.clay[0]} set={l.clay[1]} problem={l.problem}>
          <option>oil clay</option>
          <option>sulphur clay</option>
        </Choose>
        {l.core[0] && (
          <Choose label="Core" name="core_of" value={l.coreOf[0]} set={l.coreOf[1]} problem={l.problem}>
            <option value="">is there already</option>
            <option value="hard stone">cast in hard stone</option>
            <option value="casting plaster">cast in casting plaster</option>
          </Choose>
        )}
      </Grid>
      <Flex gap="18px" wrap="wrap">
        <label>
          <input type="checkbox" checked={l.core[0]} onChange={(e) => l.core[1](e.target.checked)} /> closes over a core
        </label>
        <label>
          <input type="checkbox" checked={l.baked[0]} onChange={(e) => l.baked[1](e.target.checked)} /> goes into the oven
        </label>
      </Flex>
    </>
  );
}

function WhatItGoesRound({ plan, l }: { plan: Plan; l: LaidOut }) {
  const [typed] = l.typed;
  return (
    <>
      <Heading aside={!typed ? `by the scan ${plan.scanned.name}` : plan.scanned.known ? "typed" : "usual for the region; type your own"}>
        What it goes round
      </Heading>
      {plan.scanned.known && (
        <label>
          <input type="checkbox" checked={!typed} onChange={(e) => l.typed[1](!e.target.checked)} /> as it was scanned:{" "}
          {(plan.scanned.body.area_mm2 / 100).toFixed(0)} cm², {plan.scanned.body.size_mm.map((x) => x.toFixed(0)).join(" × ")} mm
        </label>
      )}
      {typed && (
        <Grid templateColumns="1fr 1fr 1.5fr" gap="8px">
          <Entry label="Surface, cm²" name="body.area_mm2" value={l.area[0]} set={l.area[1]} problem={l.problem} />
          <Entry label="Body, ml" name="body.volume_mm3" value={l.volume[0]} set={l.volume[1]} problem={l.problem} />
          <Entry label="Wide × high × deep, mm" name="body.size_mm" value={l.size[0]} set={l.size[1]} problem={l.problem} />
        </Grid>
      )}
    </>
  );
}
