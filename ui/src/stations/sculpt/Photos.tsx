import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas, upload } from "../../app/api";
import { useRead } from "../../app/read";
import { FewWords, Heading, Pick, Plain, Refusal } from "../../parts/controls";
import { dayTime } from "../../parts/format";

type Photo = Schemas["SculptPhoto"];
type Kind = Schemas["SculptNewSpot"]["kind"];

/** Photographs of the real sculpt beside the plan, with thin spots, gaps and lost lines marked. */
export function Photos({ code }: { code: string }) {
  const photos = useRead({
    queryKey: ["sculpt photos", code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/sculpt/photos", { params: { path: { code } } })),
  });
  const [caption, setCaption] = useState("");
  const [painted, setPainted] = useState(false);
  const [file, setFile] = useState<File>();
  const [at, setAt] = useState<number>();
  const add = useAct(() => {
    const form = new FormData();
    if (file) form.set("file", file);
    form.set("caption", caption);
    form.set("painted", painted ? "yes" : "no");
    return upload<Photo[]>(`/api/pieces/${code}/sculpt-photos`, form);
  });
  const list = photos.data ?? [];
  const photo = list.find((p) => p.id === at) ?? list[0];
  return (
    <Flex direction="column" gap="10px">
      <Heading>Photographs of the sculpt</Heading>
      <Flex gap="8px" wrap="wrap" align="center">
        <input type="file" accept="image/*" aria-label="Photograph" onChange={(e) => setFile(e.target.files?.[0])} style={{ maxWidth: 220 }} />
        <FewWords label="What it shows" placeholder="what it shows" value={caption} set={setCaption} />
        <label>
          <input type="checkbox" checked={painted} onChange={(e) => setPainted(e.target.checked)} /> painted
        </label>
        <Plain
          h="34px"
          disabled={!file || add.busy}
          onClick={async () => {
            if (await add.run()) {
              setCaption("");
              setAt(undefined);
            }
          }}
        >
          Keep it
        </Plain>
      </Flex>
      <Refusal problem={add.problem} />
      {list.length === 0 && (
        <Box color="muted">None yet. A photograph under a low lamp, beside the plan, shows what was lost and where clay is thin.</Box>
      )}
      {list.length > 1 && (
        <Flex gap="8px" wrap="wrap">
          {list.map((p) => (
            <Box
              key={p.id}
              as="button"
              aria-pressed={p.id === photo?.id}
              borderWidth="2px"
              borderColor={p.id === photo?.id ? "heather" : "line"}
              onClick={() => setAt(p.id)}
            >
              <img src={`/api/files/${p.sha256}?width=480`} alt={p.caption} style={{ height: 52, display: "block" }} />
            </Box>
          ))}
        </Flex>
      )}
      {photo && <One key={photo.id} photo={photo} />}
    </Flex>
  );
}

function One({ photo }: { photo: Photo }) {
  const [kind, setKind] = useState<Kind>("thin");
  const [words, setWords] = useState("");
  const mark = useAct((x: number, y: number) =>
    ask(api.POST("/api/sculpt-photos/{id}/spots", { params: { path: { id: photo.id } }, body: { kind, x, y, words } })),
  );
  const settle = useAct((id: number) => ask(api.POST("/api/sculpt-spots/{id}/settled", { params: { path: { id } } })));
  return (
    <Grid templateColumns="minmax(0, 1.4fr) minmax(0, 1fr)" gap="14px">
      <Box position="relative" lineHeight="0" style={{ cursor: "crosshair" }}>
        <img src={`/api/files/${photo.sha256}?width=1600`} alt={photo.caption} style={{ width: "100%", display: "block" }} />
        <svg
          viewBox="0 0 100 100"
          preserveAspectRatio="none"
          role="img"
          aria-label="Spots on the photograph; click to mark one"
          style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }}
          onPointerDown={(e) => {
            const b = e.currentTarget.getBoundingClientRect();
            void mark.run((e.clientX - b.left) / b.width, (e.clientY - b.top) / b.height).then((ok) => ok && setWords(""));
          }}
        />
        {photo.spots.map((s, i) => (
          <Box
            key={s.id}
            position="absolute"
            left={`${100 * s.x}%`}
            top={`${100 * s.y}%`}
            transform="translate(-50%, -50%)"
            w="22px"
            h="22px"
            lineHeight="20px"
            textAlign="center"
            borderRadius="50%"
            borderWidth="1.5px"
            borderColor="white"
            color="white"
            fontSize="12px"
            fontWeight="700"
            bg={s.settled_at ? "#2d5f4e" : s.kind === "note" ? "#675d51" : "#a23521"}
            pointerEvents="none"
          >
            {i + 1}
          </Box>
        ))}
      </Box>
      <Box>
        <Box fontWeight="600">{photo.caption}</Box>
        <Box layerStyle="small" mb="6px">
          {photo.painted ? "painted, " : ""}
          {photo.who}, {dayTime(photo.added_at)}
        </Box>
        <Flex gap="8px" mb="6px" wrap="wrap">
          <Pick label="What is seen" value={kind} set={(x) => setKind(x as Kind)} width="130px">
            <option value="thin">thin spot</option>
            <option value="gap">gap</option>
            <option value="lost line">lost line</option>
            <option value="note">note</option>
          </Pick>
          <FewWords label="Words to the spot" placeholder="a word, then click the place" value={words} set={setWords} grow="1 1 120px" />
        </Flex>
        {photo.spots.map((s, i) => (
          <Flex key={s.id} gap="8px" fontSize="14.5px" py="1px">
            <b>{i + 1}</b>
            <Box flex="1">
              {s.kind === "thin" ? "thin spot" : s.kind}
              {s.words ? `: ${s.words}` : ""}
            </Box>
            {s.settled_at ? (
              <Box color="yew">put right</Box>
            ) : (
              <Box as="button" textDecoration="underline" color="muted" onClick={() => void settle.run(s.id)}>
                put right
              </Box>
            )}
          </Flex>
        ))}
        <Refusal problem={mark.problem ?? settle.problem} />
      </Box>
    </Grid>
  );
}
