import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { figures, hex, type Room } from "./colours";
import { noReading, ReadingFields, sent } from "./Reading";

const steps = (n: number) => (n === 0 ? "as read" : n > 0 ? `+${n}` : `−${-n}`);

/** What the piece is to look like: a reading of its wearer, a swatch, a picture or a wish; the tan until the day; how far off is near enough. */
export function Target({ piece, room }: { piece: string; room: Room }) {
  const aim = room.aim;
  const [open, setOpen] = useState(!aim);
  const set = useAct((body: Parameters<typeof put>[1]) => put(piece, body));
  if (!aim && room.skins.length === 0)
    return (
      <Box mb="10px">
        <Box fontWeight="600">{room.no_aim}</Box>
        <Choice piece={piece} room={room} close={() => {}} />
      </Box>
    );
  const tan = (tan_steps: number) =>
    aim &&
    set.run({
      kind: aim.kind,
      region: aim.region ?? "",
      side: (aim.side as "" | "L" | "R") ?? "",
      swatch: aim.swatch,
      tan_steps,
      allowed: aim.own ? aim.allowed : undefined,
      version: aim.version,
    });
  return (
    <Box mb="14px" data-testid="target">
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            {open ? "close" : "choose another"}
          </Box>
        }
      >
        Target
      </Heading>
      {aim && (
        <>
          <Box>
            <b>{aim.words}</b>
            {aim.kind === "skin" &&
              `, ${aim.readings} ${aim.readings === 1 ? "reading" : "readings"}${aim.aside > 0 ? `, ${aim.aside} put aside` : ""}, ${aim.mcdm.toFixed(1)} apart`}
          </Box>
          <Box layerStyle="small">
            {figures(aim.lab)}, itself good to ±{aim.uncertainty.toFixed(1)}
            {aim.guess && ": a guess, until a reader has looked"}; under other lights {aim.measured ? "as measured" : "as a likely spectrum has it"}.
            May be off by <b>{aim.allowed.toFixed(1)}</b> ({aim.why}).
          </Box>
          {aim.kind === "skin" && aim.tans.length > 0 && (
            <Box mt="8px">
              <Box layerStyle="small">On the day the skin will be</Box>
              <Flex role="radiogroup" aria-label="Steps of tan until the day">
                {aim.tans.map((t) => (
                  <Box
                    as="button"
                    key={t.steps}
                    role="radio"
                    aria-checked={t.steps === aim.tan_steps}
                    aria-label={`${steps(t.steps)}${t.steps === 0 ? "" : " steps"}`}
                    flex="1"
                    onClick={() => void tan(t.steps)}
                  >
                    <Box
                      h="30px"
                      bg={hex(t.lab)}
                      outline={t.steps === aim.tan_steps ? "3px solid #111" : "none"}
                      outlineOffset="-3px"
                      position="relative"
                    />
                    <Box fontSize="13px" fontWeight={t.steps === aim.tan_steps ? 700 : 400}>
                      {steps(t.steps)}
                    </Box>
                  </Box>
                ))}
              </Flex>
            </Box>
          )}
          <Refusal problem={set.problem} />
        </>
      )}
      {open && <Choice piece={piece} room={room} close={() => setOpen(false)} />}
    </Box>
  );
}

type Kind = "skin" | "swatch" | "wish" | "picture";
type Body = NonNullable<Parameters<typeof put>[1]>;

const put = (piece: string, body: import("../../app/api").Schemas["ColourNewAim"]) =>
  ask(api.PUT("/api/pieces/{code}/colour-target", { params: { path: { code: piece } }, body }));

function Choice({ piece, room, close }: { piece: string; room: Room; close: () => void }) {
  const aim = room.aim;
  const [kind, setKind] = useState<Kind>(aim?.kind ?? (room.skins.length > 0 ? "skin" : "wish"));
  const [place, setPlace] = useState(aim?.region ? `${aim.region}/${aim.side ?? ""}` : "");
  const [swatch, setSwatch] = useState(String(aim?.swatch ?? ""));
  const [words, setWords] = useState(aim?.kind === "wish" || aim?.kind === "picture" ? aim.words : "");
  const [reading, setReading] = useState(noReading());
  const [allowed, setAllowed] = useState(aim?.own ? String(aim.allowed) : "");
  const swatches = useRead({
    queryKey: ["swatches", "", ""],
    enabled: kind === "swatch",
    queryFn: () => ask(api.GET("/api/swatches", { params: { query: {} } })),
  });
  const keep = useAct(async () => {
    const first = room.skins[0];
    const [region, side] = (place || (first ? `${first.region}/${first.side}` : "/")).split("/");
    const body: Body = {
      kind,
      region: kind === "skin" ? region : "",
      side: kind === "skin" ? (side as "" | "L" | "R") : "",
      tan_steps: aim?.tan_steps ?? 0,
      version: aim?.version ?? 0,
      words,
      allowed: allowed.trim() === "" ? undefined : Number(allowed.replace(",", ".")),
    };
    if (kind === "swatch") body.swatch = Number(swatch || swatches.data?.[0]?.id || 0);
    if (kind === "wish" || kind === "picture") body.reading = sent(kind === "picture" ? { ...reading, source: "picture" } : reading);
    await put(piece, body);
    close();
  });
  return (
    <Flex direction="column" gap="8px" mt="10px" p="12px" bg="deep" borderRadius="4px">
      <Choose label="Taken from" name="kind" value={kind} set={(k) => setKind(k as Kind)} problem={keep.problem}>
        {room.skins.length > 0 && <option value="skin">the wearer's skin as it was read</option>}
        <option value="swatch">a swatch of the book</option>
        <option value="picture">a picture with a grey card in it</option>
        <option value="wish">a colour that is wished for</option>
      </Choose>
      {kind === "skin" && (
        <Choose label="Where it was read" name="region" value={place} set={setPlace} problem={keep.problem}>
          {room.skins.map((t) => (
            <option key={`${t.region}/${t.side}`} value={`${t.region}/${t.side}`}>
              {t.text} {t.side}, {t.readings} {t.readings === 1 ? "reading" : "readings"}
              {t.uncertain ? ", unsure" : ""}
            </option>
          ))}
        </Choose>
      )}
      {kind === "swatch" && (
        <Choose label="Swatch" name="swatch" value={swatch} set={setSwatch} problem={keep.problem}>
          {(swatches.data ?? []).map((w) => (
            <option key={w.id} value={w.id}>
              {w.name}, {w.medium}
            </option>
          ))}
        </Choose>
      )}
      {(kind === "wish" || kind === "picture") && (
        <>
          <Entry label="What it is" name="words" value={words} set={setWords} problem={keep.problem} placeholder="wet slate, as on the quay" />
          <ReadingFields
            value={kind === "picture" ? { ...reading, source: "picture" } : reading}
            set={setReading}
            problem={keep.problem}
            only={kind === "picture" ? ["picture"] : ["reader", "lab", "spectrum", "eye"]}
          />
        </>
      )}
      <Entry
        label="May be off by, ΔE00"
        name="allowed"
        value={allowed}
        set={setAllowed}
        problem={keep.problem}
        placeholder="by the finish of its region"
        width="200px"
      />
      <Flex gap="10px">
        <Plain disabled={keep.busy} onClick={() => void keep.run()}>
          Make it the target
        </Plain>
        {aim && (
          <Plain borderColor="transparent" onClick={close}>
            Leave it
          </Plain>
        )}
      </Flex>
      <Refusal problem={keep.problem} />
    </Flex>
  );
}
