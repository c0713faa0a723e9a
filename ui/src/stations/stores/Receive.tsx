import { Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useMaterials } from "../../app/reads";
import { Choose, Entry, Go, Heading, Refusal } from "../../parts/controls";

/** Takes a delivery in. */
export function Receive() {
  const materials = useMaterials();
  const [material, setMaterial] = useState("silicone-gel");
  const [code, setCode] = useState("");
  const [supplier, setSupplier] = useState("");
  const [amount, setAmount] = useState("");
  const [amountA, setAmountA] = useState("");
  const [amountB, setAmountB] = useState("");
  const [expires, setExpires] = useState("");
  const [shelf, setShelf] = useState("");
  const isKit = !!materials.data?.find((m) => m.slug === material)?.ratio;
  const take = useAct(async () => {
    await ask(
      api.POST("/api/lots", { body: { material, code, supplier, amount, amount_a: amountA, amount_b: amountB, expires_on: expires, shelf } }),
    );
    setCode("");
    setAmount("");
    setAmountA("");
    setAmountB("");
  });
  return (
    <Flex direction="column" gap="9px">
      <Heading>Take a delivery in</Heading>
      <Choose label="Material" name="material" value={material} set={setMaterial} problem={take.problem}>
        {materials.data?.map((m) => (
          <option key={m.slug} value={m.slug}>
            {m.name}
          </option>
        ))}
      </Choose>
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Entry label="Lot code" name="code" value={code} set={setCode} problem={take.problem} placeholder="26-003" />
        <Entry label="Use by" name="expires_on" type="date" value={expires} set={setExpires} problem={take.problem} />
        {isKit ? (
          <>
            <Entry label="Part A" name="amount_a" value={amountA} set={setAmountA} problem={take.problem} placeholder="1 kg" />
            <Entry label="Part B" name="amount_b" value={amountB} set={setAmountB} problem={take.problem} placeholder="1 kg" />
          </>
        ) : (
          <Entry label="Amount" name="amount" value={amount} set={setAmount} problem={take.problem} placeholder="500 g" />
        )}
        <Entry label="Shelf" name="shelf" value={shelf} set={setShelf} problem={take.problem} />
      </Grid>
      <Entry label="Supplier" name="supplier" value={supplier} set={setSupplier} problem={take.problem} />
      <Flex>
        <Go act={() => void take.run()} disabled={take.busy}>
          Take it in
        </Go>
      </Flex>
      <Refusal problem={take.problem} />
    </Flex>
  );
}
