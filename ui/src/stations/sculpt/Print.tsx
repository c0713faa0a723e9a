import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Plain } from "../../parts/controls";

const files = [
  ["texture.pdf?page=A4", "PDF on A4"],
  ["texture.pdf?page=Letter", "PDF on Letter"],
  ["texture.svg", "SVG"],
  ["texture/plan.csv", "plan as CSV"],
  ["texture/plan.json", "plan as JSON"],
  ["texture/heights.png", "heights, 16-bit PNG"],
  ["texture/relief.stl", "relief as STL"],
  ["texture/shaded.png", "picture of the relief"],
] as const;

/** Everything the plan can leave the shop as. */
export function Print({ code, can }: { code: string; can: boolean }) {
  const [open, setOpen] = useState(false);
  if (!can) return null;
  return (
    <Flex gap="8px" position="relative">
      <Plain h="36px" aria-expanded={open} onClick={() => setOpen(!open)}>
        Print and files
      </Plain>
      {open && (
        <Flex
          position="absolute"
          top="40px"
          right="0"
          zIndex="5"
          direction="column"
          bg="sheet"
          borderWidth="1.5px"
          borderColor="ink"
          borderRadius="3px 14px 14px 14px"
          px="14px"
          py="8px"
          gap="4px"
          w="210px"
        >
          {files.map(([path, text]) => (
            <Box key={path} as="span">
              <a
                href={`/api/pieces/${code}/${path}`}
                target="_blank"
                rel="noreferrer"
                onClick={() => setOpen(false)}
                style={{ textDecoration: "underline" }}
              >
                {text}
              </a>
            </Box>
          ))}
          <Box layerStyle="small">True scale: print at 100 % and check the bar.</Box>
        </Flex>
      )}
    </Flex>
  );
}
