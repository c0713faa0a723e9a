import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { Choose, Entry, Go, Heading, Plain, Refusal, Teach, WrongAt } from "../../parts/controls";
import { dayTime, millimetres, money } from "../../parts/format";
import { Tag } from "../../parts/Tag";
import { hex, type Room } from "./colours";
import { noReading, ReadingFields, readBy, sent } from "./Reading";

type Recipe = Schemas["ColourRecipe"];
type Drawdown = Schemas["ColourDrawdown"];

const verdicts: Record<Schemas["ColourAnswer"]["verdict"], string> = {
  leave: "Leave it: it is near enough.",
  no_help: "Nothing that could be added helps. Mix it anew.",
  corrected: "It can be put right.",
  improved: "It can be made better, not right: between 1 and 2 off.",
  remake: "Adding does not save it. Mix it anew.",
};

/** Recipes that were taken: their mix, what was really weighed, drawdowns and what to add. */
export function Trials({ piece, room }: { piece: string; room: Room }) {
  if (room.recipes.length === 0)
    return (
      <Teach>
        Nothing is mixed for the body of {piece} yet. Take a recipe under Match: it is written down in Mix with its lots. When it is weighed, draw it
        down, let it set, and read it here.
      </Teach>
    );
  return (
    <Flex direction="column" gap="26px">
      {room.recipes.map((r, i) => (
        <One key={r.code} recipe={r} newest={i === 0} piece={piece} />
      ))}
    </Flex>
  );
}

function One({ recipe: r, newest, piece }: { recipe: Recipe; newest: boolean; piece: string }) {
  const real = r.real.length > 0;
  const [drawing, setDrawing] = useState(false);
  return (
    <Box data-recipe={r.code}>
      <Heading aside={`${dayTime(r.at)}, ${r.by}`}>
        {r.code}, {r.material_name}, {millimetres(r.thickness_mm)}
        {r.after && `, after ${r.after}`}
      </Heading>
      <Grid templateColumns={{ base: "1fr", lg: "minmax(0,1fr) minmax(0,1.25fr)" }} gap="26px">
        <Box>
          <Flex gap="10px" align="center" mb="6px" wrap="wrap">
            {r.mix && <Tag code={r.mix} to={`/mix/${r.mix}`} />}
            <Box>
              {r.ready
                ? `${r.base_g.toFixed(1)} g of base and its colour are in`
                : r.mix_state === "abandoned"
                  ? "given up"
                  : real
                    ? "being weighed"
                    : "not weighed yet"}
            </Box>
            {!r.ready && r.mix_state !== "abandoned" && r.mix && <Link to={`/mix/${r.mix}`}>go on at the bench</Link>}
          </Flex>
          <Grid templateColumns="1fr 74px 124px" gap="2px 10px">
            <Box layerStyle="small">in 100 g of base</Box>
            <Box layerStyle="small" textAlign="right">
              meant
            </Box>
            <Box layerStyle="small" textAlign="right">
              weighed
            </Box>
            {r.parts.map((p) => {
              const w = r.real.find((x) => x.material === p.material);
              return <Row key={p.material} name={p.name} meant={p.per_100_g} weighed={w?.per_100_g} />;
            })}
            {r.real
              .filter((w) => !r.parts.some((p) => p.material === w.material))
              .map((w) => (
                <Row key={w.material} name={w.name} weighed={w.per_100_g} />
              ))}
          </Grid>
        </Box>
        <Box>
          {r.drawdowns.map((d, i) => (
            <Read key={d.id} d={d} recipe={r} last={i === r.drawdowns.length - 1} />
          ))}
          {r.ready &&
            (drawing || (newest && r.drawdowns.length === 0) ? (
              <DrawIt recipe={r} done={() => setDrawing(false)} />
            ) : (
              <Plain mt="8px" onClick={() => setDrawing(true)}>
                Read another drawdown
              </Plain>
            ))}
        </Box>
      </Grid>
      {newest && r.ready && <IntoTheBook recipe={r} piece={piece} />}
    </Box>
  );
}

