import { Box, Flex, Grid, Input } from "@chakra-ui/react";
import { useState } from "react";
import { useEach } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Heading, Pick, Plain, Refusal } from "../../parts/controls";
import { day } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { columns } from "../../parts/Room";
import { Tag } from "../../parts/Tag";

type Item = Schemas["HandoverKitItem"];
type ItemAct = Schemas["HandoverItemAct"];
type Contents = Schemas["HandoverContents"];

const kindText: Record<string, string> = {
  prepare: "skin made ready",
  guard: "hair guarded and hidden",
  barrier: "barrier",
  adhesive: "adhesive",
  solvent: "solvent",
  colour: "colour",
  powder: "powder",
  finish: "finish",
  blood: "blood",
  lens: "lenses",
  hair: "hair",
  tool: "tools",
  remover: "remover",
  care: "after care",
  card: "cards",
  other: "besides",
};

const amount = (n: number, unit: string) => (n > 0 ? `${Math.round(n * 100) / 100} ${unit}` : "");

/** What goes with a kit: worked out from its pieces and its day, ticked as it is packed and weighed. */
export function Packing({ code, left, kit }: { code: string; left: boolean; kit: Schemas["HandoverKit"] }) {
  const path = { params: { path: { code } } };
  const contents = useRead({ queryKey: ["kit contents", code], queryFn: () => ask(api.GET("/api/kits/{code}/contents", path)) });
  const act = useEach((body: ItemAct) => ask(api.POST("/api/kits/{code}/contents", { ...path, body })));
  const pack = useEach((copy: string) => ask(api.POST("/api/kits/{code}/copies", { ...path, body: { copies: [copy] } })));
  const c = contents.data;
  if (!c) return null;
  const groups = [...new Set(c.items.map((i) => i.kind))];
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 300px")} gap="30px">
      <Box>
        <Complete c={c} left={left} />
        <Refusal problem={act.problem ?? pack.problem} />
        {groups.map((g) => (
          <Box key={g} mb="10px">
            <Heading>{kindText[g] ?? g}</Heading>
            {c.items
              .filter((i) => i.kind === g)
              .map((i) => (
                <OneItem key={i.key} i={i} left={left} act={(body) => void act.run(body)} />
              ))}
          </Box>
        ))}
        {!left && <Besides add={(body) => act.run(body)} problem={act.problem} />}
      </Box>
      <Flex direction="column" gap="18px">
        <Box>
          <Heading>Copies, and spares</Heading>
          {kit.copies.length === 0 && <Box color="muted">No copy is in it yet.</Box>}
          {kit.copies.map((k) => (
            <Flex key={k.code} gap="10px" align="center" mb="6px">
              <Tag code={k.code} to={`/check/${k.code}`} />
              <Box flex="1">
                {k.name}
                {k.wears > 0 && <Box layerStyle="small">worn {k.wears === 1 ? "once" : `${k.wears} times`} before</Box>}
              </Box>
            </Flex>
          ))}
          {c.copies.map((w) => (
            <Box key={w.piece} mb="8px" layerStyle="note">
              {w.piece}: {w.in} of {w.says.copies} wanted for {w.says.uses === 1 ? "one use" : `${w.says.uses} uses`}; enough in{" "}
              {Math.round(100 * w.says.p)} of 100{w.says.p_one_less > 0 && `, one less in ${Math.round(100 * w.says.p_one_less)}`}.
              {!left &&
                w.in < w.says.copies &&
                w.free.slice(0, 3).map((f) => (
                  <Plain key={f} h="34px" mt="4px" me="6px" onClick={() => void pack.run(f)}>
                    Pack {f}
                  </Plain>
                ))}
              {w.coming && <Box color="gorse">{w.coming}</Box>}
            </Box>
          ))}
        </Box>
        <Box>
          <Heading>How it travels</Heading>
          {c.parcels.map((p) => (
            <Box key={p.piece} mb="6px">
              <b>{p.piece}</b> {p.says.support}; {p.says.powder}; {p.says.wrap}; {p.says.orientation}.
              <Box layerStyle="small">keeps {Math.round(p.says.days_left)} days more</Box>
              {p.says.warnings.length > 0 && <Box color="gorse">Mind: {p.says.warnings.join(", ")}.</Box>}
            </Box>
          ))}
        </Box>
        <Box>
          <Heading>What holds it there</Heading>
          {c.holds.map((h) => (
            <Box key={h.piece} mb="6px">
              <b>{h.piece}</b>, {h.zone}:{" "}
              {h.says.ok.length === 0
                ? "none of the known kinds"
                : h.says.ok.map((a) => `${a.replace("adhesive_", "")} (lasts in ${Math.round(100 * (h.says.p_last[a] ?? 0))} of 100)`).join(", ")}
              .
              <Box layerStyle="small">
                Not:{" "}
                {Object.entries(h.says.refused)
                  .map(([a, why]) => `${a.replace("adhesive_", "")} for ${why.replaceAll("_", " ")}`)
                  .join(", ")}
              </Box>
            </Box>
          ))}
        </Box>
      </Flex>
    </Grid>
  );
}

