import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { useArtists } from "../../app/reads";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";

type What = "makeup artist" | "workshop";

/** Whom the artist's page says to ring, and how the shop rings the artist: the address book, where it is needed. */
export function Rung({ artist }: { artist: string }) {
  const workshop = useRead({ queryKey: ["workshop"], queryFn: () => ask(api.GET("/api/workshop")) });
  const artists = useArtists();
  const [more, setMore] = useState(false);
  const theirs = artists.data?.find((a) => a.name === artist)?.phone ?? "";
  return (
    <Box>
      <Heading>Who is rung</Heading>
      {artists.data && <Phone key={`${artist}${theirs}`} name={artist} what="makeup artist" phone={theirs} />}
      {workshop.data?.map((c) => (
        <Phone key={`${c.name}${c.phone}`} name={c.name} what="workshop" phone={c.phone} />
      ))}
      {workshop.data?.length === 0 && <Box color="rust">The page names nobody of the shop to ring.</Box>}
      {more ? (
        <Phone name="" what="workshop" phone="" done={() => setMore(false)} />
      ) : (
        <Box as="button" layerStyle="small" textDecoration="underline" mt="4px" onClick={() => setMore(true)}>
          somebody else of the shop
        </Box>
      )}
    </Box>
  );
}

/** One number; it is written down when it was changed, and taken out when nothing stands in it. */
function Phone({ name, what, phone, done }: { name: string; what: What; phone: string; done?: () => void }) {
  const [who, setWho] = useState(name);
  const [typed, setTyped] = useState(phone);
  const keep = useAct(async () => {
    await ask(api.PUT("/api/contacts", { body: { name: who, what, phone: typed } }));
    done?.();
  });
  const changed = typed !== phone || (!name && who !== "");
  return (
    <Box mb="6px">
      <Flex gap="8px" align="end">
        {!name && <Entry label="Who" name="name" value={who} set={setWho} problem={keep.problem} />}
        <Box flex="1">
          <Entry
            label={name ? `${name}, ${what === "workshop" ? "of the shop" : "artist"}` : "Number"}
            name="phone"
            type="tel"
            value={typed}
            set={setTyped}
            problem={keep.problem}
            placeholder="no number yet"
          />
        </Box>
        {changed && (
          <Plain h="40px" disabled={keep.busy || !who.trim()} onClick={() => void keep.run()}>
            Keep
          </Plain>
        )}
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}
