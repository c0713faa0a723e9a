import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { labToHex } from "../../parts/lab";
import { Picture } from "../../parts/Picture";
import { fields } from "../../parts/Room";
import { Adding, Describe } from "./Pinned";

type Reference = Schemas["PieceReference"];
type NoteKind = "note" | "line" | "colour";

/** Reference pictures with notes pinned at points, lines traced on them and colours picked from them. */
export function References({ piece, list }: { piece: Schemas["PieceView"]; list?: (text: string, picture: number) => void }) {
  const [at, setAt] = useState<number>();
  const [adding, setAdding] = useState(piece.references.length === 0);
  const picture = piece.references.find((r) => r.id === at) ?? piece.references[0];
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setAdding(!adding)}>
            pin a picture
          </Box>
        }
      >
        Reference
      </Heading>
      {adding && <Adding code={piece.code} done={() => setAdding(false)} />}
      {piece.references.length === 0 && (
        <Box color="muted">Nothing pinned yet. Makers check the look against pictures at every step; pin the one that counts.</Box>
      )}
      {piece.references.length > 1 && (
        <Flex gap="8px" mb="8px" wrap="wrap">
          {piece.references.map((r) => (
            <Box
              key={r.id}
              as="button"
              aria-pressed={r.id === picture?.id}
              borderWidth="2px"
              borderColor={r.id === picture?.id ? "heather" : "line"}
              onClick={() => setAt(r.id)}
            >
              <img src={`/api/files/${r.sha256}?width=480`} alt={r.caption} style={{ height: 52, display: "block" }} />
            </Box>
          ))}
        </Flex>
      )}
      {picture && <Looked key={picture.id} picture={picture} list={list} />}
    </Box>
  );
}

function Looked({ picture, list }: { picture: Reference; list?: (text: string, picture: number) => void }) {
  const [kind, setKind] = useState<NoteKind>();
  const [points, setPoints] = useState<[number, number][]>([]);
  const [label, setLabel] = useState("");
  const [words, setWords] = useState("");
  const [half, setHalf] = useState("0.01");
  const [marked, setMarked] = useState<number>();
  const leave = () => {
    setKind(undefined);
    setPoints([]);
    setLabel("");
    setWords("");
  };
  const pin = useAct(async () => {
    if (!kind) return;
    await ask(
      api.POST("/api/references/{id}/notes", { params: { path: { id: picture.id } }, body: { kind, points, label, words, half: Number(half) } }),
    );
    leave();
  });
  const unpin = useAct((id: number) => ask(api.DELETE("/api/reference-notes/{id}", { params: { path: { id } } })));
  // The place can be typed too, in shares of the picture.
  const place = placeText(points);
  return (
    <Box>
      <Picture
        picture={picture}
        height="300px"
        marked={marked}
        setting={kind ? points : undefined}
        set={kind ? (p) => setPoints(kind === "line" ? [...points, p] : [p]) : undefined}
      />
      <Describe picture={picture} />
      {kind ? (
        <Box p="10px" bg="deep" borderRadius="4px 14px 14px 14px">
          <Grid templateColumns={fields("1fr 1.4fr 1fr")} gap="8px">
            <Entry label="Label" name="label" value={label} set={setLabel} problem={pin.problem} placeholder="whatever you call it" />
            <Entry label="In words" name="words" value={words} set={setWords} problem={pin.problem} />
            <PlaceEntry
              label={kind === "line" ? "Points, % across and down" : "Place, % across and down"}
              text={place}
              set={setPoints}
              problem={pin.problem}
            />
          </Grid>
          <Flex gap="10px" mt="8px" align="center" wrap="wrap">
            <Plain h="34px" disabled={pin.busy || points.length === 0} onClick={() => void pin.run()}>
              {kind === "colour" ? "Pick it" : "Pin it"}
            </Plain>
            {kind === "line" && (
              <Plain h="34px" disabled={points.length === 0} onClick={() => setPoints(points.slice(0, -1))}>
                One back
              </Plain>
            )}
            <Plain h="34px" onClick={leave}>
              Leave it
            </Plain>
            {kind === "colour" && (
              <Box as="label" fontSize="14px" color="muted">
                mean of{" "}
                <select value={half} onChange={(e) => setHalf(e.target.value)} style={{ background: "var(--chakra-colors-sheet)" }}>
                  <option value="0.004">a small patch</option>
                  <option value="0.01">a patch</option>
                  <option value="0.03">a large patch</option>
                </select>
              </Box>
            )}
            <Box layerStyle="small">{points.length === 0 ? "Touch the picture where it is." : ""}</Box>
          </Flex>
        </Box>
      ) : (
        <Flex gap="10px" wrap="wrap">
          <Plain h="34px" onClick={() => setKind("note")}>
            Pin a note
          </Plain>
          <Plain h="34px" onClick={() => setKind("line")}>
            Trace a line
          </Plain>
          <Plain h="34px" onClick={() => setKind("colour")}>
            Pick a colour
          </Plain>
          <Plain asChild h="34px">
            <a href={`/api/files/${picture.sha256}`} target="_blank" rel="noreferrer">
              The original
            </a>
          </Plain>
        </Flex>
      )}
      <Refusal problem={pin.problem ?? unpin.problem} />
      <Box mt="8px">
        {picture.notes.map((n, i) => (
          <NoteLine
            key={n.id}
            note={n}
            n={i + 1}
            mark={setMarked}
            unpin={() => void unpin.run(n.id)}
            list={list && (() => list(n.label, picture.id))}
          />
        ))}
      </Box>
    </Box>
  );
}