function Complete({ c, left }: { c: Contents; left: boolean }) {
  if (left) return null;
  if (c.complete)
    return (
      <Notice tone="good" mb="10px" data-testid="complete">
        Everything is packed.
      </Notice>
    );
  return (
    <Notice mb="10px" data-testid="complete">
      <b>{c.open === 1 ? "One thing is open." : `${c.open} things are open.`}</b>
      {c.missing.length > 0 && <Box>Missing: {c.missing.join(", ")}.</Box>}
      {c.why && (
        <Box>
          It waits for {c.why}
          {c.by && <b> · it could be complete by {day(c.by)}</b>}.
        </Box>
      )}
    </Notice>
  );
}

function OneItem({ i, left, act }: { i: Item; left: boolean; act: (body: ItemAct) => void }) {
  const [weighed, setWeighed] = useState("");
  const [why, setWhy] = useState<"missing" | "drop">();
  const [words, setWords] = useState("");
  const counted = i.need > 0;
  const typed = Number(weighed.replace(",", "."));
  return (
    <Box py="4px" borderBottomWidth="1px" borderColor="line" data-item={i.key} opacity={i.dropped ? 0.6 : 1}>
      <Flex gap="10px" align="center" wrap="wrap">
        <Box flex="1 1 200px">
          {i.name}{" "}
          {i.lot && (
            <Box as="span" layerStyle="small">
              lot {i.lot}
            </Box>
          )}
          <Box layerStyle="small" lineHeight="1.25">
            {i.dropped ? `left out: ${i.dropped}` : i.why}
          </Box>
          {i.missing && <Box color="rust">missing: {i.missing}</Box>}
          {i.lacks && !i.packed_at && <Box color="rust">{i.lacks}</Box>}
        </Box>
        <Box w="72px" textAlign="end" fontWeight="600">
          {amount(i.need, i.unit)}
        </Box>
        {i.packed_at ? (
          <Flex w="210px" gap="8px" align="center">
            <Box flex="1" color="yew" fontWeight="600">
              packed {amount(i.packed ?? 0, i.unit)}
              {i.back != null && <Box layerStyle="small">back {amount(i.back, i.unit) || "nothing"}</Box>}
            </Box>
            {!left && !(i.slug && i.unit === "g") && (
              <Box as="button" layerStyle="small" textDecoration="underline" onClick={() => act({ act: "unpack", item: i.key })}>
                take out
              </Box>
            )}
          </Flex>
        ) : left ? (
          <Box w="210px" color="muted">
            {i.dropped ? "" : "not packed"}
          </Box>
        ) : i.dropped ? (
          <Plain h="38px" onClick={() => act({ act: "take", item: i.key })}>
            Take it along
          </Plain>
        ) : (
          <Flex w="210px" gap="8px" align="center">
            {counted && (
              <Input
                h="38px"
                w="76px"
                px="8px"
                bg="sheet"
                borderColor="line"
                aria-label={`Weighed or counted: ${i.name}`}
                placeholder={String(i.need)}
                value={weighed}
                onChange={(e) => setWeighed(e.target.value)}
              />
            )}
            <Plain
              h="38px"
              disabled={weighed !== "" && !(typed > 0)}
              onClick={() => act({ act: "pack", item: i.key, ...(typed > 0 ? { amount: typed } : {}) })}
            >
              Packed
            </Plain>
            <Box
              as="button"
              layerStyle="small"
              textDecoration="underline"
              aria-label={`Not packed: ${i.name}`}
              onClick={() => setWhy(why ? undefined : "missing")}
            >
              not
            </Box>
          </Flex>
        )}
      </Flex>
      {why && (
        <Flex gap="8px" mt="4px" wrap="wrap" align="end">
          <Pick label="Missing or left out" value={why} set={(v) => setWhy(v as "missing" | "drop")} width="130px">
            <option value="missing">missing</option>
            <option value="drop">left out</option>
          </Pick>
          <Box flex="1">
            <Entry label="Why" name="words" value={words} set={setWords} />
          </Box>
          <Plain
            disabled={!words.trim()}
            onClick={() => {
              act({ act: why, item: i.key, words });
              setWhy(undefined);
            }}
          >
            Note it
          </Plain>
        </Flex>
      )}
    </Box>
  );
}

function Besides({ add, problem }: { add: (body: ItemAct) => Promise<unknown>; problem: Parameters<typeof Entry>[0]["problem"] }) {
  const [name, setName] = useState("");
  const [n, setN] = useState("1");
  return (
    <Box mt="12px">
      <Heading>Something besides</Heading>
      <Flex gap="10px" align="end" wrap="wrap">
        <Entry label="What goes along" name="name" value={name} set={setName} problem={problem} width="240px" />
        <Entry label="How many" name="amount" value={n} set={setN} width="90px" />
        <Plain
          disabled={!name.trim()}
          onClick={async () => {
            if ((await add({ act: "add", name, amount: Number(n) || 1 })) !== undefined) setName("");
          }}
        >
          Add it
        </Plain>
      </Flex>
    </Box>
  );
}
