import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { FewWords, Heading, Pick, Plain, Refusal } from "../../parts/controls";
import { Turn } from "../../parts/Turn";
import { how, useCards } from "./Cards";
import { hex, usePigments } from "./colours";
import { type Layer, roleWords } from "./Paint";

type Product = Schemas["CraftMaterialProduct"];

/** Everything about one colour of a schedule; what is left at its tool's is said to be. */
export function LayerEditor({
  layer: l,
  tools,
  media,
  sets,
  change,
  propose,
}: {
  layer: Layer;
  tools: Schemas["CraftPaintworkTool"][];
  media: Product[];
  sets: Product[];
  change: (part: Partial<Layer>, now?: boolean) => void;
  /** What it could be mixed of, over what lies under it. */
  propose: () => Promise<Schemas["ColourProposed"]>;
}) {
  const tool = tools.find((t) => t.code === l.tool);
  const cards = useCards();
  return (
    <Flex direction="column" gap="10px" data-testid="layer-editor">
      <Heading>{l.name || roleWords[l.role]}</Heading>
      <FewWords
        label="What it is called"
        value={l.name ?? ""}
        max={80}
        grow="1 1 auto"
        set={(name) => change({ name })}
        placeholder="what it is called"
      />
      {(cards.data?.length ?? 0) > 0 && (
        <Pick
          label="By a card"
          value=""
          set={(id) => {
            const c = cards.data?.find((x) => String(x.id) === id);
            if (!c) return;
            change(
              {
                tool: c.tool as Layer["tool"],
                distance_mm: c.distance_mm,
                dilution: c.dilution,
                film_mm: c.film_mm,
                coverage: c.coverage,
                note: [c.name, c.load].filter(Boolean).join(": "),
              },
              true,
            );
          }}
        >
          <option value="">as a card of the shop says</option>
          {cards.data?.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name}: {how(c)}
            </option>
          ))}
        </Pick>
      )}
      <Grid templateColumns="1fr 1fr" gap="8px 12px">
        <Labelled text="It is">
          <Pick label="What it does" value={l.role} set={(role) => change({ role: role as Layer["role"] }, true)}>
            {Object.entries(roleWords).map(([k, text]) => (
              <option key={k} value={k}>
                {text}
              </option>
            ))}
          </Pick>
        </Labelled>
        <Labelled text="Medium">
          <Pick label="Medium" value={l.medium} set={(medium) => change({ medium }, true)}>
            {!media.some((m) => m.slug === l.medium) && <option value={l.medium}>choose one</option>}
            {media.map((m) => (
              <option key={m.slug} value={m.slug}>
                {m.name}
              </option>
            ))}
          </Pick>
        </Labelled>
        <Labelled text="Put on by">
          <Pick label="Tool" value={l.tool} set={(t) => change({ tool: t as Layer["tool"] }, true)}>
            {tools.map((t) => (
              <option key={t.code} value={t.code}>
                {t.text}
              </option>
            ))}
          </Pick>
        </Labelled>
        <Labelled text="Set before the next with">
          <Pick label="Set with" value={l.set ?? ""} set={(s) => change({ set: s || undefined }, true)}>
            <option value="">nothing</option>
            {sets.map((m) => (
              <option key={m.slug} value={m.slug}>
                {m.name}
              </option>
            ))}
          </Pick>
        </Labelled>
        <Labelled text="When the next goes on it is">
          <Pick label="How dry" value={l.dry || "dry"} set={(d) => change({ dry: d as Layer["dry"] }, true)}>
            {["dry", "tacky", "wet"].map((d) => (
              <option key={d}>{d}</option>
            ))}
          </Pick>
        </Labelled>
        <Labelled text="It is to shine">
          <Pick label="Shine" value={l.shine ?? ""} set={(s) => change({ shine: s as Layer["shine"] }, true)}>
            <option value="">as it comes</option>
            <option value="matt">matt</option>
            <option value="satin">satin</option>
            <option value="wet">wet</option>
          </Pick>
        </Labelled>
      </Grid>
      {l.role !== "shine" && <ColourOf layer={l} change={change} propose={propose} />}
      <Flex gap="8px 16px" wrap="wrap" align="center">
        <Turn label="Passes" value={l.passes ?? 1} min={1} max={30} step={1} set={(passes) => change({ passes: Math.round(passes) })} />
        {!l.line_mm && (
          <Turn
            label="Covers"
            unit="%"
            value={Math.round(100 * (l.coverage || tool?.coverage || 1))}
            min={1}
            max={100}
            step={5}
            set={(x) => change({ coverage: x / 100 })}
          />
        )}
        <Turn
          label="Wet film"
          unit="mm"
          value={l.film_mm || tool?.film_mm || 0.03}
          min={0.002}
          max={1}
          step={0.005}
          set={(film_mm) => change({ film_mm })}
        />
        <Turn label="Thinner to 1 of colour" value={l.dilution ?? 0} min={0} max={50} step={0.5} set={(dilution) => change({ dilution })} />
        {(tool?.distance_mm ?? 0) > 0 && (
          <Turn
            label="Held at"
            unit="mm"
            value={l.distance_mm || tool?.distance_mm || 0}
            min={10}
            max={1000}
            step={10}
            set={(distance_mm) => change({ distance_mm })}
          />
        )}
        <Turn
          label="Of the piece"
          unit="%"
          value={Math.round(100 * (l.area_share || 1))}
          min={1}
          max={100}
          step={5}
          set={(x) => change({ area_share: x / 100 })}
        />
        <Turn label="Past the edge" unit="mm" value={l.carry_mm ?? 0} min={0} max={200} step={1} set={(carry_mm) => change({ carry_mm })} />
        <Turn label="Stop mark" unit="ΔE" value={l.stop_de ?? 0} min={0} max={60} step={1} set={(stop_de) => change({ stop_de })} />
        {(l.role === "line" || l.role === "veins" || (l.line_mm ?? 0) > 0) && (
          <>
            <Turn label="Lines of" unit="mm" value={l.line_mm ?? 0} min={0} max={20} step={0.1} set={(line_mm) => change({ line_mm })} />
            <Turn label="apart" unit="mm" value={l.apart_mm ?? 0} min={0} max={100} step={0.5} set={(apart_mm) => change({ apart_mm })} />
          </>
        )}
        {(l.tool === "wash" || l.tool === "dry_brush") && (
          <Turn label="Reach" unit="mm" value={l.reach_mm || 3} min={0.2} max={60} step={0.2} set={(reach_mm) => change({ reach_mm })} />
        )}
      </Flex>
      <Flex gap="18px" wrap="wrap">
        <Check text="hidden faces and hollows too" on={!!l.hidden} set={(hidden) => change({ hidden }, true)} />
        <Check text="edge left hard on purpose" on={!!l.hard} set={(hard) => change({ hard }, true)} />
      </Flex>
      <FewWords
        label="Where it goes"
        value={(l.places ?? []).join(", ")}
        max={200}
        grow="1 1 auto"
        set={(t) => change({ places: t ? t.split(/,\s*/).slice(0, 12) : [] })}
        placeholder="where: rims, hollows, the left side"
      />
      <FewWords
        label="Note"
        value={l.note ?? ""}
        max={300}
        grow="1 1 auto"
        set={(note) => change({ note })}
        placeholder="load, wobble, cut of the brush, what it was tried on"
      />
    </Flex>
  );
}

