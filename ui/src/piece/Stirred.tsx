import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import type { Problem } from "../app/api";
import { Choose, Entry, Plain } from "../parts/controls";
import type { Layer } from "../parts/section/geometry";
import type { Product } from "./kinds";

/** What is stirred into silicones where a product names no families of its own. */
const families = ["softener", "pigment", "flock"];
const silicones = ["silicone_addition", "silicone_condensation"];

interface Props {
  layer: Layer;
  products: Product[];
  set: (next: Partial<Layer>) => void;
  here: (name: string) => Problem | undefined;
}

/** What is stirred into a material, in percent of its parts: the pour sheet begins with it. */
export function Stirred({ layer, products, set, here }: Props) {
  const list = layer.with ?? [];
  const into = products.find((p) => p.slug === layer.material)?.family ?? "";
  const free = products.filter(
    (p) => (p.into ?? (families.includes(p.family) ? silicones : [])).includes(into) && !list.some((w) => w.material === p.slug),
  );
  const put = (next: NonNullable<Layer["with"]>) => set({ with: next.length > 0 ? next : undefined });
  return (
    <Box mt="8px">
      {list.map((w, i) => (
        <Grid key={w.material} templateColumns="minmax(0,1.7fr) minmax(0,1fr) auto" gap="8px" mb="6px" alignItems="end">
          <Choose
            label={i === 0 ? "Stirred in" : "and"}
            name={`with[${i}].material`}
            value={w.material}
            set={(material) => put(list.map((x, k) => (k === i ? { ...x, material } : x)))}
            problem={here(`with[${i}].material`)}
          >
            {products
              .filter((p) => p.slug === w.material || free.includes(p))
              .map((p) => (
                <option key={p.slug} value={p.slug}>
                  {p.name}
                </option>
              ))}
          </Choose>
          <Percent
            value={w.percent}
            name={`with[${i}].percent`}
            set={(percent) => put(list.map((x, k) => (k === i ? { ...x, percent } : x)))}
            problem={here(`with[${i}].percent`)}
          />
          <Plain h="38px" aria-label={`Leave ${w.material} out`} onClick={() => put(list.filter((_, k) => k !== i))}>
            ×
          </Plain>
        </Grid>
      ))}
      {free.length > 0 && (
        <Flex>
          <Plain h="34px" onClick={() => put([...list, { material: free[0].slug, percent: free[0].family === "softener" ? 30 : 0.3 }])}>
            Stir something in
          </Plain>
        </Flex>
      )}
    </Box>
  );
}

/** A percentage, taken as soon as it is one. */
function Percent({ value, name, set, problem }: { value: number; name: string; set: (n: number) => void; problem?: Problem }) {
  const [text, setText] = useState(String(value));
  useEffect(() => setText((t) => (Number(t.replace(",", ".")) === value ? t : String(value))), [value]);
  return (
    <Entry
      label="% of its parts"
      name={name}
      value={text}
      problem={problem}
      set={(t) => {
        setText(t);
        const n = Number(t.trim().replace(",", "."));
        if (t.trim() !== "" && Number.isFinite(n)) set(n);
      }}
    />
  );
}
