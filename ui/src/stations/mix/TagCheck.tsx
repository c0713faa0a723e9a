import { Box, Flex, Input } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { FewWords, Plain, Refusal } from "../../parts/controls";
import type { Line, Mix } from "./useBench";

/**
 * Whether the pot in the hand is the one on the sheet: its tag is read by the camera, by a hand scanner that types it, or
 * typed by hand.
 */
export function TagCheck({ mix, line }: { mix: Mix; line: Line }) {
  const [tag, setTag] = useState("");
  const [why, setWhy] = useState("");
  const [camera, setCamera] = useState(false);
  const check = useAct(async (text: string, take?: boolean) => {
    setCamera(false);
    setTag(text);
    await ask(
      api.POST("/api/mixes/{code}/tag", { params: { path: { code: mix.code } }, body: { seq: line.seq, tag: text, take, why: why || undefined } }),
    );
    setTag("");
  });
  if (line.lot_seen)
    return (
      <Box color="yew" fontWeight="600" data-testid="tag-seen">
        The tag says lot {line.lot}: that is the one.
      </Box>
    );
  const other = check.problem?.code === "other_lot";
  return (
    <Box fontSize="16px">
      <Flex gap="8px" align="center" wrap="wrap">
        <Box>
          Lot <b>{line.lot}</b>: read its tag
        </Box>
        <Input
          h="44px"
          w="150px"
          px="12px"
          bg="sheet"
          borderColor="line"
          placeholder="scan or type"
          aria-label="Tag of the pot"
          value={tag}
          onChange={(e) => setTag(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && tag.trim() && void check.run(tag)}
        />
        {/* Over plain HTTP a browser gives no camera to a page. */}
        {window.isSecureContext ? (
          <Plain h="44px" aria-pressed={camera} onClick={() => setCamera(!camera)}>
            {camera ? "Close the camera" : "With the camera"}
          </Plain>
        ) : (
          <Box layerStyle="small">The camera works only over HTTPS; a hand scanner or the keyboard does here.</Box>
        )}
      </Flex>
      {camera && <Camera read={(text) => void check.run(text)} />}
      <Refusal problem={check.problem} />
      {other && (
        <Flex gap="8px" mt="6px" wrap="wrap">
          <FewWords label="Why this lot" placeholder="why this lot is taken" value={why} set={setWhy} max={200} />
          <Plain h="44px" disabled={!why.trim() || check.busy} onClick={() => void check.run(tag, true)}>
            Take it instead
          </Plain>
        </Flex>
      )}
    </Box>
  );
}

/** The camera's picture, read for a QR code until one is found. */
function Camera({ read }: { read: (text: string) => void }) {
  const video = useRef<HTMLVideoElement>(null);
  const [fault, setFault] = useState("");
  const found = useRef(read);
  found.current = read;
  useEffect(() => {
    let scanner: { start: () => Promise<void>; destroy: () => void } | undefined;
    let gone = false;
    void import("qr-scanner").then(async ({ default: QrScanner }) => {
      if (gone || !video.current) return;
      scanner = new QrScanner(video.current, (r) => found.current(r.data), { returnDetailedScanResult: true, highlightScanRegion: true });
      try {
        await scanner.start();
      } catch (e) {
        setFault(`The camera does not start: ${e instanceof Error ? e.message : e}. Type the tag instead.`);
      }
    });
    return () => {
      gone = true;
      scanner?.destroy();
    };
  }, []);
  return (
    <Box mt="8px" maxW="360px">
      {/* biome-ignore lint/a11y/useMediaCaption: a camera's own picture has no words */}
      <video ref={video} style={{ width: "100%", borderRadius: 12 }} />
      {fault && <Box color="rust">{fault}</Box>}
    </Box>
  );
}
