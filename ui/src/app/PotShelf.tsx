import { Box, Flex, VisuallyHidden } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { PotGlass } from "../parts/Pot";
import { RoomAir } from "./RoomAir";
import { useClock, usePots } from "./reads";
import { useRing } from "./ring";

/** The foot of every screen: one pot for each thing that is curing or drying. */
export function PotShelf() {
  const shelf = usePots();
  const navigate = useNavigate();
  const pots = shelf.data?.pots ?? [];
  const first = useRef<HTMLDivElement>(null);
  const [drawn, setDrawn] = useState(false);
  const hour = useClock().data?.now;
  useRing(
    pots.filter((p) => p.rings).map((p) => ({ id: p.id, label: p.label, left: p.left })),
    hour ? new Date(hour).getHours() : 12,
  );
  const walk = (e: React.KeyboardEvent) => {
    if (e.key !== "ArrowRight" && e.key !== "ArrowLeft") return;
    const all = [...(first.current?.querySelectorAll<HTMLElement>("button") ?? [])];
    const at = all.indexOf(document.activeElement as HTMLElement);
    all[(at + (e.key === "ArrowRight" ? 1 : -1) + all.length) % all.length]?.focus();
    e.preventDefault();
  };
  const ready = pots.filter((p) => p.state === "ready").length;
  const said =
    pots.length === 0 ? "Nothing on the shelf" : `${pots.length === 1 ? "1 pot" : `${pots.length} pots`}${ready > 0 ? `, ${ready} ready` : ""}`;
  return (
    <Box as="footer" className="no-print" bg="deep" position="relative" flexShrink="0" aria-label="The pot shelf">
      {/* Narrow: a drawer, so that the room keeps the screen. */}
      <Flex display={{ base: "flex", md: "none" }} asChild w="100%" h="46px" px="14px" align="center" justify="space-between" gap="10px">
        <button type="button" aria-expanded={drawn} aria-controls="pots" onClick={() => setDrawn(!drawn)}>
          <Box as="span" fontWeight="600" color={ready > 0 ? "gorse" : "ink"}>
            {said}
          </Box>
          <Box as="span" color="muted">
            {drawn ? "put away" : "look"}
          </Box>
        </button>
      </Flex>
      <Flex
        id="pots"
        h={{ base: "auto", md: "112px" }}
        direction={{ base: "column", md: "row" }}
        position="relative"
        display={{ base: drawn ? "flex" : "none", md: "flex" }}
      >
        <Box position="absolute" left="0" right="0" top="67px" h="7px" bg="wood" borderBottomWidth="2px" borderColor="ink" />
        <Flex ref={first} position="relative" h="112px" flex="1" minW="0" ps={{ base: "6px", md: "20px" }} overflowX="auto" onKeyDown={walk}>
          {shelf.data && pots.length === 0 && (
            <Box color="muted" pt="24px">
              Nothing is curing or drying. What you pour stands here.
            </Box>
          )}
          {pots.map((p) => (
            <Flex
              as="button"
              key={p.id}
              direction="column"
              align="center"
              minW="150px"
              flexShrink="0"
              px="6px"
              pt={p.state === "ready" ? "4px" : "8px"}
              onClick={() => navigate(p.kind === "mould" ? `/mould?mould=${encodeURIComponent(p.label)}` : `/build?pot=${p.id}`)}
              data-pot={p.label}
            >
              <PotGlass pot={p} />
              <Box mt={p.state === "ready" ? "15px" : "11px"} fontSize="13.5px" fontWeight="600" lineHeight="1.15" whiteSpace="nowrap">
                {p.label}
              </Box>
              <Box
                fontSize="12px"
                lineHeight="1.2"
                whiteSpace="nowrap"
                fontWeight={p.state === "ready" ? 700 : 400}
                color={p.state === "ready" ? "gorse" : "ink"}
              >
                {p.answered_by && !p.rings && p.state === "ready" ? `${p.answered_by.split(" ")[0]} has it` : p.left}
                <VisuallyHidden>, {p.words}</VisuallyHidden>
              </Box>
            </Flex>
          ))}
        </Flex>
        {shelf.data && (
          <Box
            layerStyle="small"
            flexShrink="0"
            position="relative"
            textAlign={{ base: "center", md: "right" }}
            ps="12px"
            pe={{ base: "12px", md: "22px" }}
            pt={{ base: "4px", md: "20px" }}
            pb={{ base: "6px", md: "0" }}
          >
            <RoomAir shelf={shelf.data} />
            {shelf.isError && <Box color="rust">no connection, shown as last read</Box>}
          </Box>
        )}
      </Flex>
    </Box>
  );
}