function Labelled({ text, children }: { text: string; children: React.ReactNode }) {
  return (
    <Box>
      <Box layerStyle="small">{text}</Box>
      {children}
    </Box>
  );
}

function Check({ text, on, set }: { text: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label style={{ display: "flex", gap: 8, alignItems: "center" }}>
      <input type="checkbox" checked={on} onChange={(e) => set(e.target.checked)} />
      {text}
    </label>
  );
}

/** Its colour: as it reads laid thick, from the book, or mixed of pigments in the medium. */
function ColourOf({
  layer: l,
  change,
  propose,
}: {
  layer: Layer;
  change: (part: Partial<Layer>, now?: boolean) => void;
  propose: () => Promise<Schemas["ColourProposed"]>;
}) {
  const [said, setSaid] = useState("");
  const find = useAct(async () => {
    const p = await propose();
    setSaid(
      `From ${p.was.toFixed(1)} to ${p.de00.toFixed(1)} from the target, where it covers wholly${p.de00 > 2 ? ": paint alone does not reach it" : ""}.`,
    );
    change({ mixed: p.mixed, lab: undefined, swatch: undefined }, true);
  });
  const [from, setFrom] = useState<"reading" | "book" | "mixed">((l.mixed?.length ?? 0) > 0 ? "mixed" : l.swatch ? "book" : "reading");
  const pigments = usePigments();
  const swatches = useRead({
    queryKey: ["swatches", "", ""],
    enabled: from === "book",
    queryFn: () => ask(api.GET("/api/swatches", { params: { query: {} } })),
  });
  const lab = l.lab ?? { l: 50, a: 8, b: 14 };
  const known = pigments.data?.filter((p) => p.known && !p.fibre) ?? [];
  return (
    <Box>
      <Pick
        label="Where its colour is from"
        value={from}
        set={(f) => {
          setFrom(f as typeof from);
          if (f !== "mixed") change({ mixed: undefined, swatch: f === "book" ? l.swatch : undefined, lab }, true);
        }}
        width="230px"
      >
        <option value="reading">its reading, laid thick</option>
        <option value="book">a swatch of the book</option>
        <option value="mixed">mixed of pigments</option>
      </Pick>
      <Flex gap="10px" align="center" mt="6px" wrap="wrap">
        {from === "reading" && (
          <>
            <Box w="40px" h="34px" bg={hex(lab)} />
            {(["l", "a", "b"] as const).map((k) => (
              <Turn
                key={k}
                label={k === "l" ? "L" : k}
                value={lab[k]}
                min={k === "l" ? 1 : -120}
                max={k === "l" ? 99 : 120}
                step={1}
                set={(x) => change({ lab: { ...lab, [k]: x } })}
              />
            ))}
          </>
        )}
        {from === "book" && (
          <Pick
            label="Swatch"
            value={String(l.swatch ?? "")}
            set={(id) => {
              const w = swatches.data?.find((s) => String(s.id) === id);
              if (w) change({ swatch: w.id, lab: w.now.lab, name: l.name || w.name }, true);
            }}
            width="260px"
          >
            <option value="">choose one</option>
            {swatches.data?.map((w) => (
              <option key={w.id} value={w.id}>
                {w.name}
              </option>
            ))}
          </Pick>
        )}
        {from === "mixed" && (
          <Box w="100%">
            {(l.mixed ?? []).map((m, i) => (
              <Flex key={m.pigment} gap="10px" align="center" mb="4px">
                <Box flex="1">
                  {known.find((p) => p.material === m.pigment)?.name ?? known.find((p) => p.tint === m.pigment)?.tint_name ?? m.pigment}
                </Box>
                <Turn
                  label={`${m.pigment}, g in 100`}
                  hide
                  unit="g in 100"
                  value={m.per_100_g}
                  min={0}
                  max={40}
                  step={0.5}
                  set={(per_100_g) => change({ mixed: l.mixed?.map((x, k) => (k === i ? { ...x, per_100_g } : x)) })}
                />
                <Box as="button" textDecoration="underline" onClick={() => change({ mixed: l.mixed?.filter((_, k) => k !== i) }, true)}>
                  out
                </Box>
              </Flex>
            ))}
            <Flex gap="10px" align="center" mb="6px" wrap="wrap">
              <Plain h="34px" disabled={find.busy} onClick={() => void find.run()}>
                Find what takes it to the target
              </Plain>
              {said && (
                <Box layerStyle="small" role="status">
                  {said}
                </Box>
              )}
            </Flex>
            <Refusal problem={find.problem} />
            {(l.mixed?.length ?? 0) < 6 && (
              <Pick
                label="Add a pigment"
                value=""
                set={(p) => p && change({ mixed: [...(l.mixed ?? []), { pigment: p, per_100_g: 5 }], lab: undefined, swatch: undefined }, true)}
                width="260px"
              >
                <option value="">add a pigment</option>
                {known
                  .filter((p) => !l.mixed?.some((m) => m.pigment === p.material))
                  .map((p) => (
                    <option key={p.material} value={p.material}>
                      {p.name}
                    </option>
                  ))}
              </Pick>
            )}
          </Box>
        )}
      </Flex>
    </Box>
  );
}