/** Places as they are typed: kept as text until they are figures. */
function PlaceEntry({
  label,
  text,
  set,
  problem,
}: {
  label: string;
  text: string;
  set: (p: [number, number][]) => void;
  problem: ReturnType<typeof useAct>["problem"];
}) {
  const [typed, setTyped] = useState("");
  const read = (t: string) =>
    t
      .split(",")
      .map((p) => p.trim().split(/\s+/).map(Number))
      .filter((p) => p.length === 2 && p.every(Number.isFinite))
      .map((p): [number, number] => [p[0] / 100, p[1] / 100]);
  // A touch on the picture overtakes what was typed.
  const same = placeText(read(typed)) === text;
  return (
    <Entry
      label={label}
      name="points"
      value={same ? typed : text}
      problem={problem}
      placeholder="40 55"
      set={(t) => {
        setTyped(t);
        set(read(t));
      }}
    />
  );
}

const placeText = (points: [number, number][]) => points.map((p) => p.map((x) => (100 * x).toFixed(0)).join(" ")).join(", ");

function NoteLine({
  note,
  n,
  mark,
  unpin,
  list,
}: {
  note: Schemas["PieceReferenceNote"];
  n: number;
  mark: (id: number | undefined) => void;
  unpin: () => void;
  /** Puts what the note names into the list of what must not be left out. */
  list?: () => void;
}) {
  const [label, setLabel] = useState(note.label);
  const [open, setOpen] = useState(false);
  const rename = useAct(async () => {
    await ask(api.PUT("/api/reference-notes/{id}", { params: { path: { id: note.id } }, body: { label, words: note.words } }));
    setOpen(false);
  });
  return (
    <Box py="2px" onPointerEnter={() => mark(note.id)} onPointerLeave={() => mark(undefined)}>
      <Flex gap="10px" align="center">
        <Box w="18px" fontWeight="700">
          {n}
        </Box>
        {note.lab && (
          <Box
            w="40px"
            h="22px"
            bg={labToHex(note.lab.l, note.lab.a, note.lab.b)}
            borderWidth="1px"
            borderColor="ink"
            flexShrink="0"
            aria-hidden="true"
          />
        )}
        <Box flex="1" lineHeight="1.3">
          {note.label}
          <Box as="span" layerStyle="note">
            {note.words && `, ${note.words}`}
            {note.lab &&
              `, L* ${note.lab.l.toFixed(1)} a* ${note.lab.a.toFixed(1)} b* ${note.lab.b.toFixed(1)}, spread ${(note.spread ?? 0).toFixed(1)} ΔE`}
            {`, ${note.by.split(" ")[0]}`}
          </Box>
        </Box>
        {list && (
          <Box as="button" layerStyle="small" textDecoration="underline" onClick={list}>
            must be there
          </Box>
        )}
        <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => setOpen(!open)}>
          rename
        </Box>
        <Box as="button" layerStyle="small" textDecoration="underline" aria-label={`take off ${note.label}`} onClick={unpin}>
          take off
        </Box>
      </Flex>
      {open && (
        <Flex gap="8px" align="end" mt="4px">
          <Entry label="The right word for it" name="label" value={label} set={setLabel} problem={rename.problem} />
          <Plain disabled={rename.busy} onClick={() => void rename.run()}>
            Rename
          </Plain>
        </Flex>
      )}
    </Box>
  );
}
