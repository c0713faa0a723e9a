import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useMemo, useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { type Kind, MapDesk, useDesk } from "../../parts/map/MapDesk";
import { columns, fields, RoomHead } from "../../parts/Room";
import { Tag } from "../../parts/Tag";

type Look = Schemas["BriefLook"];

/** A character: its looks in stages and halves, the wearer's map of each, and how the wearer is made ready. */
export function Character({ code }: { code: string }) {
  const character = useRead({
    queryKey: ["character", code],
    queryFn: () => ask(api.GET("/api/characters/{code}", { params: { path: { code } } })),
  });
  const kinds = useRead<Kind[]>({ queryKey: ["map kinds"], queryFn: () => ask(api.GET("/api/map/kinds")), staleTime: Number.POSITIVE_INFINITY });
  const [shown, setShown] = useState<string>();
  const [making, setMaking] = useState(false);
  const desk = useDesk("head");
  const c = character.data;
  const look = c?.looks.find((l) => l.name === shown) ?? c?.looks[0];
  const first = look?.pieces[0] ?? c?.pieces[0]?.code;
  const brief = useRead({
    queryKey: ["brief", first, look?.name ?? ""],
    enabled: !!first,
    queryFn: () => ask(api.GET("/api/pieces/{code}/brief", { params: { path: { code: first ?? "" }, query: { look: look?.name ?? "" } } })),
  });
  const ready = useRead({
    queryKey: ["ready", code, look?.name ?? ""],
    enabled: !!c,
    queryFn: () => ask(api.GET("/api/characters/{code}/ready", { params: { path: { code }, query: { look: look?.name ?? "" } } })),
  });
  const pieces = useMemo(
    () => (brief.data && first ? [{ code: first, name: "", marks: brief.data.doc.marks }, ...brief.data.others] : []),
    [brief.data, first],
  );
  // The map opens on the part that the look's first piece is drawn on.
  const sheet = brief.data?.doc.marks[0]?.sheet;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the part changes, not when the desk does
  useEffect(() => {
    if (sheet) desk.setSheet(sheet);
  }, [sheet]);
  if (character.error && !c) return <Refusal problem={character.error as never} />;
  if (!c || !kinds.data) return null;
  return (
    <Flex direction="column" h={{ lg: "100%" }} minH="0">
      <RoomHead
        title={c.name}
        aside={`${c.code} · ${c.performer ?? "nobody named yet"} · ${c.production}`}
        acts={
          <Plain asChild h="36px">
            <a href={`/api/characters/${code}/card.pdf?look=${encodeURIComponent(look?.name ?? "")}`} target="_blank" rel="noreferrer">
              Print the performer's card
            </a>
          </Plain>
        }
      />
      <Grid
        templateColumns={columns("minmax(0, 0.95fr) minmax(0, 1.05fr)")}
        templateRows={{ base: "360px auto", lg: "minmax(0, 1fr)" }}
        gap="22px"
        flex="1"
        minH="0"
      >
        {brief.data ? (
          <MapDesk
            desk={desk}
            performer={c.performer_id}
            stamps={brief.data.stamps}
            pieces={pieces}
            look={brief.data.look_marks}
            wearer={brief.data.wearer_marks}
            areas={brief.data.map.areas}
            openings={brief.data.map.openings}
            kinds={kinds.data}
            title={`The wearer's map of ${look?.code ?? c.code}`}
          />
        ) : (
          <Box />
        )}
        <Box minH="0" overflowY="auto" pe="6px" tabIndex={0} role="region" aria-label="Looks and the performer's card">
          <Heading
            aside={
              <Box as="button" textDecoration="underline" onClick={() => setMaking(!making)}>
                write a look down
              </Box>
            }
          >
            Looks, in the order of their stages
          </Heading>
          {c.looks.length === 0 && !making && (
            <Box color="muted">
              None yet: all pieces are worn together. A look is one state, such as intact, hurt or older, and looks can share pieces.
            </Box>
          )}
          {c.looks.map((l) => (
            <OneLook key={l.name} character={code} look={l} pieces={c.pieces} active={l.name === look?.name} show={() => setShown(l.name)} />
          ))}
          {making && <LookForm character={code} pieces={c.pieces} next={c.looks.length + 1} close={() => setMaking(false)} />}
          {c.wanted.map((w) => (
            <Box key={w} color="gorse">
              {w}
            </Box>
          ))}
          {ready.data && <Ready ready={ready.data} />}
        </Box>
      </Grid>
    </Flex>
  );
}

