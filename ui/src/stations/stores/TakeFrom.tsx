import { Box, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";

type What = "decant" | Schemas["StoresTakenOut"]["why"];

const words: Record<What, string> = {
  decant: "filled into a vessel of its own",
  sample: "given as a sample",
  lost: "spilt or dried up",
  discarded: "disposed of",
};

/** What leaves a lot without becoming a mix: a vessel filled from it, a sample, a loss; and what was filled, poured back. */
export function TakeFrom({ parts }: { parts: Schemas["StoresLot"][] }) {
  const [what, setWhat] = useState<What>("decant");
  const [part, setPart] = useState(parts[0].part);
  const [amount, setAmount] = useState("");
  const [vessel, setVessel] = useState("");
  const [shelf, setShelf] = useState("");
  const [note, setNote] = useState("");
  const path = { params: { path: { code: parts[0].code } } };
  const { from_lot: from } = parts[0];
  const take = useAct(async () => {
    if (what === "decant") await ask(api.POST("/api/lots/{code}/decant", { ...path, body: { part, amount, code: vessel, shelf } }));
    else await ask(api.POST("/api/lots/{code}/take-out", { ...path, body: { part, amount, why: what, note } }));
    setAmount("");
    setVessel("");
    setNote("");
  });
  const join = useAct(() => ask(api.POST("/api/lots/{code}/join", path)));
  return (
    <Box data-take>
      <Heading>Take from it</Heading>
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Box gridColumn="1 / -1">
          <Choose label="It is" name="why" value={what} set={(w) => setWhat(w as What)} problem={take.problem}>
            {Object.entries(words).map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </Choose>
        </Box>
        {parts.length > 1 && (
          <Choose label="Part" name="part" value={part} set={(p) => setPart(p as typeof part)}>
            {parts.map((p) => (
              <option key={p.part}>{p.part}</option>
            ))}
          </Choose>
        )}
        <Entry label="How much" name="amount" value={amount} set={setAmount} problem={take.problem} placeholder="200 g, or all" />
        {what === "decant" ? (
          <>
            <Entry label="Code on the vessel" name="code" value={vessel} set={setVessel} problem={take.problem} />
            <Entry label="Shelf" name="shelf" value={shelf} set={setShelf} problem={take.problem} />
          </>
        ) : (
          <Entry label={what === "sample" ? "To whom" : "What happened"} name="note" value={note} set={setNote} problem={take.problem} />
        )}
      </Grid>
      {what === "discarded" && (
        <Box color="muted" fontSize="14px" mt="6px">
          As its safety data sheet and local rules say.
        </Box>
      )}
      <Plain mt="8px" h="38px" disabled={take.busy} onClick={() => void take.run()}>
        {what === "decant" ? "Fill it" : "Write it off"}
      </Plain>
      <Refusal problem={take.problem} />
      {from && (
        <Box mt="12px">
          <Box mb="6px">
            Filled from <Link to={`/stores/${from}`}>{from}</Link>.
          </Box>
          <Plain h="38px" disabled={join.busy} onClick={() => void join.run()}>
            Pour what is left back
          </Plain>
          <Refusal problem={join.problem} />
        </Box>
      )}
    </Box>
  );
}
