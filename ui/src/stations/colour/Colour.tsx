import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMaterials, usePieces } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Choose, Entry, Go, Heading, Refusal, Teach } from "../../parts/controls";
import { labToHex, readLab } from "../../parts/lab";
import { columns, RoomHead, Standing } from "../../parts/Room";
import { Match } from "./Match";

/** The touch-up colours that a piece takes with it, on neutral grey. */
export default function Colour() {
  const { code } = useParams();
  const pieces = usePieces();
  useInHand(code);
  if (!pieces.data) return null;
  const at =
    pieces.data.find((p) => p.code === code) ??
    pieces.data.find((p) => p.place === "colour") ??
    pieces.data.find((p) => p.section_number > 0) ??
    pieces.data[0];
  return (
    <Box>
      <RoomHead title="Colour" aside="a body that looks like skin, and what the makeup artist touches up with" />
      {!at ? (
        <Teach>Begin a piece with 1. Its touch-up colours are kept here and go with its sheet.</Teach>
      ) : (
        <Grid templateColumns={columns("280px minmax(0,1fr)")} gap="36px">
          <Box>
            <Heading>Pieces</Heading>
            <Standing
              empty={null}
              items={pieces.data.map((p) => ({ code: p.code, text: p.name, to: `/colour/${p.code}`, active: p.code === at.code }))}
            />
          </Box>
          <Box minW="0">
            <Match piece={at.code} key={`match ${at.code}`} />
            <TouchUps piece={at} key={at.code} />
          </Box>
        </Grid>
      )}
    </Box>
  );
}

function TouchUps({ piece }: { piece: Schemas["Piece"] }) {
  const path = { code: piece.code };
  const list = useRead({ queryKey: ["touch-ups", piece.code], queryFn: () => ask(api.GET("/api/pieces/{code}/touch-ups", { params: { path } })) });
  const materials = useMaterials();
  const media = materials.data?.filter((m) => m.family.startsWith("paint")) ?? [];
  const [name, setName] = useState("");
  const [material, setMaterial] = useState("paint-alcohol");
  const [place, setPlace] = useState("");
  const [lab, setLab] = useState({ l: "", a: "", b: "" });
  const keep = useAct(async () => {
    await ask(
      api.PUT("/api/pieces/{code}/touch-ups", {
        params: { path },
        body: { name, material, place, ...readLab(lab) },
      }),
    );
    setName("");
    setPlace("");
  });
  const drop = useAct((which: string) => ask(api.DELETE("/api/pieces/{code}/touch-ups/{name}", { params: { path: { ...path, name: which } } })));
  const shown = lab.l !== "" ? labToHex(Number(lab.l), Number(lab.a), Number(lab.b)) : undefined;
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 330px")} gap="36px">
      <Box bg="#8d8d8d" color="#161616" p="22px" borderRadius="4px" minH="300px">
        <Flex wrap="wrap">
          {list.data?.map((t) => (
            <Box key={t.name} w="33.33%">
              <Box bg={labToHex(t.l, t.a, t.b)} h="150px" />
              <Box py="6px" pe="8px" lineHeight="1.25">
                <b>{t.name}</b>
                <Box>
                  {t.place} {t.medium && `· ${t.medium}`}
                </Box>
                <Box fontSize="13.5px">
                  L {t.l} a {t.a} b {t.b}{" "}
                  <Box as="button" textDecoration="underline" onClick={() => void drop.run(t.name)}>
                    remove
                  </Box>
                </Box>
              </Box>
            </Box>
          ))}
        </Flex>
        {list.data?.length === 0 && (
          <Box>No touch-up colour is kept for {piece.code} yet. Read the painted piece, name the colour as you would ask for it, and keep it.</Box>
        )}
      </Box>
      <Flex direction="column" gap="9px">
        <Heading>Keep a colour</Heading>
        <Entry label="Called" name="name" value={name} set={setName} problem={keep.problem} placeholder="cheek red" />
        <Choose label="Mixed in" name="material" value={material} set={setMaterial} problem={keep.problem}>
          {media.map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
        </Choose>
        <Entry label="Where on the piece" name="place" value={place} set={setPlace} problem={keep.problem} placeholder="hollows and rims" />
        <Grid templateColumns="1fr 1fr 1fr 44px" gap="8px" alignItems="end">
          <Entry label="L" name="l" value={lab.l} set={(l) => setLab({ ...lab, l })} problem={keep.problem} placeholder="42" />
          <Entry label="a" name="a" value={lab.a} set={(a) => setLab({ ...lab, a })} problem={keep.problem} placeholder="24" />
          <Entry label="b" name="b" value={lab.b} set={(b) => setLab({ ...lab, b })} problem={keep.problem} placeholder="19" />
          <Box h="40px" bg={shown ?? "transparent"} borderWidth="1.5px" borderColor="line" />
        </Grid>
        <Flex>
          <Go act={() => void keep.run()} disabled={keep.busy}>
            Keep it
          </Go>
        </Flex>
        <Refusal problem={keep.problem ?? drop.problem} />
        <Box layerStyle="note">A reading is CIELAB under daylight (D65). A screen shows it near enough to tell colours apart, not to match by.</Box>
      </Flex>
    </Grid>
  );
}
