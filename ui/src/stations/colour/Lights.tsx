import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Go, Heading, Refusal, WrongAt } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { columns } from "../../parts/Room";

/** The lights that colours are judged under: four standard ones, and a set's own from its spectrum. */
export function Lights() {
  const lights = useRead({ queryKey: ["lights"], queryFn: () => ask(api.GET("/api/lights")) });
  const [name, setName] = useState("");
  const [origin, setOrigin] = useState("");
  const [file, setFile] = useState({ text: "", name: "" });
  const keep = useAct(async () => {
    await ask(api.POST("/api/lights", { body: { name, origin, file: file.text } }));
    setName("");
    setOrigin("");
    setFile({ text: "", name: "" });
  });
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 360px")} gap="36px">
      <Box>
        <Heading>Lights</Heading>
        {lights.data?.map((l) => (
          <Flex key={l.name} gap="12px" py="5px" borderBottomWidth="1px" borderColor="line">
            <Box w="160px" fontWeight="700">
              {l.name}
            </Box>
            <Box>
              {l.own
                ? `the set's own: ${l.origin || "nobody says who measured it"}, ${l.at ? dayTime(l.at) : ""}${l.resampled ? "; brought to steps of 10 nm" : ""}`
                : "standard"}
            </Box>
          </Flex>
        ))}
        <Box layerStyle="note" mt="10px">
          A shooting day's light is typed with the day. Where its words are one of these, or a plain word like overcast, candle or fluorescent, each
          recipe is judged under it and the room says what fails on which day.
        </Box>
      </Box>
      <Flex direction="column" gap="9px">
        <Heading>A set's own light</Heading>
        <Entry label="Called as the day says it" name="name" value={name} set={setName} problem={keep.problem} placeholder="chapel" />
        <Entry label="Who measured it, with what" name="origin" value={origin} set={setOrigin} problem={keep.problem} />
        <label>
          <Box layerStyle="small">A file of wavelengths and power: 400 to 700 nm at least, in steps of 5, 10 or 20</Box>
          <input
            type="file"
            accept=".csv,.txt,.tsv,text/*"
            aria-label="File of the light"
            onChange={async (e) => {
              const f = e.target.files?.[0];
              if (f) setFile({ text: await f.text(), name: f.name });
            }}
          />
        </label>
        {file.name && <Box layerStyle="small">{file.name}</Box>}
        <WrongAt problem={keep.problem} name="file" />
        <Flex>
          <Go disabled={keep.busy || file.text === ""} act={() => void keep.run()}>
            Keep the light
          </Go>
        </Flex>
        <Refusal problem={keep.problem} />
      </Flex>
    </Grid>
  );
}
