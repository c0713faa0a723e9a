import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Choose, Entry, Go, Heading, Refusal, Teach } from "../../parts/controls";
import { columns } from "../../parts/Room";

type Card = Schemas["ColourCard"];
type NewCard = Schemas["ColourNewCard"];

export const useCards = () => useRead({ queryKey: ["cards"], queryFn: () => ask(api.GET("/api/technique-cards")) });

const tools: NewCard["tool"][] = ["brush", "sponge", "stipple", "spatter", "airbrush", "wash", "dry_brush", "finger"];

/** What a card says of how it is done, in words. */
export function how(c: Card): string {
  return [
    c.tool.replaceAll("_", " "),
    c.width_mm ? `${c.width_mm} mm wide` : "",
    c.distance_mm ? `held at ${c.distance_mm} mm` : "",
    c.dilution !== undefined ? `thinned 1 : ${c.dilution}` : "",
    c.coverage ? `covers ${Math.round(100 * c.coverage)} %` : "",
    c.load,
  ]
    .filter(Boolean)
    .join(", ");
}

/** How colour is put on so that it looks like something: tried once, and done again by the card. */
export function Cards() {
  const cards = useCards();
  const swatches = useRead({ queryKey: ["swatches", "", ""], queryFn: () => ask(api.GET("/api/swatches", { params: { query: {} } })) });
  const empty = {
    name: "",
    tool: "spatter" as NewCard["tool"],
    width: "",
    distance: "",
    dilution: "",
    coverage: "",
    load: "",
    instead: "",
    swatch: "",
    note: "",
  };
  const [on, setOn] = useState(empty);
  const num = (t: string) => (t.trim() === "" ? undefined : Number(t.replace(",", ".")));
  const keep = useAct(async () => {
    const percent = num(on.coverage);
    await ask(
      api.POST("/api/technique-cards", {
        body: {
          name: on.name,
          tool: on.tool,
          width_mm: num(on.width),
          distance_mm: num(on.distance),
          dilution: num(on.dilution),
          coverage: percent === undefined ? undefined : percent / 100,
          load: on.load,
          instead: on.instead,
          swatch: on.swatch ? Number(on.swatch) : undefined,
          note: on.note,
        },
      }),
    );
    setOn(empty);
  });
  const field = (label: string, name: Exclude<keyof typeof empty, "tool">, placeholder = "", at = String(name)) => (
    <Entry label={label} name={at} value={on[name]} set={(v) => setOn({ ...on, [name]: v })} problem={keep.problem} placeholder={placeholder} />
  );
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 360px")} gap="36px" data-testid="cards">
      <Box>
        <Heading>Technique cards</Heading>
        {cards.data?.length === 0 && (
          <Teach>No card yet. Write down how a fleck or a pore was done, and what it was tried on: a layer of a schedule is filled by it.</Teach>
        )}
        {cards.data?.map((c) => (
          <Box key={c.id} py="6px" borderBottomWidth="1px" borderColor="line" lineHeight="1.3">
            <b>{c.name}</b>: {how(c)}
            <Box fontSize="13.5px">
              {c.tried_on && `Tried on ${c.tried_on}. `}
              {c.instead && `Instead: ${c.instead}. `}
              {c.note}
            </Box>
          </Box>
        ))}
      </Box>
      <Flex direction="column" gap="9px">
        <Heading>Write one</Heading>
        {field("What it looks like", "name", "salt fleck")}
        <Choose label="Done with" name="tool" value={on.tool} set={(t) => setOn({ ...on, tool: t as NewCard["tool"] })} problem={keep.problem}>
          {tools.map((t) => (
            <option key={t} value={t}>
              {t.replaceAll("_", " ")}
            </option>
          ))}
        </Choose>
        <Grid templateColumns="1fr 1fr" gap="8px">
          {field("Wide, mm", "width", "", "width_mm")}
          {field("Held at, mm", "distance", "", "distance_mm")}
          {field("Thinner to 1 of colour", "dilution")}
          {field("Covers, %", "coverage")}
        </Grid>
        {field("How it is loaded", "load", "blotted twice")}
        {field("What else does it", "instead", "a torn sponge")}
        <Choose label="Tried on" name="swatch" value={on.swatch} set={(w) => setOn({ ...on, swatch: w })} problem={keep.problem}>
          <option value="">no swatch</option>
          {swatches.data?.map((w) => (
            <option key={w.id} value={w.id}>
              {w.name}
            </option>
          ))}
        </Choose>
        {field("Note", "note")}
        <Flex>
          <Go disabled={keep.busy} act={() => void keep.run()}>
            Keep the card
          </Go>
        </Flex>
        <Refusal problem={keep.problem} />
      </Flex>
    </Grid>
  );
}
