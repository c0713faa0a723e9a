import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Choose, Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { day, money } from "../../parts/format";
import { columns, fields } from "../../parts/Room";

type Tool = Schemas["MixTool"];
type Act = Schemas["MixToolAct"]["act"];
type Kind = Schemas["MixNewTools"]["kind"];

const kinds: Kind[] = ["brush", "sponge", "spatula", "whisk", "bowl", "airbrush", "towel", "cloth", "clothes", "other"];
const states: Record<Tool["state"], string> = { good: "", worn: "worn", messy: "for messy work" };
const acts: Record<Act, string> = {
  used: "was used with",
  cleaned: "is clean again",
  worn: "is worn",
  messy: "is kept for messy work",
  thrown: "is thrown away",
};
const ofCloth = (kind: string) => ["towel", "cloth", "clothes"].includes(kind);

/** Tools and cloth of the shop: what has to be cleaned and how, what is kept for messy work, what was thrown away and what it cost. */
export function Tools() {
  const tools = useRead({ queryKey: ["tools"], queryFn: () => ask(api.GET("/api/tools")) });
  const [open, setOpen] = useState<number>();
  if (!tools.data) return null;
  const { list, thrown, mediums } = tools.data;
  return (
    <Grid templateColumns={columns("minmax(0,1.5fr) minmax(0,1fr)")} gap="30px" mb="26px" data-tools>
      <Box minW="0">
        <Heading aside="what has to be cleaned stands first">Tools and cloth of the shop</Heading>
        {list.length === 0 && (
          <Box color="muted">None are written down yet. Brushes that are spoilt often are worth it: what they cost is added up.</Box>
        )}
        {list.map((t) => (
          <Box key={t.id} py="6px" borderBottomWidth="1px" borderColor="line" data-tool={t.name}>
            <Flex gap="10px" align="baseline" wrap="wrap">
              <Box flex="1 1 160px" fontWeight="600">
                {t.held} × {t.name}
                {states[t.state] && (
                  <Box as="span" color="gorse">
                    , {states[t.state]}
                  </Box>
                )}
                {t.holds_ml !== undefined && (
                  <Box as="span" color="muted" fontWeight="400">
                    , {t.holds_ml >= 1000 ? `${t.holds_ml / 1000} l` : `${t.holds_ml} ml`}
                  </Box>
                )}
                {t.place && (
                  <Box as="span" color="muted" fontWeight="400">
                    , {t.place}
                  </Box>
                )}
              </Box>
              {t.dirty && <Box color="rust">{t.dirty}</Box>}
              <Plain h="34px" px="12px" aria-expanded={open === t.id} onClick={() => setOpen(open === t.id ? undefined : t.id)}>
                What became of it
              </Plain>
            </Flex>
            {t.clean && (
              <Box layerStyle="small">
                {t.clean.with}; {ofCloth(t.kind) ? t.clean.cloth : t.clean.tool}. {t.clean.minutes} min. It spoils {t.clean.ruins}.
              </Box>
            )}
            {open === t.id && <Became tool={t} mediums={mediums} done={() => setOpen(undefined)} />}
          </Box>
        ))}
        <Came />
      </Box>
      <Box minW="0">
        <Heading aside={thrown.length > 0 && `${money(tools.data.thrown_minor)} in ninety days`}>Thrown away</Heading>
        {thrown.length === 0 && <Box color="muted">Nothing in the last ninety days.</Box>}
        {thrown.map((e) => (
          <Flex key={e.at + e.name} gap="10px" py="4px" borderBottomWidth="1px" borderColor="line" fontSize="15px">
            <Box flex="1">
              {e.n} × <b>{e.name}</b>: {e.why}
              {e.medium && `, ${e.medium}`}.{" "}
              <Box as="span" color="muted">
                {e.by}, {day(e.at)}
              </Box>
            </Box>
            {e.cost_minor > 0 && <Box>{money(e.cost_minor)}</Box>}
          </Flex>
        ))}
      </Box>
    </Grid>
  );
}

