import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { KeptFiles } from "../../app/KeptFiles";
import { useMaterials } from "../../app/reads";
import { Verdicts } from "../../app/TriedBefore";
import { Choose, Entry, Go, Heading, Narrow, Plain, Refusal } from "../../parts/controls";
import { words } from "../../parts/format";
import { Dot } from "../../parts/hatches";
import { columns, fields, RoomHead } from "../../parts/Room";
import { Holds } from "./Holds";
import { Rooms } from "./Rooms";

type Product = Schemas["CraftMaterialProduct"];
type Facts = Schemas["StoresFacts"];

/** The shop's products: their facts, each with where it is from, prices, and how they are kept. */
export default function Products() {
  const materials = useMaterials();
  const [query, setQuery] = useSearchParams();
  const [text, setText] = useState("");
  const of = query.get("of");
  const product = materials.data?.find((m) => m.slug === of);
  const shown = (materials.data ?? []).filter((m) => `${m.name} ${m.family}`.toLowerCase().includes(text.toLowerCase()));
  const families = [...new Set(shown.map((m) => m.family))].sort();
  return (
    <Box>
      <RoomHead title="Products" aside={materials.data && `${materials.data.length} on the shop's list`} acts={<Rooms />} />
      <Grid templateColumns={columns("300px minmax(0,1fr)")} gap="34px">
        <Box>
          <Box mb="10px">
            <Narrow what="products" value={text} set={setText} />
          </Box>
          <Box maxH={{ lg: "64vh" }} overflowY="auto">
            {families.map((f) => (
              <Box key={f} mb="8px">
                <Box layerStyle="small">{words(f)}</Box>
                {shown
                  .filter((m) => m.family === f)
                  .map((m) => (
                    <Flex
                      as="button"
                      key={m.slug}
                      gap="8px"
                      align="center"
                      w="100%"
                      textAlign="left"
                      py="3px"
                      fontWeight={m.slug === of ? 700 : 400}
                      aria-pressed={m.slug === of}
                      onClick={() => setQuery({ of: m.slug })}
                    >
                      <Dot family={m.family} size={12} /> {m.name}
                    </Flex>
                  ))}
              </Box>
            ))}
          </Box>
        </Box>
        <Box>
          {product ? <OneProduct p={product} key={product.slug} /> : <Box color="muted">Choose a product on the left, or add one of your own.</Box>}
          {product && (
            <Box mt="22px">
              <Box mb="16px">
                <Holds p={product} key={product.slug} />
              </Box>
              <KeptFiles of="material" code={product.slug} key={product.slug} />
              <Box mt="16px">
                <Verdicts material={product.slug} key={product.slug} />
              </Box>
            </Box>
          )}
          <Box mt="26px">
            <NewProduct list={materials.data ?? []} done={(slug) => setQuery({ of: slug })} />
          </Box>
        </Box>
      </Grid>
    </Box>
  );
}

const number = (t: string) => (t.trim() === "" ? undefined : Number(t.replace(",", ".")));
const show = (x: number | undefined, by = 1) => (x === undefined || x === 0 ? "" : String(Math.round((x / by) * 1000) / 1000));