function Row({ name, meant, weighed }: { name: string; meant?: number; weighed?: number }) {
  const off = meant && weighed ? weighed / meant - 1 : 0;
  return (
    <>
      <Box lineHeight="1.25">{name}</Box>
      <Box textAlign="right">{meant === undefined ? "" : `${meant.toFixed(3)} g`}</Box>
      <Box textAlign="right" fontWeight={Math.abs(off) > 0.05 ? 700 : 400}>
        {weighed === undefined ? "" : `${weighed.toFixed(3)} g`}
        {Math.abs(off) > 0.05 && ` (${off > 0 ? "+" : "−"}${Math.abs(Math.round(100 * off))} %)`}
      </Box>
    </>
  );
}

/** One drawdown that was read, and what it asks for. */
function Read({ d, recipe, last }: { d: Drawdown; recipe: Recipe; last: boolean }) {
  const a = d.answer;
  const put = useAct(() => ask(api.POST("/api/colour-recipes/{code}/drawdowns/{id}/add", { params: { path: { code: recipe.code, id: d.id } } })));
  const weak = a.verdict === "leave" ? [] : a.factors.filter((f) => f.times < 0.9 || f.times > 1.1);
  return (
    <Box mb="12px" data-drawdown={d.id}>
      <Flex gap="12px">
        <Box w="190px" flexShrink={0}>
          <Flex
            h="56px"
            role="img"
            aria-label={`target, the batch as it is: ${a.before.toFixed(1)} off${a.add.length > 0 ? `, and then: ${a.after.toFixed(1)} off` : ""}`}
          >
            <Box flex="1" bg={hex(recipe.aim.lab)} />
            <Box flex="1" bg={hex(a.as_it_is)} />
            {a.add.length > 0 && <Box flex="1" bg={hex(a.put_right)} />}
          </Flex>
          <Flex fontSize="12.5px" aria-hidden>
            <Box flex="1">target</Box>
            <Box flex="1">as it is</Box>
            {a.add.length > 0 && <Box flex="1">then</Box>}
          </Flex>
        </Box>
        <Box lineHeight="1.3">
          <b>{verdicts[a.verdict]}</b>
          <Box>
            As it is {a.before.toFixed(1)} off, ±{a.band.toFixed(1)}
            {a.add.length > 0 && `; then ${a.rounded.toFixed(1)}`}.
          </Box>
          <Box layerStyle="small">
            Read {dayTime(d.at)} by {d.by}, {millimetres(d.thickness_mm)} over {d.backing === "skin" ? "the same skin" : d.backing},{" "}
            {readBy[d.read.source]}
            {d.read.note && ` (${d.read.note})`}.
          </Box>
        </Box>
      </Flex>
      {a.strange_bands > 6 && (
        <Box fontWeight="700" mt="4px">
          The reading and the recipe do not belong together ({a.strange_bands} bands): another chip, another thickness or another ground?
        </Box>
      )}
      {weak.length > 0 && (
        <Box mt="4px">{weak.map((f) => `${f.name} behaves as ${Math.round(100 * f.times)} % of what was weighed`).join("; ")}.</Box>
      )}
      {a.add.length > 0 && (
        <Box mt="6px">
          {a.add.map((x) => (
            <Flex key={x.material} gap="10px">
              <Box flex="1">
                add {x.name}
                {x.lot ? `, lot ${x.lot}` : ", not enough on the shelf"}
              </Box>
              <b>{x.grams.toFixed(2)} g</b>
              <Box w="90px">{x.drops ? `${x.drops} ${x.drops === 1 ? "drop" : "drops"}` : "weighed"}</Box>
            </Flex>
          ))}
          {a.add_base_g > 0 && <Box>and {a.add_base_g.toFixed(1)} g of base</Box>}
          <Box layerStyle="small">
            Into {d.base_g.toFixed(1)} g of base; pigment for {money(a.cost_minor)}.
          </Box>
          {last && !d.added_at && recipe.open && (
            <Go mt="6px" disabled={put.busy} act={() => void put.run()}>
              Put it into the cup
            </Go>
          )}
          {d.added_at && <Box fontWeight="600">Put into the cup {dayTime(d.added_at)}: weigh it at the bench, draw it down and read it again.</Box>}
          {last && !recipe.open && !d.added_at && (
            <Box>
              The cup is gone: take a recipe under Match again, and draw down the pigment that was weaker under Pigments, so that it is reckoned as it
              is.
            </Box>
          )}
          <Refusal problem={put.problem} />
        </Box>
      )}
    </Box>
  );
}

