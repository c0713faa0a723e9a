import { Box } from "@chakra-ui/react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { Heading, Plain, Refusal } from "../../parts/controls";
import { grams } from "../../parts/format";
import type { Measured } from "./useScans";

/** What the piece weighs in each material, and how much larger the sculpt has to be. */
export function Weights({ m, code }: { m: Measured; code: string }) {
  const keep = useAct(() =>
    ask(
      api.POST("/api/pieces/{code}/volumes", {
        params: { path: { code } },
        body: { route: "scan", scan_ml: (m.thickness.difference_volume ?? m.thickness.cavity_volume) / 1000 },
      }),
    ),
  );
  return (
    <Box>
      <Heading aside={`${((m.thickness.difference_volume ?? m.thickness.cavity_volume) / 1000).toFixed(1)} ml`}>In each material</Heading>
      <Box as="table" w="100%" fontSize="14.5px">
        <thead>
          <tr style={{ textAlign: "start", color: "var(--chakra-colors-muted)", fontSize: 13 }}>
            <th style={{ textAlign: "start", fontWeight: 500 }}>cast in</th>
            <th style={{ textAlign: "end", fontWeight: 500 }}>worn</th>
            <th style={{ textAlign: "end", fontWeight: 500 }}>from … to</th>
            <th style={{ textAlign: "end", fontWeight: 500 }}>weigh out</th>
            <th style={{ textAlign: "end", fontWeight: 500 }}>sculpt larger</th>
          </tr>
        </thead>
        <tbody>
          {m.masses.map((w) => (
            <tr key={w.name}>
              <td>{w.name}</td>
              <td style={{ textAlign: "end", fontWeight: 600 }}>{grams(w.grams)}</td>
              <td style={{ textAlign: "end" }}>
                {grams(w.range_g[0])} … {grams(w.range_g[1])}
              </td>
              <td style={{ textAlign: "end" }}>{w.name === "oil clay" ? "" : grams(w.order_g)}</td>
              <td style={{ textAlign: "end" }}>{w.enlarge_pc === 0 ? "" : `${w.enlarge_pc.toFixed(w.enlarge_pc < 1 ? 2 : 1)} %`}</td>
            </tr>
          ))}
        </tbody>
      </Box>
      <Box layerStyle="small" mt="6px">
        Trade ranges; your own test piece overrides them. Weigh out: 15 % for cups and flashing. Linear shrinkage of the cast alone; add the mould's.
      </Box>
      <Box mt="10px">
        <Plain h="36px" disabled={keep.busy} onClick={() => void keep.run()}>
          Count this volume for {code}
        </Plain>
        <Refusal problem={keep.problem} />
      </Box>
    </Box>
  );
}