function OneProduct({ p }: { p: Product }) {
  const [f, setF] = useState({
    name: p.name,
    density: show(p.density),
    wet: show(p.wet_density),
    solids: show(p.solids, 0.01),
    drops: p.drop_g ? String(Math.round(p.drop_g * 20 * 100) / 100) : "",
    price: p.price_minor_kg ? (p.price_minor_kg / 100).toString() : "",
    a: show(p.ratio?.a),
    b: show(p.ratio?.b),
    pot: show(p.cure?.pot_s, 60),
    demould: show(p.cure?.demould_s, 60),
    refC: show(p.cure?.ref_c),
    caution: p.caution ?? "",
    safety: show(p.keep?.safety_g),
    pack: show(p.keep?.pack_g),
    lead: show(p.keep?.lead_days),
    open: show(p.keep?.open_life_days),
    supplier: p.keep?.supplier ?? "",
    place: p.keep?.place ?? "",
  });
  const [source, setSource] = useState<Facts["source"]>("data sheet");
  const [which, setWhich] = useState("");
  const put = (next: Partial<typeof f>) => setF({ ...f, ...next });
  const save = useAct(async () => {
    const body: Facts = {
      source,
      which: which || undefined,
      name: f.name,
      density: number(f.density),
      caution: f.caution,
      keep: {
        safety_g: number(f.safety),
        pack_g: number(f.pack),
        lead_days: number(f.lead),
        open_life_days: number(f.open),
        supplier: f.supplier || undefined,
        place: f.place || undefined,
      },
    };
    if (f.wet.trim()) body.wet_density = number(f.wet);
    if (f.drops.trim()) body.drop_g = (number(f.drops) ?? 0) / 20;
    if (f.solids.trim()) body.solids = (number(f.solids) ?? 0) / 100;
    if (f.price.trim()) body.price_minor_kg = Math.round((number(f.price) ?? 0) * 100);
    if (p.ratio) body.ratio = { ...p.ratio, a: number(f.a) ?? 0, b: number(f.b) ?? 0 };
    if (p.cure) body.cure = { ...p.cure, pot_s: (number(f.pot) ?? 0) * 60, demould_s: (number(f.demould) ?? 0) * 60, ref_c: number(f.refC) ?? 23 };
    await ask(api.PUT("/api/materials/{slug}", { params: { path: { slug: p.slug } }, body }));
    setWhich("");
  });
  const from = (field: string) => p.sources?.[field] ?? "default";
  const { problem } = save;
  return (
    <Box>
      <Heading aside={words(p.family)}>{p.name}</Heading>
      <Grid templateColumns={fields("2fr 1fr 1fr 1fr 1fr 1fr")} gap="8px" mb="10px">
        <Entry label="Name" name="name" value={f.name} set={(name) => put({ name })} problem={problem} />
        <Entry label="g/ml, finished" name="density" value={f.density} set={(density) => put({ density })} problem={problem} hint={from("density")} />
        <Entry label="g/ml, as mixed" name="wet_density" value={f.wet} set={(wet) => put({ wet })} problem={problem} hint={from("wet_density")} />
        <Entry label="Solids, %" name="solids" value={f.solids} set={(solids) => put({ solids })} problem={problem} hint={from("solids")} />
        <Entry label="20 drops, g" name="drop_g" value={f.drops} set={(drops) => put({ drops })} problem={problem} hint={from("drop_g")} />
        <Entry
          label="Price a kilogram"
          name="price_minor_kg"
          value={f.price}
          set={(price) => put({ price })}
          problem={problem}
          hint={from("price_minor_kg")}
        />
      </Grid>
      {p.ratio && (
        <Grid templateColumns={fields("1fr 1fr 1fr 1fr 1fr")} gap="8px" mb="10px">
          <Entry label="Parts A" name="ratio" value={f.a} set={(a) => put({ a })} problem={problem} hint={from("ratio")} />
          <Entry
            label={`Parts B, by ${p.ratio.by_volume ? "volume" : "mass"}`}
            name="ratio.b"
            value={f.b}
            set={(b) => put({ b })}
            problem={problem}
          />
          {p.cure && (
            <Entry label="Pot life, min" name="cure.pot_s" value={f.pot} set={(pot) => put({ pot })} problem={problem} hint={from("cure")} />
          )}
          {p.cure && <Entry label="Demould, min" name="cure.demould_s" value={f.demould} set={(demould) => put({ demould })} problem={problem} />}
          {p.cure && <Entry label="at °C" name="cure.ref_c" value={f.refC} set={(refC) => put({ refC })} problem={problem} />}
        </Grid>
      )}
      <Grid templateColumns={fields("1fr 1fr 1fr 1fr 1.4fr 1fr")} gap="8px" mb="10px">
        <Entry label="Always here, g" name="keep.safety_g" value={f.safety} set={(safety) => put({ safety })} problem={problem} />
        <Entry label="Pack, g" name="keep.pack_g" value={f.pack} set={(pack) => put({ pack })} problem={problem} />
        <Entry label="Comes in, days" name="keep.lead_days" value={f.lead} set={(lead) => put({ lead })} problem={problem} />
        <Entry label="Open, days" name="keep.open_life_days" value={f.open} set={(open) => put({ open })} problem={problem} />
        <Entry label="Supplier" name="keep.supplier" value={f.supplier} set={(supplier) => put({ supplier })} problem={problem} />
        <Entry label="Place" name="keep.place" value={f.place} set={(place) => put({ place })} problem={problem} />
      </Grid>
      <Entry label="Caution" name="caution" value={f.caution} set={(caution) => put({ caution })} problem={problem} />
      <Grid templateColumns={fields("1fr 2fr auto")} gap="8px" mt="10px" alignItems="end">
        <Choose label="The changes are from" name="source" value={source} set={(s) => setSource(s as Facts["source"])}>
          <option value="data sheet">a data sheet</option>
          <option value="measured here">a measurement here</option>
          <option value="default">a guess</option>
        </Choose>
        <Entry label="Which" name="which" placeholder="sheet of 3 March, page 2" value={which} set={setWhich} problem={problem} />
        <Go act={() => void save.run()} disabled={save.busy}>
          Write it down
        </Go>
      </Grid>
      <Refusal problem={problem} />
      <Box layerStyle="small" mt="6px">
        What follows elsewhere follows at once; what was made keeps the figures that it was made with. The supplier's data sheet always wins over a
        default.
      </Box>
    </Box>
  );
}

function NewProduct({ list, done }: { list: Product[]; done: (slug: string) => void }) {
  const [name, setName] = useState("");
  const [like, setLike] = useState("");
  const add = useAct(async () => {
    const p = await ask(api.POST("/api/materials", { body: { name, like } }));
    setName("");
    done(p.slug);
  });
  return (
    <Box>
      <Heading>A product of your own</Heading>
      <Grid templateColumns={fields("1fr 1fr auto")} gap="8px" alignItems="end">
        <Entry label="Name" name="name" value={name} set={setName} problem={add.problem} placeholder="Softener, the thick one" />
        <Choose label="Most like" name="like" value={like} set={setLike} problem={add.problem}>
          <option value="">choose</option>
          {list.map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
        </Choose>
        <Plain h="40px" disabled={add.busy || !name.trim() || !like} onClick={() => void add.run()}>
          Add it
        </Plain>
      </Grid>
      <Refusal problem={add.problem} />
    </Box>
  );
}
