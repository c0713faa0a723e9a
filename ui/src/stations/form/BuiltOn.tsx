import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { useForms } from "../../app/reads";
import { Entry, Heading, Pick, Plain, Refusal } from "../../parts/controls";
import { words } from "../../parts/format";

const fits = ["own cast", "general form", "anything of that shape"] as const;
type Fit = (typeof fits)[number];

/** Which form the piece is built on, how near it has to fit, and how it fitted. */
export function BuiltOn({ code }: { code: string }) {
  const forms = useForms();
  const on = useRead({
    queryKey: ["built on", code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/form", { params: { path: { code } } })),
  });
  const [note, setNote] = useState("");
  useEffect(() => setNote(on.data?.note ?? ""), [on.data]);
  const choose = useAct((part: { form?: string; fit?: Fit; note?: string }) =>
    ask(
      api.PUT("/api/pieces/{code}/form", {
        params: { path: { code } },
        body: { piece: code, form: part.form ?? on.data?.form, fit: part.fit ?? on.data?.fit ?? "own cast", note: part.note ?? note, wrong: "" },
      }),
    ),
  );
  if (!on.data || !forms.data) return null;
  return (
    <Box>
      <Heading>Built on</Heading>
      <Flex gap="8px" align="center" wrap="wrap">
        <Pick label="Form" value={on.data.form ?? ""} set={(form) => void choose.run({ form })} width="230px">
          <option value="">which form?</option>
          {forms.data.map((f) => (
            <option key={f.code} value={f.code}>
              {f.code} {f.performer ?? "general"}, {words(f.region)}
            </option>
          ))}
        </Pick>
        <Box color="muted">needs</Box>
        <Pick label="How near it has to fit" value={on.data.fit} set={(fit) => void choose.run({ fit: fit as Fit })} width="200px">
          {fits.map((f) => (
            <option key={f}>{f}</option>
          ))}
        </Pick>
      </Flex>
      {on.data.wrong && (
        <Box color="gorse" fontSize="14px" mt="3px">
          {on.data.wrong}
        </Box>
      )}
      {on.data.form && (
        <Flex gap="8px" align="end" mt="4px">
          <Entry
            label="After it was tried on"
            name="note"
            value={note}
            set={setNote}
            problem={choose.problem}
            placeholder="sits 2 mm high at the nostril"
          />
          <Plain h="40px" flexShrink="0" disabled={note === on.data.note || choose.busy} onClick={() => void choose.run({ note })}>
            Write it down
          </Plain>
        </Flex>
      )}
      <Refusal problem={choose.problem} />
    </Box>
  );
}
