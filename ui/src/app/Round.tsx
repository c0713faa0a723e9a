import { Box, Flex, Menu, Portal, VisuallyHidden } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { NavLink, useLocation, useNavigate } from "react-router";
import { Cap } from "../parts/controls";
import { dayTime } from "../parts/format";
import { Dot } from "../parts/hatches";
import { useAct } from "./act";
import { api, ask, type Schemas } from "./api";
import { ends, places } from "./places";
import { useClock, usePieces } from "./reads";
import { askToNotify, canNotify, notifies, setSound, soundIsOff } from "./ring";

interface Props {
  person: Schemas["AccountsPerson"];
  demo: boolean;
  onSearch: () => void;
  onReference: () => void;
  onKeys: () => void;
}

/** The way round the shop: map, navigation and state at once. */
export function Round({ person, demo, onSearch, onReference, onKeys }: Props) {
  const pieces = usePieces();
  const { pathname } = useLocation();
  const here = pathname.split("/")[1];
  const strip = useRef<HTMLDivElement>(null);
  // On a narrow screen the place where one is stands in sight.
  useEffect(() => {
    const at = here ? strip.current?.querySelector("[data-here]") : undefined;
    at?.scrollIntoView?.({ block: "nearest", inline: "center" });
  }, [here]);
  return (
    <Flex
      as="nav"
      aria-label="The round"
      bg="deep"
      borderBottomWidth="1px"
      borderColor="line"
      h={{ base: "auto", xl: "74px" }}
      wrap={{ base: "wrap", xl: "nowrap" }}
      align={{ base: "center", xl: "end" }}
      justify="space-between"
      ps={{ base: "14px", xl: "22px" }}
      pe={{ base: "12px", xl: "16px" }}
      pt={{ base: "8px", xl: "0" }}
      columnGap="6px"
      flexShrink="0"
    >
      <Box fontWeight="700" fontSize="18px" pb={{ base: "0", xl: "15px" }} pe="14px">
        Yewmoor
      </Box>
      {/* Narrow: a strip of its own below, which scrolls under the thumb. */}
      <Flex
        ref={strip}
        order={{ base: 1, xl: 0 }}
        flex={{ base: "1 0 100%", xl: "1" }}
        position="relative"
        minW="0"
        mx={{ base: "-12px", xl: "0" }}
        px={{ base: "12px", xl: "0" }}
        overflowX={{ base: "auto", xl: "visible" }}
        overflowY="hidden"
        css={{ scrollbarWidth: "none" }}
      >
        <Box
          display={{ base: "none", xl: "block" }}
          position="absolute"
          left="0"
          right="0"
          top="20px"
          borderTopWidth="2px"
          borderStyle="dotted"
          borderColor="line"
        />
        {places.map((p) => (
          <Place key={p.name} place={p} active={here === p.name} standing={(pieces.data ?? []).filter((q) => q.place === p.name)} />
        ))}
      </Flex>
      <Flex gap={{ base: "14px", md: "18px" }} pb={{ base: "0", xl: "15px" }} ps={{ base: "0", xl: "14px" }} align="center">
        {ends.map((e) => {
          const active = e.path === "/" ? pathname === "/" : pathname.startsWith(e.path);
          return (
            <Box asChild key={e.path} fontWeight={active ? 700 : 400} color={active ? "heather" : "ink"}>
              <NavLink to={e.path}>{e.text}</NavLink>
            </Box>
          );
        })}
        <Box as="button" onClick={onSearch} aria-label="Find anything" title="Find anything">
          <Cap>/</Cap>
        </Box>
        <PersonMenu person={person} demo={demo} onReference={onReference} onKeys={onKeys} />
      </Flex>
    </Flex>
  );
}

