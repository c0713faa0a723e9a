import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Amounts } from "../../parts/Amounts";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { columns } from "../../parts/Room";

type Measured = Schemas["SculptMeasured"];

const named: Record<string, string> = {
  clay: "clay used",
  water: "water fill",
  area: "area × thickness",
  displacement: "displaced",
  scan: "between scans",
};

/** What the clay tells about the piece to come: its volume. */
export function Volume({ piece }: { piece: { code: string } }) {
  const params = { params: { path: { code: piece.code } } };
  const volumes = useRead({ queryKey: ["volumes", piece.code], queryFn: () => ask(api.GET("/api/pieces/{code}/volumes", params)) });
  const navigate = useNavigate();
  const [m, setM] = useState<Measured>({ route: "clay", before: "", after: "", reclaimed: "", full: "", empty: "", core: "", area: "", mean: "" });
  const record = useAct(() => ask(api.POST("/api/pieces/{code}/volumes", { ...params, body: m })));
  const entry = (name: keyof Measured, label: string, placeholder: string) => (
    <Entry
      label={label}
      name={name}
      value={String(m[name] ?? "")}
      placeholder={placeholder}
      problem={record.problem}
      set={(value) => setM({ ...m, [name]: value })}
    />
  );
  if (!volumes.data) return null;
  const v = volumes.data.together;
  return (
    <Grid templateColumns={columns("minmax(0,300px) minmax(0,1fr)")} gap="26px">
      <Flex direction="column" gap="10px">
        <Heading>Volume of {piece.code}</Heading>
        <Choose label="From" name="route" value={m.route} set={(route) => setM({ ...m, route: route as Measured["route"] })}>
          <option value="clay">the clay that went in</option>
          <option value="water">water in the closed mould</option>
          <option value="area">area and mean thickness</option>
          <option value="displacement">what it displaces</option>
        </Choose>
        <Grid templateColumns="1fr 1fr" gap="10px">
          {m.route === "clay" && (
            <>
              {entry("before", "Clay before", "500 g")}
              {entry("after", "Clay left over", "472 g")}
              {entry("reclaimed", "Scraped off again", "none")}
            </>
          )}
          {m.route === "water" && (
            <>
              {entry("full", "Mould full", "1240 g")}
              {entry("empty", "Mould empty", "1223 g")}
              {entry("core", "Core, if it was out", "none")}
            </>
          )}
          {m.route === "area" && (
            <>
              {entry("area", "Area", "34 cm²")}
              {entry("mean", "Mean thickness", "1.8 mm")}
            </>
          )}
          {m.route === "displacement" && (
            <>
              {entry("in_air", "In air", "84 g")}
              {entry("in_water", "Hung in water", "6 g")}
              {entry("level_was", "or level before", "400 ml")}
              {entry("level_is", "and with it in", "478 ml")}
            </>
          )}
        </Grid>
        <Flex gap="12px">
          <Plain disabled={record.busy} onClick={() => void record.run()}>
            Keep it
          </Plain>
          <Plain onClick={() => navigate(`/piece/${piece.code}`)}>Its section</Plain>
        </Flex>
        <Refusal problem={record.problem} />
        <Box layerStyle="note">
          Type what you measured in: 350 g, 12 oz, 2 tbsp, 1/4 in. Oil clay is taken at 1.6 g/cm³. Seal gypsum before a water fill.
        </Box>
      </Flex>
      <Box>
        <Amounts code={piece.code} />
        <Box h="14px" />
        <Heading>What was measured at the clay</Heading>
        {v ? (
          <>
            <Box fontSize="46px" fontWeight="700" lineHeight="1.1">
              {v.mean_ml.toFixed(1)} ml
            </Box>
            <Box color="muted">
              ± {v.sd_ml.toFixed(1)} ml, {v.routes.length === 1 ? "from one way of telling" : `${v.routes.length} ways weighed by their usual error`}
              {v.disagree.length > 0 && <b> · {v.disagree.map((d) => named[d]).join(", ")} disagrees: check it</b>}
            </Box>
          </>
        ) : (
          <Box color="muted">Nothing yet.</Box>
        )}
        <Box mt="14px">
          {volumes.data.readings.map((r) => (
            <Flex key={r.id} gap="14px" py="4px" borderBottomWidth="1px" borderColor="line">
              <Box w="100px" whiteSpace="nowrap">
                {named[r.route]}
              </Box>
              <Box w="80px" fontWeight="600">
                {r.volume_ml.toFixed(1)} ml
              </Box>
              <Box flex="1" color="muted" whiteSpace="nowrap">
                {[
                  r.measured.before,
                  r.measured.after,
                  r.measured.full,
                  r.measured.empty,
                  r.measured.area,
                  r.measured.mean,
                  r.measured.in_air,
                  r.measured.in_water,
                  r.measured.level_was,
                  r.measured.level_is,
                ]
                  .filter(Boolean)
                  .join(" → ")}
              </Box>
              <Box color="muted" textAlign="right">
                {r.who}, {dayTime(r.at)}
              </Box>
            </Flex>
          ))}
        </Box>
      </Box>
    </Grid>
  );
}
