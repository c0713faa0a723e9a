import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { api, ask, type Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Choose, Entry, Heading, Refusal } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import { labToHex } from "../../parts/lab";

type Proposal = Schemas["ColourProposal"];
type Lab = Schemas["CraftColourLab"];

const lightNames: Record<Schemas["ColourLight"]["light"], string> = {
  D65: "daylight",
  A: "lamp light",
  LED: "white LED",
  FL11: "tubes",
};

const hex = (c: Lab) => labToHex(c.l, c.a, c.b);

/** Recipes for the body of a piece that match its wearer's skin, each beside the skin itself. */
export function Match({ piece }: { piece: string }) {
  const [place, setPlace] = useState("");
  const [batch, setBatch] = useState("500");
  const [region, side] = place.split("/");
  const grams = Number(batch.replace(",", "."));
  const match = useRead({
    queryKey: ["match", piece, place, grams],
    queryFn: () =>
      ask(
        api.GET("/api/pieces/{code}/match", {
          params: { path: { code: piece }, query: { region: region || undefined, side: (side as "L" | "R") || undefined, batch_g: grams } },
        }),
      ),
    enabled: grams >= 1,
    // What was found before stands while the next is worked out, and nothing typed is lost.
    placeholderData: (before) => before,
  });
  const m = match.data;
  return (
    <Box mb="28px" data-testid="match">
      <Heading
        aside={
          m &&
          `${m.material}, ${millimetres(m.centre_mm)} at the centre, ${m.edge_mm > 0 ? `${millimetres(m.edge_mm)} at the edge` : "feathered out"}`
        }
      >
        A recipe for its body, matched to the wearer's skin
      </Heading>
      {match.error && <Refusal problem={match.error as unknown as Problem} />}
      {m && (
        <>
          <Flex gap="12px" wrap="wrap" mb="10px" maxW="560px">
            <Choose label="Matched to" name="region" value={place || `${m.target.region}/${m.target.side}`} set={setPlace} width="230px">
              {m.targets.map((t) => (
                <option key={`${t.region}/${t.side}`} value={`${t.region}/${t.side}`}>
                  {t.text}
                  {t.side && ` ${t.side}`}, {t.readings} readings
                </option>
              ))}
            </Choose>
            <Entry label="Base that is mixed, g" name="batch_g" value={batch} set={setBatch} width="180px" />
          </Flex>
          {(m.target.uncertain || m.target.guess) && (
            <Box mb="8px" color="gorse" fontWeight="600">
              {m.target.guess
                ? "The reading is from a picture: a guess, until a reader has looked."
                : `The readings differ by ${m.target.mcdm.toFixed(1)}: read it three times more.`}
            </Box>
          )}
          <Box bg="#8e8e8e" color="#111" p="18px" borderRadius="3px">
            {m.proposals.map((p, i) => (
              <OneProposal key={p.parts.map((x) => x.pigment).join()} proposal={p} target={m.target.lab} n={i + 1} />
            ))}
          </Box>
          <Box layerStyle="small" mt="8px">
            {m.over ? `Over ${m.over}, which has to be hidden, so` : "Over the wearer's own skin,"} at least {Math.round(100 * m.opacity_min)} %
            opaque; without any pigment it is {m.base_only.toFixed(1)} off by daylight. Reckoned with the library's own pigments, not with a
            supplier's: mix 20 g, read it dry and at its thickness, and put it right. A screen shows it near enough to tell apart, not to match by;
            below 1 nobody sees a difference, from 2 on it is seen side by side.
          </Box>
        </>
      )}
    </Box>
  );
}

function OneProposal({ proposal: p, target, n }: { proposal: Proposal; target: Lab; n: number }) {
  const fails = p.lights.filter((l) => l.fails);
  return (
    <Grid
      templateColumns={{ base: "1fr", md: "190px minmax(0,1fr) minmax(0,1fr)" }}
      gap="18px"
      py="10px"
      borderTopWidth={n > 1 ? "1px" : "0"}
      borderColor="#6b6b6b"
      data-proposal={n}
    >
      <Box>
        <Flex h="74px" aria-label="the skin, the piece at its centre, and at its edge" role="img">
          <Box flex="1" bg={hex(target)} />
          <Box flex="1" bg={hex(p.centre)} />
          <Box flex="1" bg={hex(p.edge)} />
        </Flex>
        <Flex fontSize="13px" textAlign="center">
          <Box flex="1">skin</Box>
          <Box flex="1">centre</Box>
          <Box flex="1">edge</Box>
        </Flex>
      </Box>
      <Box>
        {p.parts.map((x) => (
          <Flex key={x.pigment} gap="8px">
            <Box flex="1">{x.name}</Box>
            <b>{x.grams.toFixed(2)} g</b>
            <Box w="86px">{x.drops ? `${x.drops} drops` : "weigh it"}</Box>
          </Flex>
        ))}
        <Box fontSize="13.5px">
          {Math.round(100 * p.opacity)} % opaque, {p.load.toFixed(2)} g in 100
          {p.rounding > 0.3 && "; a larger batch, or pigment let down 1 : 9, weighs it nearer"}
        </Box>
      </Box>
      <Box>
        {p.lights.map((l) => (
          <Flex key={l.light} gap="8px">
            <Box flex="1">{lightNames[l.light]}</Box>
            <b>{l.de00.toFixed(1)}</b>
            <Box w="110px">{l.fails ? "fails: seen" : l.de00 > 1 ? "near" : "not seen"}</Box>
          </Flex>
        ))}
        <Box fontSize="13.5px">
          {fails.length > 0 ? `Fails under ${fails.map((l) => lightNames[l.light]).join(" and ")}.` : "Holds under all four lights."}
        </Box>
      </Box>
    </Grid>
  );
}
