import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { api, ask, type Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { colour as v } from "../../parts/colour";
import { Choose, Entry, Plain, WrongAt } from "../../parts/controls";
import { grams } from "../../parts/format";
import { hatch } from "../../parts/hatches";

type Fault = Schemas["BuildFault"];

const kinds: Record<Fault["kind"], string> = {
  bubble: "bubble",
  tear: "tear",
  thin: "too thin",
  short: "not filled",
  sticky: "sticky",
  seam: "seam stands off",
  fold: "fold",
  other: "something else",
};

/** What a copy weighs and what is wrong with it as it comes out. */
export type OutWords = { weight_g?: number; faults?: Fault[] };

/** The sheet of a demould: faults by their place on the section, the weight, and how the last ones came out. */
export function OutSheet({ pot, set, problem }: { pot: Schemas["BuildPot"]; set: (out: OutWords) => void; problem?: Problem }) {
  const around = useRead({
    queryKey: ["comes out", pot.id],
    queryFn: () => ask(api.GET("/api/pots/{id}/out", { params: { path: { id: pot.id } } })),
  });
  const [faults, setFaults] = useState<Fault[]>([]);
  const [kind, setKind] = useState<Fault["kind"]>("bubble");
  const [weight, setWeight] = useState("");
  if (!around.data) return null;
  const tell = (list: Fault[], typed: string) => {
    const g = Number(typed.replace(",", "."));
    set({ weight_g: g > 0 ? g : undefined, faults: list.length > 0 ? list : undefined });
  };
  const change = (list: Fault[]) => {
    setFaults(list);
    tell(list, weight);
  };
  const zones = around.data.zones;
  return (
    <Box mb="12px" maxW="640px" data-testid="out-sheet">
      {around.data.last.length > 0 && (
        <Box layerStyle="small" mb="6px">
          {around.data.last.map((c) => (
            <Box key={c.copy}>
              {c.copy}
              {c.mould && ` from ${c.mould}`}: {came(c)}
            </Box>
          ))}
        </Box>
      )}
      <details>
        <summary>How it came out: {faults.length === 0 ? "weight, and what is wrong with it" : faults.map(faultWords).join(", ")}</summary>
        <Flex gap="10px" align="end" wrap="wrap" my="8px">
          <Choose label="What is wrong" name="kind" value={kind} set={(k) => setKind(k as Fault["kind"])} problem={problem} width="170px">
            {Object.entries(kinds).map(([k, text]) => (
              <option key={k} value={k}>
                {text}
              </option>
            ))}
          </Choose>
          <Entry
            label="It weighs, g"
            name="weight_g"
            value={weight}
            set={(text) => {
              setWeight(text);
              tell(faults, text);
            }}
            problem={problem}
            width="120px"
          />
        </Flex>
        <Box layerStyle="small">Tap where it is, from the centre to the edge:</Box>
        <Flex role="group" aria-label="Where it is" mt="4px">
          {zones.map((z, i) => {
            const here = faults.filter((f) => f.zone === z);
            return (
              <Box
                as="button"
                key={z}
                flex="1"
                position="relative"
                h="64px"
                overflow="hidden"
                borderWidth="1.5px"
                borderColor="ink"
                ms={i ? "-1.5px" : "0"}
                aria-label={`${kinds[kind]} at the ${z}`}
                onClick={() => change([...faults, { kind, zone: z }])}
              >
                <svg width="100%" height="64" aria-hidden="true" style={{ position: "absolute", inset: 0 }}>
                  <rect y={10 + (30 * i) / zones.length} width="100%" height="64" fill={hatch(pot.family)} />
                  {here.map((f, n) => (
                    <circle key={f.kind + String(n)} cx={`${20 + 15 * n}%`} cy="46" r="6" fill={v("rust")} stroke={v("ink")} />
                  ))}
                </svg>
                <Box as="span" position="relative" bg="sheet" px="6px" borderRadius="4px" fontSize="13px">
                  {z}
                </Box>
              </Box>
            );
          })}
        </Flex>
        {faults.map((f, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: two bubbles at one place are two
          <Flex key={i} gap="10px" align="baseline" mt="4px">
            <Box>{faultWords(f)}</Box>
            <Plain h="30px" px="10px" onClick={() => change(faults.filter((_, at) => at !== i))}>
              Not so
            </Plain>
          </Flex>
        ))}
      </details>
      <WrongAt problem={problem} name="weight_g" />
    </Box>
  );
}

const faultWords = (f: Fault) => `${kinds[f.kind]} at the ${f.zone}${f.words ? `, ${f.words}` : ""}`;

/** How an earlier copy came out, in a few words. */
export function came(c: Schemas["BuildCameOut"]): string {
  const out: string[] = [];
  if (c.early_at > 0) out.push(`taken out at ${Math.round(100 * c.early_at)} %`);
  for (const f of c.faults) out.push(faultWords(f));
  if (c.weight_g > 0) out.push(grams(c.weight_g));
  return out.join(", ");
}