function OneLook({
  character,
  look: l,
  pieces,
  active,
  show,
}: {
  character: string;
  look: Look;
  pieces: Schemas["Piece"][];
  active: boolean;
  show: () => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Box py="6px" borderBottomWidth="1px" borderColor="line" bg={active ? "heatherSoft" : undefined} px="8px">
      <Flex gap="12px" align="baseline">
        <Box as="button" fontWeight="700" onClick={show} aria-pressed={active} textDecoration={active ? "none" : "underline"}>
          {l.stage}. {l.code}
        </Box>
        <Box flex="1" layerStyle="note">
          {l.left_half ? `left half ${l.left_half}, right half ${l.right_half}` : ""}
          {l.left_half && l.note ? "; " : ""}
          {l.note}
        </Box>
        <Link to={`/finish?look=${l.id}&leaf=Hair`} style={{ textDecoration: "underline", fontSize: 14 }}>
          hair and inserts
        </Link>
        <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => setOpen(!open)}>
          change
        </Box>
      </Flex>
      <Flex gap="8px" wrap="wrap" mt="4px" align="center">
        {l.pieces.map((code) => (
          <Tag key={code} code={code} to={`/brief/${code}`} />
        ))}
        {l.shared.length > 0 && <Box layerStyle="small">{l.shared.join(", ")} shared with another look</Box>}
      </Flex>
      {open && <LookForm character={character} pieces={pieces} look={l} next={l.stage} close={() => setOpen(false)} />}
    </Box>
  );
}

function LookForm({
  character,
  pieces,
  look,
  next,
  close,
}: {
  character: string;
  pieces: Schemas["Piece"][];
  look?: Look;
  next: number;
  close: () => void;
}) {
  const [name, setName] = useState(look?.name ?? "");
  const [stage, setStage] = useState(String(look?.stage ?? next));
  const [left, setLeft] = useState(look?.left_half ?? "");
  const [right, setRight] = useState(look?.right_half ?? "");
  const [note, setNote] = useState(look?.note ?? "");
  const [version] = useState(look?.version ?? 0); // the one that was seen
  const [worn, setWorn] = useState(look?.pieces ?? pieces.map((p) => p.code));
  const keep = useAct(async () => {
    await ask(
      api.PUT("/api/characters/{code}/looks", {
        params: { path: { code: character } },
        body: {
          name,
          stage: Math.round(Number(stage)) || 1,
          left_half: left,
          right_half: right,
          note,
          pieces: worn,
          marks: look?.marks ?? [],
          version,
        },
      }),
    );
    close();
  });
  return (
    <Box p="10px" my="6px" bg="deep" borderRadius="4px 14px 14px 14px">
      <Grid templateColumns={fields("1fr 70px 1fr 1fr")} gap="8px">
        {look ? (
          <Box alignSelf="end">{look.code}</Box>
        ) : (
          <Entry label="Its name" name="name" value={name} set={setName} problem={keep.problem} placeholder="hurt" />
        )}
        <Entry label="Stage" name="stage" value={stage} set={setStage} problem={keep.problem} />
        <Entry label="Left half becomes" name="left_half" value={left} set={setLeft} problem={keep.problem} placeholder="both as one" />
        <Entry label="Right half becomes" name="right_half" value={right} set={setRight} problem={keep.problem} />
      </Grid>
      <Box h="6px" />
      <Entry label="How it goes over from the stage before" name="note" value={note} set={setNote} problem={keep.problem} />
      <Flex gap="4px 14px" wrap="wrap" my="8px">
        {pieces.map((p) => (
          <Checkbox.Root
            key={p.code}
            size="sm"
            checked={worn.includes(p.code)}
            onCheckedChange={(e) => setWorn(e.checked ? [...worn, p.code] : worn.filter((x) => x !== p.code))}
          >
            <Checkbox.HiddenInput />
            <Checkbox.Control borderColor="ink" />
            <Checkbox.Label>
              {p.code} {p.name}
            </Checkbox.Label>
          </Checkbox.Root>
        ))}
      </Flex>
      <Flex gap="10px" align="center">
        <Plain h="34px" disabled={keep.busy} onClick={() => void keep.run()}>
          Keep the look
        </Plain>
        <Plain h="34px" onClick={close}>
          Leave it
        </Plain>
        <Refusal problem={keep.problem} />
      </Flex>
    </Box>
  );
}

function Ready({ ready }: { ready: Schemas["BriefReady"] }) {
  return (
    <Box mt="16px">
      <Heading>Making skin and hair ready</Heading>
      {ready.preparations.map((p) => (
        <Box key={p.piece} mb="8px">
          <Box fontWeight="600">
            <Link to={`/brief/${p.piece}`}>{p.piece}</Link>, {p.where}
            <Box as="span" color="muted" fontWeight="400">
              {" "}
              {p.adhesive || "no adhesive in its section yet"}
            </Box>
          </Box>
          {p.steps.map((s, i) => (
            <Box key={s.text} lineHeight="1.35">
              {i + 1}. {s.text}{" "}
              <Box as="span" layerStyle="note">
                {s.why}
              </Box>
            </Box>
          ))}
        </Box>
      ))}
      <Heading>The performer's card</Heading>
      {(
        [
          ["Stop", ready.card.stop],
          ["Do", ready.card.do],
          ["Keep still", ready.card.still],
          ["While it is worn", ready.card.worn],
        ] as const
      ).map(([title, list]) => (
        <Grid key={title} templateColumns="120px 1fr" gap="10px" py="3px">
          <Box color="muted">{title}</Box>
          <Box lineHeight="1.35">
            {list.map((t) => (
              <Box key={t}>{t}</Box>
            ))}
          </Box>
        </Grid>
      ))}
    </Box>
  );
}
