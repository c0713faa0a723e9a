import { Box, Flex, Grid, Image } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useAct } from "../../app/act";
import { type Schemas, upload } from "../../app/api";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";

/** Reference pictures pinned to the piece. */
export function References({ piece }: { piece: Schemas["PieceView"] }) {
  const file = useRef<HTMLInputElement>(null);
  const [caption, setCaption] = useState("");
  const [credit, setCredit] = useState("");
  const [open, setOpen] = useState(false);
  const pin = useAct(async () => {
    const form = new FormData();
    const picture = file.current?.files?.[0];
    if (picture) form.set("file", picture);
    form.set("caption", caption);
    form.set("credit", credit);
    await upload(`/api/pieces/${piece.code}/references`, form);
    setCaption("");
    setCredit("");
    setOpen(false);
  });
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            pin a picture
          </Box>
        }
      >
        Reference
      </Heading>
      {open && (
        <Flex direction="column" gap="8px" mb="10px">
          <input ref={file} type="file" accept="image/*" aria-label="Picture" />
          <Grid templateColumns="1fr 1fr" gap="8px">
            <Entry label="What it shows" name="caption" value={caption} set={setCaption} problem={pin.problem} />
            <Entry label="Credit" name="credit" value={credit} set={setCredit} problem={pin.problem} />
          </Grid>
          <Flex gap="10px" align="center">
            <Plain disabled={pin.busy} onClick={() => void pin.run()}>
              Pin it
            </Plain>
            <Refusal problem={pin.problem} fields={["caption", "credit"]} />
          </Flex>
        </Flex>
      )}
      {piece.references.length === 0 && !open && (
        <Box color="muted">Nothing pinned yet. Makers check the look against pictures at every step; pin the one that counts.</Box>
      )}
      <Grid templateColumns={piece.references.length > 1 ? "1fr 1fr" : "1fr"} gap="12px">
        {piece.references.map((r) => (
          <Box key={r.id} bg="sheet" borderWidth="1.5px" borderColor="line" p="7px" pb="4px">
            <a href={`/api/files/${r.sha256}`} target="_blank" rel="noreferrer">
              <Image src={`/api/files/${r.sha256}`} alt={r.caption} w="100%" maxH="210px" objectFit="cover" />
            </a>
            <Box fontSize="14px" mt="3px">
              {r.caption}
              <Box as="span" color="muted">
                {r.credit && ` · ${r.credit}`}
              </Box>
            </Box>
          </Box>
        ))}
      </Grid>
    </Box>
  );
}
