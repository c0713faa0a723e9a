import { Box, Flex } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "../app/api";
import { Heading } from "../parts/controls";
import { duration, grams } from "../parts/format";
import type { Section } from "../parts/section/geometry";
import { Tag } from "../parts/Tag";

interface Props {
  code: string;
  doc: Section;
  result: Schemas["CraftSectionResult"];
  company: Schemas["PieceCompany"];
  chooseFit: (layer: string, state: string) => void;
  change: (next: Section) => void;
}

/** How it is put on and taken off: adhesives with both schools, and the pieces in their order. */
export function Fitting({ code, doc, result, company, chooseFit, change }: Props) {
  const over = doc.lies_over ?? [];
  const pieces = company.pieces ?? [];
  return (
    <Flex direction="column" gap="16px">
      <Box>
        <Heading>Adhesive and remover</Heading>
        {result.fits?.length ? null : <Box color="muted">No adhesive is in this section.</Box>}
        {result.fits?.map((f) => (
          <Box key={f.layer} mb="8px">
            <Box fontWeight="600">{f.adhesive}</Box>
            {f.schools?.map((s) => (
              <Flex as="label" key={s.state} gap="9px" py="3px" align="start" cursor="pointer">
                <input type="radio" name={f.layer} checked={s.chosen} onChange={() => chooseFit(f.layer, s.state)} style={{ marginTop: "5px" }} />
                <Box lineHeight="1.35">
                  <b>{s.state}</b>: {s.text}
                  <Box layerStyle="small">
                    For {s.when}.{" "}
                    {s.ready_s > 0
                      ? `Ready after about ${duration(s.ready_s)} (${duration(s.ready_s / 2)} to ${duration(s.ready_s * 2)}, by how thick it lies)${s.closes_s ? `, grips until ${duration(s.closes_s)}` : ""}.`
                      : "Goes on at once."}
                  </Box>
                </Box>
              </Flex>
            ))}
            <Box fontSize="14px">{f.off}</Box>
          </Box>
        ))}
      </Box>
      {(result.edge_ways?.length ?? 0) > 0 && (
        <Box>
          <Heading>The edge</Heading>
          {result.edge_ways?.map((w) => (
            <Box key={w} fontSize="14.5px">
              {w}
            </Box>
          ))}
        </Box>
      )}
      <Box>
        <Heading aside={company.limit_g ? `${grams(company.total_g)} of ${grams(company.limit_g)}` : `${grams(company.total_g)} worn in all`}>
          What is worn together
        </Heading>
        {pieces.map((p) => (
          <Flex key={p.code} gap="10px" align="center" py="3px" data-companion={p.code}>
            <Box w="20px" fontWeight="700">
              {p.place || "?"}
            </Box>
            <Link to={`/piece/${p.code}`}>
              <Tag code={p.code} />
            </Link>
            <Box flex="1" fontSize="14px" lineHeight="1.3">
              {p.name}
              <Box layerStyle="small">{p.why}</Box>
              {p.code !== code && (
                <Flex as="label" gap="6px" fontSize="13.5px" align="center">
                  <input
                    type="checkbox"
                    checked={over.includes(p.code)}
                    onChange={(e) => change({ ...doc, lies_over: e.target.checked ? [...over, p.code] : over.filter((c) => c !== p.code) })}
                  />
                  {code} lies over it
                </Flex>
              )}
            </Box>
            <Box fontSize="14px" whiteSpace="nowrap">
              {p.known ? grams(p.mass_g) : "no section"}
            </Box>
          </Flex>
        ))}
      </Box>
    </Flex>
  );
}
