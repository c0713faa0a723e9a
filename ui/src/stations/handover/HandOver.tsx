import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { useArtists, useCopies, useMe, usePieces } from "../../app/reads";
import { Sensitivities } from "../../app/Sensitivities";
import { Choose, Entry, Go, Heading, Plain, Refusal, Teach, WrongAt } from "../../parts/controls";
import { isFree, useWords } from "../../parts/copies";
import { day, dayTime } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Kit } from "./Kit";
import { Skin } from "./Skin";

/** Kits for a day: packed, out, coming back; what skin reacted to; and who is to be rung. */
export default function HandOver() {
  const { code } = useParams();
  const [search, setSearch] = useSearchParams();
  const me = useMe();
  const kits = useRead({ queryKey: ["kits"], queryFn: () => ask(api.GET("/api/kits")) });
  if (!kits.data) return null;
  const skin = !code && search.get("leaf") === "Skin";
  return (
    <Box>
      <RoomHead
        title="Hand over"
        aside="what leaves the shop, who signed for it, and what came back"
        acts={
          <Flex gap="10px">
            {me.data?.person?.role !== "apprentice" && (
              <Plain
                aria-pressed={skin}
                onClick={() => (code ? undefined : setSearch(skin ? {} : { leaf: "Skin" }))}
                display={code ? "none" : undefined}
              >
                {skin ? "Kits" : "What skin reacted to"}
              </Plain>
            )}
          </Flex>
        }
      />
      <NotReached />
      <Grid templateColumns={columns("250px minmax(0,1fr)")} gap="30px">
        <Box>
          <Heading aside={<Link to="/handover">new</Link>}>Kits</Heading>
          <Standing
            empty={<Box color="muted">No kit yet.</Box>}
            items={kits.data.map((k) => ({
              code: k.code,
              text: `${k.performer || k.artist}, ${day(k.day)}`,
              to: `/handover/${k.code}`,
              active: k.code === code,
              note: `${k.copies.map((c) => c.code).join(", ")}${k.copies.length ? ": " : ""}${k.back_at ? "came back" : k.received_at ? `received, signed by ${k.signed_name}` : k.handed_at ? "handed over, not signed yet" : "packed"}`,
            }))}
          />
        </Box>
        {code ? <Kit code={code} key={code} /> : skin ? <Skin /> : <Pack />}
      </Grid>
    </Box>
  );
}

/** Kits with something that was called back, of which nobody answered: who saw it, and who is to be rung. */
function NotReached() {
  const list = useRead({ queryKey: ["not reached"], queryFn: () => ask(api.GET("/api/not-reached")), refetchInterval: 30_000 });
  if (!list.data?.length) return null;
  return (
    <Notice tone="stop" mb="14px" data-testid="not-reached">
      {list.data.map((n) => (
        <Box key={n.kit + n.recall}>
          <b>{n.kit}</b>, recall{" "}
          <Link to={`/recalls/${n.recall}`}>
            <u>{n.recall}</u>
          </Link>
          : {n.reached ? `${n.artist}'s page shows it, and nobody answered yet` : `${n.artist} was not reached since`}
          {!n.reached && <b>{n.phone ? ` · ring ${n.phone}` : " · nobody's number is written down: print the letter"}</b>}.
          <Box as="span" layerStyle="small">
            {" "}
            <a href={`/api/recalls/${n.recall}/letters.pdf`} target="_blank" rel="noreferrer">
              <u>the letter, PDF</u>
            </a>{" "}
            · {n.asked_at ? `their page asked last ${dayTime(n.asked_at)}` : "their page was never opened"}
          </Box>
        </Box>
      ))}
    </Notice>
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
  const [dayID, setDayID] = useState(() => search.get("day") ?? "");
  const [artist, setArtist] = useState("");
  const [note, setNote] = useState("");
  const [performer, setPerformer] = useState("");
  const [scene, setScene] = useState("");
  const [more, setMore] = useState<number[]>([]);
  const pieces = usePieces();
  const pack = useAct(async () => {
    const day_id = Number(dayID || plan.data?.[0]?.id || 0);
    const kit = await ask(
      api.POST("/api/kits", { body: { day_id, more_days: more.filter((d) => d !== day_id), artist, performer, scene, note, copies: chosen } }),
    );
    navigate(`/handover/${kit.code}`);
  });
  const known = artists.data?.find((a) => a.name.toLowerCase() === artist.trim().toLowerCase());
  const accepted = copies.data?.filter((c) => isFree(c.state)) ?? [];
  if (!copies.data || !plan.data) return null;
  const performers = [...new Set((pieces.data ?? []).flatMap((p) => (p.performer ? [p.performer] : [])))].sort();
  return (
    <Box maxW="640px">
      <Heading>Pack a kit</Heading>
      {accepted.length === 0 ? (
        <Teach>
          No accepted copy waits. What is accepted in Check can be packed here for a shooting day; a kit can be begun for a performer all the same.
        </Teach>
      ) : (
        <Box color="muted" mb="8px">
          Accepted copies, not in a kit yet
        </Box>
      )}
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
      <Grid templateColumns="1fr 1fr" gap="12px" mt="10px">
        <Choose label="Whose kit" name="performer" value={performer} set={setPerformer} problem={pack.problem}>
          <option value="">the wearer of its copies</option>
          {performers.map((p) => (
            <option key={p} value={p}>
              {p}
            </option>
          ))}
        </Choose>
        <Entry label="Scene" name="scene" value={scene} set={setScene} problem={pack.problem} />
      </Grid>
      {plan.data.length > 1 && (
        <Box mt="8px">
          <Box layerStyle="note">For further days too</Box>
          <Flex gap="6px" wrap="wrap">
            {plan.data
              .filter((d) => String(d.id) !== (dayID || String(plan.data?.[0]?.id)))
              .map((d) => (
                <Plain
                  key={d.id}
                  h="34px"
                  aria-pressed={more.includes(d.id)}
                  bg={more.includes(d.id) ? "heatherSoft" : undefined}
                  onClick={() => setMore(more.includes(d.id) ? more.filter((x) => x !== d.id) : [...more, d.id])}
                >
                  {day(d.day)}
                </Plain>
              ))}
          </Flex>
        </Box>
      )}
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
