import { Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../app/act";
import { api, ask } from "../app/api";
import { FewWords, Plain, Refusal } from "../parts/controls";

/** What a data sheet says of a substance, written down where it is asked for; it counts for every piece. */
export function Settle({ product, substance }: { product: string; substance: string }) {
  const [source, setSource] = useState("");
  const say = useAct((says: "contains" | "free of") =>
    ask(api.POST("/api/materials/{slug}/contents", { params: { path: { slug: product } }, body: { substance, says, source } })),
  );
  return (
    <>
      <Flex gap="6px" mt="4px" wrap="wrap" data-settle={product}>
        <FewWords label="Which sheet says so" placeholder="which sheet, of which date" value={source} set={setSource} />
        <Plain h="34px" disabled={say.busy || !source.trim()} onClick={() => void say.run("free of")}>
          It is free of it
        </Plain>
        <Plain h="34px" disabled={say.busy || !source.trim()} onClick={() => void say.run("contains")}>
          It holds it
        </Plain>
      </Flex>
      <Refusal problem={say.problem} />
    </>
  );
}
