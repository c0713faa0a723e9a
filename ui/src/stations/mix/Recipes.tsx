import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Go, Heading, Narrow, Refusal } from "../../parts/controls";
import { Dot } from "../../parts/hatches";
import { columns, RoomHead } from "../../parts/Room";

const touch: Record<string, string> = { mouth: "mouth and lip", skin: "skin", off_skin: "not on skin" };

/** The house recipes: what the shop can mix, by group, and a new one. */
export default function Recipes() {
  const recipes = useRead({ queryKey: ["recipes"], queryFn: () => ask(api.GET("/api/recipes")) });
  const navigate = useNavigate();
  const [words, setWords] = useState("");
  const [name, setName] = useState("");
  const begin = useAct(async () => {
    const r = await ask(api.POST("/api/recipes", { body: { name } }));
    navigate(`/recipes/${r.slug}`);
  });
  if (!recipes.data) return null;
  const shown = recipes.data.filter((r) => `${r.name} ${r.makes_name} ${r.group} ${r.like ?? ""}`.toLowerCase().includes(words.toLowerCase()));
  const groups = [...new Set(shown.map((r) => r.group))];
  return (
    <Box>
      <RoomHead
        title="House recipes"
        aside={`${recipes.data.length} that the shop can mix`}
        acts={
          <Flex gap="14px" align="center">
            <Link to="/mix">To the bench</Link>
            <Narrow what="recipes" value={words} set={setWords} width="220px" />
          </Flex>
        }
      />
      <Grid templateColumns={columns("minmax(0,1fr) 280px")} gap="34px">
        <Box style={{ columns: "2 330px", columnGap: 34 }}>
          {groups.map((g) => (
            <Box key={g} mb="14px" style={{ breakInside: "avoid" }}>
              <Heading>{g}</Heading>
              {shown
                .filter((r) => r.group === g)
                .map((r) => (
                  <Flex key={r.slug} gap="9px" py="4px" align="baseline" borderBottomWidth="1px" borderColor="line">
                    <Dot family={r.family} size={13} />
                    <Box flex="1" lineHeight="1.25">
                      <Link to={`/recipes/${r.slug}`}>
                        <b>{r.name}</b>
                      </Link>{" "}
                      {r.number > 0 && <Box as="span">§{r.number}</Box>}
                      <Box layerStyle="small">
                        {touch[r.touch]}
                        {r.keep_h > 0 && `, keeps ${r.keep_h >= 48 ? `${Math.round(r.keep_h / 24)} days` : `${r.keep_h} h`}`}
                        {r.like && ` · ${r.like}`}
                      </Box>
                    </Box>
                    <Link to={`/mix?recipe=${r.slug}`}>mix it</Link>
                  </Flex>
                ))}
            </Box>
          ))}
          {shown.length === 0 && <Box color="muted">No recipe has these words in it.</Box>}
        </Box>
        <Flex direction="column" gap="9px">
          <Heading>A recipe of your own</Heading>
          <Entry label="Name" name="name" placeholder="Moor mud, thick" value={name} set={setName} problem={begin.problem} />
          <Flex>
            <Go act={() => void begin.run()} disabled={begin.busy || !name.trim()}>
              Begin it
            </Go>
          </Flex>
          <Refusal problem={begin.problem} />
          <Box layerStyle="small">
            Any recipe can be changed: open it, change it, and agree it with a reason. Mixes keep the version they were made by.
          </Box>
        </Flex>
      </Grid>
    </Box>
  );
}
