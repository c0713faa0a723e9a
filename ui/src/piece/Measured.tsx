import { Box, Flex } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "../app/api";
import { Plain } from "../parts/controls";
import { dayTime, millimetres } from "../parts/format";
import type { Layer } from "../parts/section/geometry";

export type Found = Schemas["FormFound"];

/** A body as a scan of the sculpt measured it. */
export function asMeasured(l: Layer, found: Found): Layer {
  const profile = found.profile_mm;
  return {
    ...l,
    centre_mm: profile[0],
    edge_mm: profile[profile.length - 1],
    extent: "to_edge",
    stop_mm: undefined,
    from_mm: undefined,
    shape: undefined,
    measured: { scan: found.scan, name: found.name, profile_mm: profile },
  };
}

/** A body with another centre or edge is planned again: what was measured no longer holds, and a drawn shape ends there. */
export function planned(l: Layer, next: Partial<Layer>): Layer {
  const is: Layer = { ...l, ...next, measured: undefined };
  if (!is.shape) return is;
  const last = is.shape.profile_mm.length - 1;
  const profile_mm = is.shape.profile_mm.map((mm, i) => (i === 0 ? (is.centre_mm ?? 0) : i === last ? (is.edge_mm ?? 0) : mm));
  return { ...is, shape: { ...is.shape, profile_mm } };
}

/** What a scan of the sculpt says of the chosen body, and the act that takes it over. */
export function MeasuredBand({ code, layer, found, take }: { code: string; layer: Layer; found?: Found; take?: (found: Found) => void }) {
  const newer = found && found.scan > 0 && found.profile_mm.length > 1 && found.scan !== layer.measured?.scan ? found : undefined;
  if (!layer.measured && !newer) return null;
  return (
    <Box mt="8px" ps="10px" borderLeftWidth="3px" borderColor="yew" fontSize="14.5px" data-testid="measured">
      {layer.measured && (
        <Box>
          Measured on the sculpt, <Link to={`/form/${code}`}>{layer.measured.name}</Link>. Another centre or edge plans it again.
        </Box>
      )}
      {newer && (
        <>
          <Box>
            {layer.measured ? "A newer scan" : "Measured on the sculpt"}, {dayTime(newer.at)}: {millimetres(newer.profile_mm[0])} at the centre,{" "}
            {millimetres(newer.profile_mm[newer.profile_mm.length - 1])} at the edge, {millimetres(newer.mean_mm)} mean over {newer.area_cm2} cm².
          </Box>
          {take && (
            <Flex gap="8px" mt="4px">
              <Plain h="34px" onClick={() => take(newer)}>
                Take the measured thickness
              </Plain>
            </Flex>
          )}
        </>
      )}
    </Box>
  );
}

/** What was found on the sculpt and is to be looked at, as a list. */
export function FoundPlaces({ found }: { found: Found }) {
  return (
    <Box as="ol" listStyleType="none">
      {found.places.map((p, i) => (
        <Flex as="li" key={`${p.kind} ${p.words}`} gap="9px" py="2px">
          <Box
            as="span"
            flexShrink="0"
            w="22px"
            h="22px"
            borderRadius="full"
            bg={p.kind === "core_contact" ? "heather" : "gorseDot"}
            color="#fffdf8"
            fontSize="12.5px"
            fontWeight="700"
            display="grid"
            placeItems="center"
          >
            {i + 1}
          </Box>
          {p.words}
        </Flex>
      ))}
    </Box>
  );
}
