import { Box, Flex } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { createContext, lazy, Suspense, useContext, useEffect, useState } from "react";
import { Outlet, useLocation, useNavigate } from "react-router";
import { type Change, changesSince, changesSoFar } from "./changes";
import { KeysHelp } from "./KeysHelp";
import { useKey } from "./keys";
import { Line } from "./Line";
import { NoteBar } from "./NoteBar";
import { outbox } from "./outbox";
import { PotShelf } from "./PotShelf";
import { places } from "./places";
import { Restored } from "./Restored";
import { Round } from "./Round";
import { readAgain } from "./read";
import { useMe } from "./reads";
import { SayWhy } from "./SayWhy";
import { Search } from "./Search";
import { SignIn } from "./SignIn";
import { openStream } from "./stream";

// It draws the wearer's map: nobody waits for that before the first screen.
const ReferenceDrawer = lazy(() => import("./ReferenceDrawer").then((m) => ({ default: m.ReferenceDrawer })));

interface InHand {
  code: string | undefined;
  take: (code: string | undefined) => void;
}

const Hand = createContext<InHand>({ code: undefined, take: () => {} });

/** Says which piece a screen is about, so that N notes on it. */
export function useInHand(code: string | undefined) {
  const { take } = useContext(Hand);
  useEffect(() => {
    if (code) take(code);
  }, [code, take]);
}

/** Everything that stands round a room: the round, the shelf, search and notes. */
export function Shell() {
  const me = useMe();
  const location = useLocation();
  const navigate = useNavigate();
  const [open, setOpen] = useState<"search" | "note" | "keys">();
  const [inHand, take] = useState<string>();
  // The drawer stays out from room to room until it is put away.
  const [reference, setReference] = useState(false);
  useLiveHints(!!me.data?.person);
  useSending(me.data?.person?.id);

  useKey("/", "find anything", () => setOpen("search"));
  useKey("N", "note something", () => setOpen("note"));
  useKey("?", "show the keys", () => setOpen("keys"));
  useKey("R", "reference in or out", () => setReference(!reference));
  useKey("Escape", "step back", () => {
    if (open) setOpen(undefined);
    else if (reference) setReference(false);
    else (document.activeElement as HTMLElement | null)?.blur();
  });
  usePlaceKeys(navigate);

  if (me.isPending) return null;
  if (!me.data?.person) return <SignIn demo={me.data?.demo ?? false} offline={me.isError} />;
  const close = () => setOpen(undefined);
  return (
    <Hand.Provider value={{ code: inHand, take }}>
      <Flex direction="column" h="100%" minH="0">
        <SkipLink />
        <Round
          person={me.data.person}
          demo={me.data.demo}
          onSearch={() => setOpen("search")}
          onReference={() => setReference(!reference)}
          onKeys={() => setOpen("keys")}
        />
        <Line person={me.data.person.id} />
        <Restored lead={me.data.person.role === "lead"} />
        <Box
          as="main"
          id="room"
          tabIndex={-1}
          flex="1"
          minH="0"
          overflowY="auto"
          px={{ base: "14px", md: "28px" }}
          pt={{ base: "12px", md: "16px" }}
          pb="12px"
          _focusVisible={{ outline: "none" }}
          key={location.pathname.split("/")[1]}
        >
          <Outlet />
        </Box>
        <PotShelf />
        {reference && (
          <Suspense>
            <ReferenceDrawer code={inHand} close={() => setReference(false)} />
          </Suspense>
        )}
        {open === "search" && <Search close={close} />}
        {open === "note" && <NoteBar code={inHand} close={close} />}
        <SayWhy />
        {open === "keys" && <KeysHelp close={close} />}
      </Flex>
    </Hand.Provider>
  );
}

/** The first thing that Tab reaches: past the round, into the room. */
function SkipLink() {
  return (
    <Box
      asChild
      position="absolute"
      left="12px"
      top="-80px"
      zIndex="skipLink"
      bg="sheet"
      borderWidth="1.5px"
      borderColor="ink"
      borderRadius="8px"
      px="16px"
      py="8px"
      _focus={{ top: "10px" }}
    >
      <button type="button" onClick={() => document.getElementById("room")?.focus()}>
        Skip to the room
      </button>
    </Box>
  );
}

function usePlaceKeys(navigate: (to: string) => void) {
  useKey("1", "Brief", () => navigate(`/${places[0].name}`));
  useKey("2", "Form", () => navigate(`/${places[1].name}`));
  useKey("3", "Sculpt", () => navigate(`/${places[2].name}`));
  useKey("4", "Mould", () => navigate(`/${places[3].name}`));
  useKey("5", "Mix", () => navigate(`/${places[4].name}`));
  useKey("6", "Build", () => navigate(`/${places[5].name}`));
  useKey("7", "Colour", () => navigate(`/${places[6].name}`));
  useKey("8", "Finish", () => navigate(`/${places[7].name}`));
  useKey("9", "Check", () => navigate(`/${places[8].name}`));
  useKey("0", "Hand over", () => navigate(`/${places[9].name}`));
}

/** Sends what waits as soon as it can, and reads again what then changed. */
function useSending(person: number | undefined) {
  const queries = useQueryClient();
  useEffect(() => {
    if (!person) return;
    const send = async () => {
      if (outbox.list().length === 0) return;
      const mark = changesSoFar();
      await outbox.flush(person);
      await readAgain(queries, changesSince(mark));
    };
    void send();
    const timer = window.setInterval(() => void send(), 2_000);
    window.addEventListener("online", send);
    return () => {
      window.clearInterval(timer);
      window.removeEventListener("online", send);
    };
  }, [person, queries]);
}

/** Hints say that something changed; what is shown is then read again. */
function useLiveHints(signedIn: boolean) {
  const queries = useQueryClient();
  useEffect(() => {
    if (!signedIn) return;
    let waiting: number | undefined;
    let changes: Change[] = [];
    const soon = () => {
      window.clearTimeout(waiting);
      waiting = window.setTimeout(() => {
        void readAgain(queries, changes);
        changes = [];
      }, 120);
    };
    const hint = (e: MessageEvent<string>) => {
      changes.push(JSON.parse(e.data) as Change);
      soon();
    };
    // Each opening reads what was missed while the line was down: all of it.
    const open = () => void readAgain(queries);
    const stop = openStream("/api/events", { hint, open });
    return () => {
      window.clearTimeout(waiting);
      stop();
    };
  }, [signedIn, queries]);
}
