import { Box, Checkbox, Flex } from "@chakra-ui/react";
import { useEach } from "../../app/act";
import { api, ask } from "../../app/api";
import { useFound } from "../../app/reads";
import { Heading, Refusal } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import { FoundPlaces } from "../../piece/Measured";
import { type Copy, useFeatures } from "./bench";

/** What the brief will not have left out, seen one by one on this copy; and what the scan of its sculpt found. */
export function Features({ copy: c, pointing, point }: { copy: Copy; pointing?: string; point?: (feature: string | undefined) => void }) {
  const features = useFeatures(c.code);
  const found = useFound(c.piece).data;
  const see = useEach((feature: string, there: boolean) =>
    ask(api.POST("/api/copies/{code}/features/{feature}", { params: { path: { code: c.code, feature } }, body: { there } })),
  );
  return (
    <Box mt="18px">
      {(features.data?.length ?? 0) > 0 && (
        <Box mb="12px">
          <Heading>Must not be left out</Heading>
          {features.data?.map((f, i) => (
            <Flex key={f.id} gap="8px" align="baseline">
              <Checkbox.Root checked={!!f.seen} onCheckedChange={(e) => void see.run(f.id, e.checked === true)}>
                <Checkbox.HiddenInput />
                <Checkbox.Control borderColor="ink" borderRadius="full" />
                <Checkbox.Label>
                  {i + 1} {f.text}
                  <Box as="span" layerStyle="small">
                    {f.must ? "" : ", a wish"}
                    {f.seen ? `, ${f.seen.by}` : ""}
                  </Box>
                </Checkbox.Label>
              </Checkbox.Root>
              {point && (
                <Box
                  as="button"
                  fontSize="14px"
                  textDecoration="underline"
                  aria-pressed={pointing === f.id}
                  fontWeight={pointing === f.id ? 700 : 400}
                  onClick={() => point(pointing === f.id ? undefined : f.id)}
                >
                  {pointing === f.id ? "tap where it is" : f.seen?.on ? "elsewhere" : "where"}
                </Box>
              )}
            </Flex>
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
