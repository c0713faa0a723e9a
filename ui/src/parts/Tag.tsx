import { Box, type BoxProps } from "@chakra-ui/react";
import { Link } from "react-router";

/** A piece, copy or kit as a small tied tag with a punched hole and its code. */
export function Tag({ code, to, ...rest }: { code: string; to?: string } & BoxProps) {
  const tag = (
    <Box
      as="span"
      display="inline-flex"
      alignItems="center"
      gap="9px"
      h="28px"
      ps="9px"
      pe="13px"
      bg="sheet"
      borderWidth="1.5px"
      borderColor="ink"
      borderRadius="3px 12px 12px 3px"
      fontWeight="600"
      fontSize="14.5px"
      whiteSpace="nowrap"
      {...rest}
    >
      <Box as="span" w="9px" h="9px" borderRadius="full" borderWidth="1.5px" borderColor="ink" bg="ground" flexShrink="0" />
      {code}
    </Box>
  );
  return to ? <Link to={to}>{tag}</Link> : tag;
}
