import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useMaterials } from "../../app/reads";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";

/** Puts right what was typed when a lot was taken in. */
export function CorrectLot({ lot }: { lot: Schemas["StoresLot"] }) {
  const [open, setOpen] = useState(false);
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            {open ? "leave it" : "open"}
          </Box>
        }
      >
        Typed wrong?
      </Heading>
      {open && <Fields lot={lot} done={() => setOpen(false)} />}
    </Box>
  );
}

function Fields({ lot, done }: { lot: Schemas["StoresLot"]; done: () => void }) {
  const materials = useMaterials();
  const navigate = useNavigate();
  const [code, setCode] = useState(lot.code);
  const [material, setMaterial] = useState(lot.material);
  const [expires, setExpires] = useState(lot.expires_on.slice(0, 10));
  const [supplier, setSupplier] = useState(lot.supplier);
  const [shelf, setShelf] = useState(lot.shelf);
  const [reason, setReason] = useState("");
  const keep = useAct(async () => {
    await ask(
      api.PUT("/api/lots/{code}", { params: { path: { code: lot.code } }, body: { code, material, expires_on: expires, supplier, shelf, reason } }),
    );
    done();
    if (code !== lot.code) navigate(`/stores/${code}`);
  });
  return (
    <Box>
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Entry label="Lot" name="code" value={code} set={setCode} problem={keep.problem} />
        <Entry label="Use by" name="expires_on" type="date" value={expires} set={setExpires} problem={keep.problem} />
        <Entry label="Supplier" name="supplier" value={supplier} set={setSupplier} problem={keep.problem} />
        <Entry label="Shelf" name="shelf" value={shelf} set={setShelf} problem={keep.problem} />
      </Grid>
      <Box h="8px" />
      <Choose label="What it is" name="material" value={material} set={setMaterial} problem={keep.problem}>
        {materials.data?.map((m) => (
          <option key={m.slug} value={m.slug}>
            {m.name}
          </option>
        ))}
      </Choose>
      <Box h="8px" />
      <Entry label="What was wrong" name="reason" value={reason} set={setReason} problem={keep.problem} />
      <Flex mt="8px">
        <Plain h="38px" disabled={keep.busy} onClick={() => void keep.run()}>
          Put it right
        </Plain>
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}
