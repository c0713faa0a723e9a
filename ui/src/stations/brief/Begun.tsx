import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRegions } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { fields } from "../../parts/Room";

type Piece = Schemas["PieceView"];

/** What a piece was begun with, and putting it right as long as nothing depends on it. */
export function Begun({ piece }: { piece: Piece }) {
  const [open, setOpen] = useState(false);
  const regions = useRegions();
  const where = regions.data?.find((r) => r.name === piece.region)?.text ?? piece.region;
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            put right
          </Box>
        }
      >
        Begun as
      </Heading>
      {open ? (
        <Fields piece={piece} done={() => setOpen(false)} />
      ) : (
        <Box color="muted">
          {piece.name}, {where}
          {piece.side && `, the wearer's ${piece.side === "L" ? "left" : "right"}`}; {piece.copies_wanted}{" "}
          {piece.copies_wanted === 1 ? "copy" : "copies"} for {piece.performer ?? "nobody yet"} in {piece.production}.
        </Box>
      )}
    </Box>
  );
}

function Fields({ piece, done }: { piece: Piece; done: () => void }) {
  const regions = useRegions();
  const navigate = useNavigate();
  const [name, setName] = useState(piece.name);
  const [region, setRegion] = useState(piece.region);
  const [side, setSide] = useState<Piece["side"]>(piece.side);
  const [copies, setCopies] = useState(String(piece.copies_wanted));
  const [performer, setPerformer] = useState(piece.performer ?? "");
  const [production, setProduction] = useState(piece.production);
  const keep = useAct(async () => {
    const is = await ask(
      api.PUT("/api/pieces/{code}", {
        params: { path: { code: piece.code } },
        body: { name, region, side, performer, production, copies_wanted: Number(copies) || 0 },
      }),
    );
    done();
    if (is.code !== piece.code) navigate(`/brief/${is.code}`);
  });
  return (
    <Box>
      <Grid templateColumns={fields("2fr 1.2fr 1fr 0.7fr")} gap="8px">
        <Entry label="Called" name="name" value={name} set={setName} problem={keep.problem} />
        <Choose label="Where it is worn" name="region" value={region} set={setRegion} problem={keep.problem}>
          {regions.data?.map((r) => (
            <option key={r.name} value={r.name}>
              {r.text}
            </option>
          ))}
        </Choose>
        <Choose label="Side" name="side" value={side} set={(s) => setSide(s as Piece["side"])} problem={keep.problem}>
          <option value="">no pair</option>
          <option value="L">left</option>
          <option value="R">right</option>
        </Choose>
        <Entry label="Copies" name="copies_wanted" value={copies} set={setCopies} problem={keep.problem} />
        <Entry label={`Who plays ${piece.character_code}`} name="performer" value={performer} set={setPerformer} problem={keep.problem} />
        <Entry label="Production" name="production" value={production} set={setProduction} problem={keep.problem} />
      </Grid>
      <Flex gap="8px" mt="8px" align="center">
        <Plain disabled={keep.busy} onClick={() => void keep.run()}>
          Put it right
        </Plain>
        <Plain onClick={done}>Leave it</Plain>
        <Box layerStyle="small">What it was stays in the record.</Box>
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}
