import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** A slip of paper laid over the room for one short thing; Esc puts it away. */
export function Sheet({ label, close, children, width = "640px" }: { label: string; close: () => void; children: ReactNode; width?: string }) {
  return (
    <Box position="fixed" inset="0" zIndex="50" onKeyDown={(e) => e.key === "Escape" && close()}>
      <Box position="absolute" inset="0" bg="ink" opacity="0.25" onClick={close} aria-hidden="true" />
      <Box
        role="dialog"
        aria-label={label}
        position="absolute"
        top="90px"
        left="50%"
        transform="translateX(-50%)"
        w={`min(${width}, calc(100vw - 32px))`}
        maxH="calc(100vh - 130px)"
        overflowY="auto"
        bg="ground"
        borderWidth="1.5px"
        borderColor="ink"
        borderRadius="4px 20px 20px 20px"
        p="18px"
      >
        {children}
      </Box>
    </Box>
  );
}
