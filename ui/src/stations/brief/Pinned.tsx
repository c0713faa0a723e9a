import { Box, Flex, Grid } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas, upload } from "../../app/api";
import { Choose, Entry, Plain, Refusal } from "../../parts/controls";
import { fields } from "../../parts/Room";

type Reference = Schemas["PieceReference"];

const angles = ["", "front", "left", "right", "three-quarter", "back", "above", "below", "close-up"];
const standings: [string, string][] = [
  ["direct", "the thing itself"],
  ["second-hand", "second-hand"],
  ["stand-in", "a stand-in"],
];

const isFile = (f: File | undefined | null): f is File => !!f && f.size > 0;

/** A picture to be pinned: chosen or dropped, with what it shows. */
export function Adding({ code, done }: { code: string; done: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File>();
  const [over, setOver] = useState(false);
  const [caption, setCaption] = useState("");
  const [credit, setCredit] = useState("");
  const [view, setView] = useState("");
  const [standing, setStanding] = useState("direct");
  const pin = useAct(async () => {
    const form = new FormData();
    if (file) form.set("file", file);
    for (const [k, v] of Object.entries({ caption, credit, view, standing })) form.set(k, v);
    await upload(`/api/pieces/${code}/references`, form);
    done();
  });
  return (
    <Flex
      direction="column"
      gap="8px"
      mb="12px"
      p="10px"
      bg={over ? "heatherSoft" : "deep"}
      borderRadius="4px 14px 14px 14px"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const dropped = e.dataTransfer.files[0];
        if (isFile(dropped)) setFile(dropped);
      }}
    >
      <Flex gap="10px" align="center">
        <input
          ref={input}
          type="file"
          accept="image/png,image/jpeg,image/webp"
          aria-label="Picture"
          onChange={(e) => setFile(e.target.files?.[0] ?? undefined)}
        />
        <Box layerStyle="small">
          {file ? `${file.name}, ${(file.size / 1e6).toFixed(1)} MB` : "or drop it here: PNG, JPEG or WebP, 64 MB at most"}
        </Box>
      </Flex>
      <Grid templateColumns={fields("1.4fr 1fr 0.9fr 0.9fr")} gap="8px">
        <Entry label="What it shows" name="caption" value={caption} set={setCaption} problem={pin.problem} />
        <Entry label="Credit" name="credit" value={credit} set={setCredit} problem={pin.problem} />
        <Choose label="Seen from" name="view" value={view} set={setView} problem={pin.problem}>
          {angles.map((a) => (
            <option key={a} value={a}>
              {a || "not said"}
            </option>
          ))}
        </Choose>
        <Choose label="It is" name="standing" value={standing} set={setStanding} problem={pin.problem}>
          {standings.map(([v, text]) => (
            <option key={v} value={v}>
              {text}
            </option>
          ))}
        </Choose>
      </Grid>
      <Flex gap="10px" align="center">
        <Plain disabled={pin.busy} onClick={() => void pin.run()}>
          {pin.busy ? "Taking it in…" : "Pin it"}
        </Plain>
        <Refusal problem={pin.problem} />
      </Flex>
    </Flex>
  );
}

/** What is said of a picture, to be said better later. */
export function Describe({ picture }: { picture: Reference }) {
  const [open, setOpen] = useState(false);
  const [version, setVersion] = useState(picture.version); // the one that was seen
  const [caption, setCaption] = useState(picture.caption);
  const [credit, setCredit] = useState(picture.credit);
  const [view, setView] = useState(picture.view);
  const [standing, setStanding] = useState(picture.standing);
  const say = () => {
    if (!open) {
      setVersion(picture.version);
      setCaption(picture.caption);
      setCredit(picture.credit);
      setView(picture.view);
      setStanding(picture.standing);
    }
    setOpen(!open);
  };
  const keep = useAct(async () => {
    await ask(api.PUT("/api/references/{id}", { params: { path: { id: picture.id } }, body: { caption, credit, view, standing, version } }));
    setOpen(false);
  });
  return (
    <Box my="6px" fontSize="14.5px">
      <b>{picture.caption}</b>
      <Box as="span" color="muted">
        {picture.view && `, ${picture.view}`}
        {picture.standing !== "direct" && `, ${picture.standing}`}
        {picture.credit && ` · ${picture.credit}`}
        {picture.width > 0 && ` · ${picture.width} × ${picture.height}`}{" "}
      </Box>
      <Box as="button" color="muted" textDecoration="underline" onClick={say}>
        say more
      </Box>
      {open && (
        <Grid templateColumns={fields("1.4fr 1fr 0.9fr 0.9fr auto")} gap="8px" alignItems="end">
          <Entry label="What it shows" name="caption" value={caption} set={setCaption} problem={keep.problem} />
          <Entry label="Credit" name="credit" value={credit} set={setCredit} problem={keep.problem} />
          <Choose label="Seen from" name="view" value={view} set={setView} problem={keep.problem}>
            {angles.map((a) => (
              <option key={a} value={a}>
                {a || "not said"}
              </option>
            ))}
          </Choose>
          <Choose label="It is" name="standing" value={standing} set={(s) => setStanding(s as typeof standing)} problem={keep.problem}>
            {standings.map(([v, text]) => (
              <option key={v} value={v}>
                {text}
              </option>
            ))}
          </Choose>
          <Plain disabled={keep.busy} onClick={() => void keep.run()}>
            Keep
          </Plain>
        </Grid>
      )}
      <Refusal problem={keep.problem} />
    </Box>
  );
}
