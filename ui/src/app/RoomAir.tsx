import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Entry, Heading, Plain, Refusal } from "../parts/controls";
import { dayTime } from "../parts/format";
import { useAct } from "./act";
import { api, ask, type Schemas } from "./api";
import { useDevice, usePlaces } from "./reads";
import { Sheet } from "./Sheet";

/** The air of the room as the shop knows it: by its sensor, or as somebody typed it. */
export function RoomAir({ shelf }: { shelf: Schemas["BuildShelf"] }) {
  const sensor = useDevice("room");
  const [open, setOpen] = useState(false);
  const warm = (usePlaces().data ?? []).filter(
    (p) => (p.kind === "oven" || p.kind === "warm_box") && p.temp_c !== undefined && (p.set_c !== undefined || p.pots.length > 0),
  );
  const words = `${shelf.room.temp_c.toFixed(1)} °C · ${Math.round(shelf.room.rh * 100)} % RH`;
  return (
    <>
      <Box>room {words}</Box>
      {warm.length > 0 && <Box>{warm.map((p) => `${p.name} ${p.temp_c?.toFixed(0)} °C`).join(" · ")}</Box>}
      {sensor ? (
        !shelf.room_measured && <Box>not read, reckoned with</Box>
      ) : (
        <Box as="button" textDecoration="underline" onClick={() => setOpen(true)}>
          {shelf.room_measured && shelf.room_at ? `typed ${dayTime(shelf.room_at)}, type it again` : "nobody has read it: type it"}
        </Box>
      )}
      {open && <TypeRoom close={() => setOpen(false)} />}
    </>
  );
}

function TypeRoom({ close }: { close: () => void }) {
  const [temp, setTemp] = useState("");
  const [rh, setRh] = useState("");
  const keep = useAct(async () => {
    await ask(api.POST("/api/room", { body: { temp_c: Number(temp.replace(",", ".")), rh: Number(rh.replace(",", ".")) / 100 } }));
    close();
  });
  const numbers = [temp, rh].every((t) => t.trim() !== "" && Number.isFinite(Number(t.replace(",", "."))));
  return (
    <Sheet label="The room" close={close} width="420px">
      <Heading>What the room's thermometer shows now</Heading>
      <Flex gap="12px">
        <Entry label="°C" name="temp_c" value={temp} set={setTemp} problem={keep.problem} placeholder="20.5" />
        <Entry label="% RH" name="rh" value={rh} set={setRh} problem={keep.problem} placeholder="50" />
      </Flex>
      <Box layerStyle="small" my="8px">
        Drying and cure are reckoned with it until it is typed again; the older it gets, the wider their bands.
      </Box>
      <Flex gap="10px">
        <Plain disabled={!numbers || keep.busy} onClick={() => void keep.run()}>
          Keep it
        </Plain>
        <Plain onClick={close}>Leave it</Plain>
      </Flex>
      <Refusal problem={keep.problem} />
    </Sheet>
  );
}
