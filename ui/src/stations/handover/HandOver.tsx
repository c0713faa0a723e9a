import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { useArtists, useCopies, useMe } from "../../app/reads";
import { Sensitivities } from "../../app/Sensitivities";
import { Choose, Entry, Go, Heading, Refusal, Teach, WrongAt } from "../../parts/controls";
import { isFree, useWords } from "../../parts/copies";
import { day } from "../../parts/format";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Kit } from "./Kit";

/** Kits for a day, their sheets and labels, and the artist's link. */
export default function HandOver() {
  const { code } = useParams();
  const kits = useRead({ queryKey: ["kits"], queryFn: () => ask(api.GET("/api/kits")) });
  if (!kits.data) return null;
  return (
    <Box>
      <RoomHead title="Hand over" aside="what leaves the shop, and who signed for it" />
      <Grid templateColumns={columns("280px minmax(0,1fr)")} gap="36px">
        <Box>
          <Heading>Kits</Heading>
          <Standing
            empty={<Box color="muted">No kit yet.</Box>}
            items={kits.data.map((k) => ({
              code: k.code,
              text: `${k.artist}, ${day(k.day)}`,
              to: `/handover/${k.code}`,
              active: k.code === code,
              note: `${k.copies.map((c) => c.code).join(", ")}${k.copies.length ? ": " : ""}${k.received_at ? `received, signed by ${k.signed_name}` : k.handed_at ? "handed over, not signed yet" : "packed"}`,
            }))}
          />
        </Box>
        {code ? <Kit code={code} key={code} /> : <Pack />}
      </Grid>
    </Box>
  );
}

function Pack() {
  const copies = useCopies();
  const artists = useArtists();
  const plan = useRead({ queryKey: ["plan"], queryFn: () => ask(api.GET("/api/plan")) });
  const navigate = useNavigate();
  const [search] = useSearchParams();
  // What was tapped on Today is chosen already.
  const [chosen, setChosen] = useState<string[]>(() => search.get("copies")?.split(",").filter(Boolean) ?? []);
  const [dayID, setDayID] = useState("");
  const [artist, setArtist] = useState("");
  const [note, setNote] = useState("");
  const pack = useAct(async () => {
    const kit = await ask(api.POST("/api/kits", { body: { day_id: Number(dayID || plan.data?.[0]?.id || 0), artist, note, copies: chosen } }));
    navigate(`/handover/${kit.code}`);
  });
  const known = artists.data?.find((a) => a.name.toLowerCase() === artist.trim().toLowerCase());
  const accepted = copies.data?.filter((c) => isFree(c.state)) ?? [];
  if (!copies.data || !plan.data) return null;
  if (accepted.length === 0) return <Teach>No accepted copy waits. What is accepted in Check can be packed here for a shooting day.</Teach>;
  return (
    <Box maxW="640px">
      <Heading>Pack a kit</Heading>
      <Box color="muted" mb="8px">
        Accepted copies, not in a kit yet
      </Box>
      <Flex gap="10px" wrap="wrap" mb="14px">
        {accepted.map((c) => {
          const on = chosen.includes(c.code);
          return (
            <Box
              as="button"
              key={c.code}
              aria-pressed={on}
              data-copy={c.code}
              onClick={() => setChosen(on ? chosen.filter((x) => x !== c.code) : [...chosen, c.code])}
            >
              <Tag code={`${c.code}${on ? " ✓" : ""}`} bg={on ? "heatherSoft" : "sheet"} h="44px" />
              {c.use_as && (
                <Box as="span" layerStyle="small" ps="6px">
                  {useWords[c.use_as]}
                </Box>
              )}
            </Box>
          );
        })}
      </Flex>
      <WrongAt problem={pack.problem} name="copies" />
      <Grid templateColumns="1fr 1fr" gap="12px">
        <Choose label="For the day" name="day_id" value={dayID || String(plan.data[0]?.id ?? "")} set={setDayID} problem={pack.problem}>
          {plan.data.map((d) => (
            <option key={d.id} value={d.id}>
              {day(d.day)}, {d.place}
            </option>
          ))}
        </Choose>
        <Entry
          label="Makeup artist"
          name="artist"
          value={artist}
          set={setArtist}
          problem={pack.problem}
          suggestions={artists.data?.map((a) => a.name)}
        />
      </Grid>
      {known && <Takes artist={known.id} name={known.name} />}
      <Box h="10px" />
      <Entry label="Note for the artist" name="note" value={note} set={setNote} problem={pack.problem} />
      <Flex mt="14px" gap="14px">
        <Go act={() => void pack.run()} disabled={pack.busy}>
          Pack the kit
        </Go>
      </Flex>
      <Box mt="10px">
        <Refusal problem={pack.problem} />
      </Box>
    </Box>
  );
}

/** What an artist may not take themselves: glue, solvent, colour. Leads and fabricators see it. */
function Takes({ artist, name }: { artist: number; name: string }) {
  const me = useMe();
  const [open, setOpen] = useState(false);
  const role = me.data?.person?.role;
  const facts = useRead({
    queryKey: ["sensitivities", "artist", artist],
    enabled: role !== "apprentice",
    queryFn: () => ask(api.GET("/api/artists/{id}/sensitivities", { params: { path: { id: artist } } })),
  });
  if (!facts.data) return null;
  return (
    <Box mt="10px">
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            record
          </Box>
        }
      >
        What {name} may not touch
      </Heading>
      <Sensitivities
        facts={facts.data}
        none="Nothing recorded. Ask: what they may not take is compared with glue, remover and colour of every kit."
        record={(body) => ask(api.POST("/api/artists/{id}/sensitivities", { params: { path: { id: artist } }, body }))}
        erase={
          role === "lead"
            ? (fact) => ask(api.DELETE("/api/artists/{id}/sensitivities/{fact}", { params: { path: { id: artist, fact } } }))
            : undefined
        }
        open={open}
        setOpen={setOpen}
      />
    </Box>
  );
}