function DrawIt({ recipe, done }: { recipe: Recipe; done: () => void }) {
  const [x, setX] = useState(String(Math.max(1, Math.round(recipe.thickness_mm * 10) / 10)));
  const [backing, setBacking] = useState<"skin" | "black" | "white">("white");
  const [dry, setDry] = useState(false);
  const [base, setBase] = useState("");
  const [reading, setReading] = useState(noReading());
  const keep = useAct(async () => {
    await ask(
      api.POST("/api/colour-recipes/{code}/drawdowns", {
        params: { path: { code: recipe.code } },
        body: {
          thickness_mm: Number(x.replace(",", ".")),
          backing,
          dry,
          base_g: base.trim() === "" ? undefined : Number(base.replace(",", ".")),
          reading: sent(reading),
        },
      }),
    );
    setReading(noReading(reading.source));
    done();
  });
  return (
    <Box bg="deep" p="12px" borderRadius="4px" data-testid="draw-down">
      <Heading>Read a drawdown</Heading>
      <Grid templateColumns="1fr 1fr 1fr" gap="8px" mb="8px">
        <Entry label="Thick, mm" name="thickness_mm" value={x} set={setX} problem={keep.problem} />
        <Choose label="Over" name="backing" value={backing} set={(b) => setBacking(b as typeof backing)} problem={keep.problem}>
          <option value="white">the white of the card</option>
          <option value="black">the black of the card</option>
          <option value="skin">the wearer's skin</option>
        </Choose>
        <Entry label="Base left, g" name="base_g" value={base} set={setBase} placeholder={recipe.base_g.toFixed(1)} problem={keep.problem} />
      </Grid>
      <ReadingFields value={reading} set={setReading} problem={keep.problem} />
      <label style={{ display: "flex", gap: 8, alignItems: "center", margin: "8px 0" }}>
        <input type="checkbox" checked={dry} onChange={(e) => setDry(e.target.checked)} />
        it has set and is dry
      </label>
      <WrongAt problem={keep.problem} name="dry" />
      <Go disabled={keep.busy} act={() => void keep.run()}>
        Say what to add
      </Go>
      <Refusal problem={keep.problem} />
    </Box>
  );
}

/** Keeps what was mixed in the book of swatches, with what was weighed. */
function IntoTheBook({ recipe, piece }: { recipe: Recipe; piece: string }) {
  const [name, setName] = useState("");
  const last = recipe.drawdowns.at(-1);
  const [kept, setKept] = useState("");
  const keep = useAct(async () => {
    if (!last) return;
    const { l, a, b } = last.read.lab;
    await ask(
      api.POST("/api/swatches", {
        body: {
          name,
          material: recipe.material,
          piece,
          mix: recipe.mix,
          thickness_mm: last.thickness_mm,
          backing: last.backing,
          light: "daylight",
          reading: { source: "lab", l, a, b },
        },
      }),
    );
    setKept(name);
    setName("");
  });
  if (!last) return null;
  return (
    <Flex gap="10px" align="flex-end" mt="10px" wrap="wrap">
      <Entry label="Keep it in the book as" name="name" value={name} set={setName} problem={keep.problem} placeholder="cheek of BF" width="230px" />
      <Plain disabled={keep.busy || name.trim() === ""} onClick={() => void keep.run()}>
        Keep it
      </Plain>
      {kept && <Box role="status">“{kept}” is in the book.</Box>}
      <Refusal problem={keep.problem} />
    </Flex>
  );
}
