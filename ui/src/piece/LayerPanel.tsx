import { Box, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { api, ask, Problem, type Schemas } from "../app/api";
import { Choose, Entry, Heading, Plain } from "../parts/controls";
import { duration } from "../parts/format";
import type { Layer } from "../parts/section/geometry";
import { kinds } from "./kinds";

type Product = Schemas["CraftMaterialProduct"];

interface Props {
  layer: Layer;
  products: Product[];
  result?: Schemas["CraftSectionLayerResult"];
  problem?: Problem;
  index: number;
  change: (next: Layer) => void;
  move: (by: 1 | -1) => void;
  remove: () => void;
}

/** The chosen band in figures: everything that the drawing does with a finger, by keyboard. */
export function LayerPanel({ layer, products, result, problem, index, change, move, remove }: Props) {
  const kind = kinds.find((k) => k.kind === layer.kind);
  const here = (name: string) =>
    problem?.field === `layers[${index}].${name}` ? new Problem(problem.status, problem.code, name, problem.message) : undefined;
  if (layer.kind === "skin") {
    return (
      <Box>
        <Heading>Skin</Heading>
        <Box color="muted">The wearer's own. What is known of it stands in the brief. Add a layer to build on it.</Box>
      </Box>
    );
  }
  return (
    <Box>
      <Heading
        aside={
          <Box as="button" color="rust" onClick={remove} textDecoration="underline">
            remove
          </Box>
        }
      >
        {kind?.text}
      </Heading>
      <Choose
        label="Material"
        name="material"
        value={layer.material ?? ""}
        set={(material) => change({ ...layer, material })}
        problem={here("material")}
      >
        {products
          .filter((p) => kind?.fits(p.family))
          .map((p) => (
            <option key={p.slug} value={p.slug}>
              {p.name}
            </option>
          ))}
      </Choose>
      <Grid templateColumns="1fr 1fr" gap="8px" mt="8px">
        {layer.kind === "silicone" ? (
          <>
            <Amount
              label="At the centre"
              kind="length"
              value={layer.centre_mm ?? 0}
              unit="mm"
              name="centre_mm"
              set={(centre_mm) => change({ ...layer, centre_mm })}
              problem={here("centre_mm")}
            />
            <Amount
              label="At the edge"
              kind="length"
              value={layer.edge_mm ?? 0}
              unit="mm"
              name="edge_mm"
              set={(edge_mm) => change({ ...layer, edge_mm })}
              problem={here("edge_mm")}
            />
          </>
        ) : (
          <>
            <Whole label="Coats" name="coats" value={layer.coats ?? 1} set={(coats) => change({ ...layer, coats })} problem={here("coats")} />
            <Amount
              label={layer.kind === "latex" ? "One coat, wet" : "One coat, dry"}
              kind="length"
              value={layer.coat_mm ?? 0}
              unit="mm"
              name="coat_mm"
              set={(coat_mm) => change({ ...layer, coat_mm })}
              problem={here("coat_mm")}
            />
          </>
        )}
        {layer.kind === "latex" && (
          <>
            <Choose
              label="Fibre in each coat"
              name="fibre"
              value={layer.fibre ?? ""}
              set={(fibre) => change({ ...layer, fibre: fibre || undefined })}
              problem={here("fibre")}
            >
              <option value="">none</option>
              {products
                .filter((p) => p.family === "fibre")
                .map((p) => (
                  <option key={p.slug} value={p.slug}>
                    {p.name}
                  </option>
                ))}
            </Choose>
            <Amount
              label="Between coats"
              kind="duration"
              value={layer.between_s}
              unit="min"
              factor={60}
              name="between_s"
              placeholder="each dried"
              set={(between_s) => change({ ...layer, between_s })}
              clear={() => change({ ...layer, between_s: undefined })}
              problem={here("between_s")}
            />
          </>
        )}
        <Choose
          label="Reaches"
          name="extent"
          value={layer.extent || "to_edge"}
          set={(extent) => change({ ...layer, extent: extent as Layer["extent"], stop_mm: extent === "to_edge" ? undefined : layer.stop_mm || 12 })}
          problem={here("extent")}
        >
          <option value="to_edge">to the edge</option>
          <option value="centre_only">centre only</option>
          <option value="past_edge">on to the skin</option>
        </Choose>
        {layer.extent && layer.extent !== "to_edge" && (
          <Amount
            label={layer.extent === "centre_only" ? "Stops at" : "Past the edge"}
            kind="length"
            value={layer.stop_mm ?? 0}
            unit="mm"
            name="stop_mm"
            set={(stop_mm) => change({ ...layer, stop_mm })}
            problem={here("stop_mm")}
          />
        )}
      </Grid>
      {result?.dry_s ? (
        <Box color="muted" mt="8px" fontSize="14px">
          One coat is ready for the next after about {duration(result.recoat_s ?? 0)}; dry through in about {duration(result.dry_s)} when each is
          dried first. Band −30/+50 %.
        </Box>
      ) : null}
      <Flex gap="8px" mt="10px">
        <Plain h="36px" onClick={() => move(1)}>
          Move up
        </Plain>
        <Plain h="36px" onClick={() => move(-1)}>
          Move down
        </Plain>
      </Flex>
    </Box>
  );
}

function Whole({ label, name, value, set, problem }: { label: string; name: string; value: number; set: (n: number) => void; problem?: Problem }) {
  const [text, setText] = useState(String(value));
  useEffect(() => setText(String(value)), [value]);
  return (
    <Entry
      label={label}
      name={name}
      value={text}
      problem={problem}
      set={(t) => {
        setText(t);
        if (/^\d{1,3}$/.test(t.trim())) set(Number(t));
      }}
    />
  );
}

interface AmountProps {
  label: string;
  name: string;
  kind: "length" | "duration";
  value: number | undefined;
  unit: string;
  factor?: number;
  placeholder?: string;
  set: (n: number) => void;
  clear?: () => void;
  problem?: Problem;
}

/** An amount in any unit: 0.2 mm, 1/4 in. Plain numbers are read here, the rest by the server. */
function Amount({ label, name, kind, value, unit, factor = 1, placeholder, set, clear, problem }: AmountProps) {
  const shown = value === undefined ? "" : `${Number((value / factor).toPrecision(6))} ${unit}`;
  const [text, setText] = useState(shown);
  const [own, setOwn] = useState<Problem>();
  const [editing, setEditing] = useState(false);
  useEffect(() => {
    if (!editing) setText(shown);
  }, [shown, editing]);
  // "5 m" is on the way to "5 mm": the server is asked when the hand rests, and
  // an answer that comes after a newer entry counts for nothing.
  const turn = useRef(0);
  const read = async (t: string) => {
    const mine = ++turn.current;
    const plain = t.trim().match(/^(\d+(?:\.\d+)?)\s*(\S*)$/);
    if (t.trim() === "" && clear) {
      setOwn(undefined);
      clear();
      return;
    }
    if (plain && (plain[2] === "" || plain[2] === unit)) {
      setOwn(undefined);
      set(Number(plain[1]) * factor);
      return;
    }
    await new Promise((rest) => window.setTimeout(rest, 300));
    if (mine !== turn.current) return;
    try {
      const q = await ask(api.GET("/api/quantity", { params: { query: { text: t, kind } } }));
      if (mine !== turn.current) return;
      setOwn(undefined);
      set(q.value);
    } catch (e) {
      if (e instanceof Problem && mine === turn.current) setOwn(new Problem(e.status, e.code, name, e.message));
    }
  };
  return (
    <Box onFocus={() => setEditing(true)} onBlur={() => setEditing(false)}>
      <Entry
        label={label}
        name={name}
        value={text}
        placeholder={placeholder}
        problem={own ?? problem}
        set={(t) => {
          setText(t);
          void read(t);
        }}
      />
    </Box>
  );
}
