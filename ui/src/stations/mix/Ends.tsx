import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useMoulds } from "../../app/reads";
import { Choose, Entry, Go, Plain, Refusal } from "../../parts/controls";
import { grams } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { PourInto } from "./PourInto";
import type { Mix } from "./useBench";

/** Where a finished mix goes: into moulds or a run, put by as stock, used, or divided. */
export function Ends({ mix }: { mix: Mix }) {
  const navigate = useNavigate();
  const path = { params: { path: { code: mix.code } } };
  const [kept, setKept] = useState("");
  const [shelf, setShelf] = useState("");
  const [what, setWhat] = useState("");
  const [second, setSecond] = useState("");
  const keep = useAct(() => ask(api.POST("/api/mixes/{code}/put-by", { ...path, body: { amount: kept || undefined, shelf: shelf || undefined } })));
  const [mould, setMould] = useState("");
  const moulds = useMoulds("");
  const use = useAct(() => ask(api.POST("/api/mixes/{code}/use", { ...path, body: { what, mould: mould || undefined } })));
  const divide = useAct(async () => {
    const other = await ask(api.POST("/api/mixes/{code}/divide", { ...path, body: { amount: second } }));
    setSecond("");
    navigate(`/mix/${other.code}`);
  });
  return (
    <Box>
      {mix.fills.warning && (
        <Notice fontSize="20px" data-testid="hurry">
          {mix.fills.warning}
        </Notice>
      )}
      {mix.piece ? (
        <PourInto mix={mix} />
      ) : (
        <Box fontSize="20px" color="muted" mb="8px">
          {grams(mix.mass_g)} in the cup
        </Box>
      )}
      <Flex gap="34px" wrap="wrap" mt="16px">
        {mix.keep_h > 0 && (
          <Box w="260px">
            <Flex gap="8px">
              <Entry label="Put by" name="amount" placeholder={grams(mix.mass_g)} value={kept} set={setKept} problem={keep.problem} />
              <Entry label="Shelf" name="shelf" placeholder="cold 1" value={shelf} set={setShelf} problem={keep.problem} />
            </Flex>
            <Box mt="8px">
              {mix.piece ? (
                <Plain h="44px" disabled={keep.busy} onClick={() => void keep.run()}>
                  Put it by
                </Plain>
              ) : (
                <Go big act={() => void keep.run()} disabled={keep.busy}>
                  Put it by
                </Go>
              )}
            </Box>
            <Box layerStyle="small" mt="4px">
              Good for {mix.keep_h >= 48 ? `${Math.round(mix.keep_h / 24)} days` : `${mix.keep_h} hours`}, as a lot of its own.
            </Box>
            <Refusal problem={keep.problem} />
          </Box>
        )}
        <Box w="260px">
          <Entry label="Or used for" name="what" placeholder="mould BF-03/M2, a trial" value={what} set={setWhat} problem={use.problem} />
          <Box mt="6px">
            <Choose label="For the mould" name="mould" value={mould} set={setMould} problem={use.problem}>
              <option value="">none</option>
              {moulds.data?.map((m) => (
                <option key={m.code} value={m.code}>
                  {m.code}
                </option>
              ))}
            </Choose>
          </Box>
          <Plain mt="8px" h="44px" disabled={use.busy || (!what.trim() && !mould)} onClick={() => void use.run()}>
            It is used
          </Plain>
          <Refusal problem={use.problem} />
        </Box>
        <Box w="200px">
          <Entry label="Into a second cup" name="amount" placeholder="100 g" value={second} set={setSecond} problem={divide.problem} />
          <Plain mt="8px" h="44px" disabled={divide.busy || !second.trim()} onClick={() => void divide.run()}>
            Divide it
          </Plain>
          <Refusal problem={divide.problem} />
        </Box>
      </Flex>
    </Box>
  );
}
