import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { useMaterials } from "../../app/reads";
import { Choose, Entry, Go, Heading, Refusal } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import { labToHex, readLab } from "../../parts/lab";
import { columns } from "../../parts/Room";
import { figures, hex } from "./colours";

/** What the makeup artist touches up with on the day, by medium. */
export function DayColours({ piece }: { piece: string }) {
  const path = { code: piece };
  const list = useRead({
    queryKey: ["day colours", piece],
    queryFn: () => ask(api.GET("/api/pieces/{code}/day-colours", { params: { path } })),
  });
  const materials = useMaterials();
  const media = materials.data?.filter((m) => m.family.startsWith("paint")) ?? [];
  const [name, setName] = useState("");
  const [material, setMaterial] = useState("paint-alcohol");
  const [place, setPlace] = useState("");
  const [lab, setLab] = useState({ l: "", a: "", b: "" });
  const keep = useAct(async () => {
    await ask(api.PUT("/api/pieces/{code}/touch-ups", { params: { path }, body: { name, material, place, ...readLab(lab) } }));
    setName("");
    setPlace("");
    setLab({ l: "", a: "", b: "" });
  });
  const drop = useAct((which: string) => ask(api.DELETE("/api/pieces/{code}/touch-ups/{name}", { params: { path: { ...path, name: which } } })));
  const shown = lab.l !== "" ? labToHex(Number(lab.l), Number(lab.a), Number(lab.b)) : undefined;
  const groups = [...new Set(list.data?.map((c) => c.medium))];
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 330px")} gap="36px">
      <Box>
        {groups.map((medium) => {
          const of = list.data?.filter((c) => c.medium === medium) ?? [];
          return (
            <Box key={medium} mb="18px">
              <Heading aside={of[0].in_kit ? "in the next kit" : "not in any kit of this piece yet"}>{medium}</Heading>
              {!of[0].for_skin && of.some((c) => (c.carry_mm ?? 0) > 0) && <Box fontWeight="700">Not sold for skin: keep it on the piece.</Box>}
              <Flex wrap="wrap">
                {of.map((c) => (
                  <Box key={`${c.from} ${c.name}`} w={{ base: "50%", md: "25%" }}>
                    <Box bg={hex(c.lab)} h="86px" />
                    <Box py="6px" pe="8px" lineHeight="1.25">
                      <b>{c.name}</b>
                      <Box>
                        {[c.place, c.tool?.replaceAll("_", " ")].filter(Boolean).join(", ")}
                        {c.carry_mm ? `; ${millimetres(c.carry_mm)} past the edge` : ""}
                      </Box>
                      <Box fontSize="13.5px">
                        {figures(c.lab)}{" "}
                        {c.from === "kept" ? (
                          <Box as="button" textDecoration="underline" onClick={() => void drop.run(c.name)}>
                            remove
                          </Box>
                        ) : (
                          "from the schedule"
                        )}
                      </Box>
                    </Box>
                  </Box>
                ))}
              </Flex>
            </Box>
          );
        })}
        {list.data?.length === 0 && (
          <Box>
            No touch-up colour is kept for {piece} yet, and no paint schedule is agreed. Read the painted piece, name the colour as you would ask for
            it, and keep it.
          </Box>
        )}
      </Box>
      <Flex direction="column" gap="9px">
        <Heading>Keep a colour</Heading>
        <Entry label="Called" name="name" value={name} set={setName} problem={keep.problem} placeholder="cheek red" />
        <Choose label="Mixed in" name="material" value={material} set={setMaterial} problem={keep.problem}>
          {media.map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
        </Choose>
        <Entry label="Where on the piece" name="place" value={place} set={setPlace} problem={keep.problem} placeholder="hollows and rims" />
        <Grid templateColumns="1fr 1fr 1fr 44px" gap="8px" alignItems="end">
          <Entry label="L" name="l" value={lab.l} set={(l) => setLab({ ...lab, l })} problem={keep.problem} placeholder="42" />
          <Entry label="a" name="a" value={lab.a} set={(a) => setLab({ ...lab, a })} problem={keep.problem} placeholder="24" />
          <Entry label="b" name="b" value={lab.b} set={(b) => setLab({ ...lab, b })} problem={keep.problem} placeholder="19" />
          <Box h="40px" bg={shown ?? "transparent"} borderWidth="1.5px" borderColor="line" />
        </Grid>
        <Flex>
          <Go act={() => void keep.run()} disabled={keep.busy}>
            Keep it
          </Go>
        </Flex>
        <Refusal problem={keep.problem ?? drop.problem} />
        <Box layerStyle="note">A reading is CIELAB under daylight (D65). A screen shows it near enough to tell colours apart, not to match by.</Box>
      </Flex>
    </Grid>
  );
}