/** What became of some of a row. */
function Became({ tool, mediums, done }: { tool: Tool; mediums: string[]; done: () => void }) {
  const [act, setAct] = useState<Act>(tool.dirty ? "cleaned" : "used");
  const [n, setN] = useState("1");
  const [medium, setMedium] = useState("");
  const [why, setWhy] = useState("");
  const some = act === "worn" || act === "messy" || act === "thrown";
  const keep = useAct(async () => {
    await ask(
      api.POST("/api/tools/{id}", {
        params: { path: { id: tool.id } },
        body: { act, n: some ? Number(n) || 0 : undefined, medium: act === "used" ? medium : undefined, why: why || undefined },
      }),
    );
    done();
  });
  return (
    <Box mt="8px">
      <Grid templateColumns={fields("1.2fr 1fr 1.4fr auto")} gap="8px" alignItems="end">
        <Choose label="It" name="act" value={act} set={(a) => setAct(a as Act)} problem={keep.problem}>
          {Object.entries(acts)
            .filter(([a]) => a !== tool.state && (a !== "cleaned" || tool.dirty))
            .map(([a, words]) => (
              <option key={a} value={a}>
                {words}
              </option>
            ))}
        </Choose>
        {act === "used" && (
          <Choose label="With" name="medium" value={medium} set={setMedium} problem={keep.problem}>
            <option value="">choose</option>
            {mediums.map((m) => (
              <option key={m}>{m}</option>
            ))}
          </Choose>
        )}
        {some && <Entry label={`How many of ${tool.held}`} name="n" value={n} set={setN} problem={keep.problem} />}
        {some && <Entry label="Why" name="why" value={why} set={setWhy} problem={keep.problem} placeholder="latex dried in it" />}
        <Plain h="38px" disabled={keep.busy} onClick={() => void keep.run()}>
          Write it down
        </Plain>
      </Grid>
      <Refusal problem={keep.problem} />
    </Box>
  );
}

/** Tools that came. */
function Came() {
  const [name, setName] = useState("");
  const [kind, setKind] = useState<Kind>("brush");
  const [n, setN] = useState("1");
  const [place, setPlace] = useState("");
  const [cost, setCost] = useState("");
  const [holds, setHolds] = useState("");
  const add = useAct(async () => {
    const each = Number(cost.replace(",", "."));
    await ask(
      api.POST("/api/tools", {
        body: {
          name,
          kind,
          n: Number(n) || 0,
          place: place || undefined,
          holds_ml: kind === "bowl" && holds ? Number(holds) || 0 : undefined,
          cost_minor: cost.trim() === "" ? undefined : Math.round(each * 100),
        },
      }),
    );
    setName("");
    setN("1");
    setCost("");
    setHolds("");
  });
  return (
    <Box mt="12px">
      <Heading>More came</Heading>
      <Grid templateColumns={fields("1.6fr 0.9fr 0.6fr 1fr 0.7fr auto")} gap="8px" alignItems="end">
        <Entry label="What" name="name" value={name} set={setName} problem={add.problem} placeholder="chip brush, 20 mm" />
        <Choose label="Kind" name="kind" value={kind} set={(k) => setKind(k as Kind)} problem={add.problem}>
          {kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Choose>
        <Entry label="How many" name="n" value={n} set={setN} problem={add.problem} />
        {kind === "bowl" && <Entry label="Holds, ml" name="holds_ml" value={holds} set={setHolds} problem={add.problem} placeholder="2000" />}
        <Entry label="Where" name="place" value={place} set={setPlace} problem={add.problem} />
        <Entry label="Each costs" name="cost_minor" value={cost} set={setCost} problem={add.problem} />
        <Plain h="38px" disabled={add.busy} onClick={() => void add.run()}>
          Write it down
        </Plain>
      </Grid>
      <Refusal problem={add.problem} />
    </Box>
  );
}