function Place({ place, active, standing }: { place: (typeof places)[number]; active: boolean; standing: Schemas["Piece"][] }) {
  const shown = standing.slice(0, 4);
  return (
    <Box
      asChild
      flex={{ base: "0 0 auto", xl: "1 1 0" }}
      minW={{ base: "84px", xl: "0" }}
      px={{ base: "8px", xl: "0" }}
      textAlign="center"
      position="relative"
      bg={active ? "ground" : "transparent"}
      borderWidth="1px"
      borderColor={active ? "line" : "transparent"}
      borderBottomColor={active ? "ground" : "transparent"}
      borderTopRadius="12px"
      h={{ base: "56px", xl: "63px" }}
      mb="-1px"
      data-here={active || undefined}
    >
      <NavLink to={`/${place.name}`}>
        <Flex
          aria-hidden="true"
          justify="center"
          gap="3px"
          h="20px"
          mt={{ base: "5px", xl: "10px" }}
          align="center"
          title={standing.map((s) => s.code).join(", ")}
        >
          {shown.map((s) => (
            <Dot key={s.code} family={s.family} size={14} />
          ))}
          {standing.length > shown.length && (
            <Box as="span" fontSize="11px" color="muted">
              +{standing.length - shown.length}
            </Box>
          )}
        </Flex>
        <Box fontSize="14.5px" fontWeight={active ? 700 : 400} whiteSpace="nowrap">
          <Box as="span" fontSize="11px" color="muted" me="4px">
            {place.key}
          </Box>
          {place.text}
          <VisuallyHidden>, {standing.length === 1 ? "1 piece stands" : `${standing.length} pieces stand`} here</VisuallyHidden>
        </Box>
      </NavLink>
    </Box>
  );
}

const modeKey = "yewmoor.light";

export function applyLight() {
  document.documentElement.classList.toggle("dark", localStorage.getItem(modeKey) === "night");
}
applyLight();

function PersonMenu({ person, demo, onReference, onKeys }: Omit<Props, "onSearch">) {
  const navigate = useNavigate();
  const clock = useClock();
  const forward = useAct((seconds: number) => ask(api.POST("/api/clock/forward", { body: { seconds } })));
  const sensor = useAct((away: boolean) => ask(api.POST("/api/room/simulated", { body: { away } })));
  const out = useAct(() => ask(api.POST("/api/sign-out")));
  const toggle = () => {
    localStorage.setItem(modeKey, localStorage.getItem(modeKey) === "night" ? "day" : "night");
    applyLight();
  };
  return (
    <Menu.Root
      onSelect={(e) => {
        if (e.value === "light") toggle();
        if (e.value === "bell") setSound(soundIsOff());
        if (e.value === "tell") void askToNotify();
        if (e.value === "keys") onKeys();
        if (e.value === "reference") onReference();
        if (e.value === "record") navigate("/record");
        if (e.value === "away" || e.value === "back") void sensor.run(e.value === "away");
        if (e.value === "out") void out.run().then(() => navigate("/"));
        if (e.value.startsWith("t")) void forward.run(Number(e.value.slice(1)));
      }}
    >
      <Menu.Trigger asChild>
        <Box
          as="button"
          fontWeight="500"
          bg="sheet"
          borderWidth="1.5px"
          borderColor="line"
          borderRadius="full"
          px="12px"
          py="3px"
          whiteSpace="nowrap"
        >
          {person.name.split(" ")[0]}
        </Box>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="sheet" minW="230px" borderWidth="1.5px" borderColor="ink" borderRadius="3px 14px 14px 14px">
            <Box px="10px" py="6px" layerStyle="note">
              {person.name}, {person.role}
              {clock.data && <Box>{dayTime(clock.data.now)} on the bench</Box>}
            </Box>
            {demo && clock.data?.settable && (
              <>
                <Menu.Item value="t600">Let 10 minutes pass</Menu.Item>
                <Menu.Item value="t3600">Let an hour pass</Menu.Item>
                <Menu.Item value="t43200">Let half a day pass</Menu.Item>
                <Menu.Item value="away">Take the room sensor off the wall</Menu.Item>
                <Menu.Item value="back">Hang the room sensor up again</Menu.Item>
                <Menu.Separator />
              </>
            )}
            <Menu.Item value="bell">Bell of the pots, {soundIsOff() ? "off here: switch it on" : "on here: switch it off"}</Menu.Item>
            {canNotify() && !notifies() && <Menu.Item value="tell">Tell this desktop when a pot rings</Menu.Item>}
            <Menu.Item value="light">Night bake, on or off</Menu.Item>
            <Menu.Item value="reference">Reference, in or out</Menu.Item>
            <Menu.Item value="keys">Keys</Menu.Item>
            <Menu.Item value="record">{person.role === "lead" ? "The record, and what is signed in" : "What is signed in"}</Menu.Item>
            <Menu.Item value="out">Sign out</Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
