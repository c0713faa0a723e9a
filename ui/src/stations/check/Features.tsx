import { Box, Checkbox } from "@chakra-ui/react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { useFound } from "../../app/reads";
import { Heading, Refusal } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import { FoundPlaces } from "../../piece/Measured";
import type { Copy } from "./bench";

/** What the brief will not have left out, seen one by one on this copy; and what the scan of its sculpt found. */
export function Features({ copy: c }: { copy: Copy }) {
  const path = { params: { path: { code: c.code } } };
  const features = useRead({ queryKey: ["features", c.code], queryFn: () => ask(api.GET("/api/copies/{code}/features", path)) });
  const found = useFound(c.piece).data;
  const see = useAct((feature: string, there: boolean) =>
    ask(api.POST("/api/copies/{code}/features/{feature}", { params: { path: { code: c.code, feature } }, body: { there } })),
  );
  return (
    <Box mb="16px">
      {(features.data?.length ?? 0) > 0 && (
        <Box mb="12px">
          <Heading aside="all of them, before it is accepted">Must not be left out</Heading>
          {features.data?.map((f) => (
            <Box key={f.id}>
              <Checkbox.Root checked={!!f.seen} onCheckedChange={(e) => void see.run(f.id, e.checked === true)}>
                <Checkbox.HiddenInput />
                <Checkbox.Control borderColor="ink" borderRadius="full" />
                <Checkbox.Label>
                  {f.text}
                  <Box as="span" layerStyle="small">
                    {f.seen ? `, ${f.seen.by}` : ""}
                  </Box>
                </Checkbox.Label>
              </Checkbox.Root>
            </Box>
          ))}
          <Refusal problem={see.problem} />
        </Box>
      )}
      {found && found.scan > 0 && (
        <Box>
          <Heading>Measured on the sculpt</Heading>
          {found.places.length > 0 ? <FoundPlaces found={found} /> : "Nothing to look at: no core contact, nothing too thin."}
          <Box layerStyle="note">
            {millimetres(found.mean_mm)} mean, {millimetres(found.most_mm)} at most, {millimetres(found.least_mm)} at least off the edge.
          </Box>
        </Box>
      )}
    </Box>
  );
}
