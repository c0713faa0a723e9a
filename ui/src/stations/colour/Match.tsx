import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Problem, type Schemas } from "../../app/api";
import { useKey } from "../../app/keys";
import { useRead } from "../../app/read";
import { useSettled } from "../../app/useSettled";
import { Entry, Go, Heading, Pick, Refusal, WrongAt } from "../../parts/controls";
import { millimetres, money } from "../../parts/format";
import { columns } from "../../parts/Room";
import { Curves } from "./Curves";
import { apart, figures, hex, type Matched, type Proposal, type Room, shows } from "./colours";
import { Target } from "./Target";

type Search = NonNullable<Schemas["ColourMatched"]["search"]>;

const searches: [Search, string][] = [
  ["best", "the nearest"],
  ["cheapest", "the cheapest that comes near enough"],
  ["shelf", "of what is on the shelf today"],
  ["last", "with the pigments of last time"],
];

const merits: Record<string, string> = {
  daylight: "daylight",
  fewest: "fewest pigments",
  every_light: "every light",
  lamp: "tungsten",
  led: "LED",
  tubes: "tubes",
  no_fibre: "no flocking",
  least: "least pigment",
};

/** Recipes for the body of a piece: as it will look over this skin, beside the target, under every light. */
export function Match({ piece, room, taken }: { piece: string; room: Room; taken: () => void }) {
  const [search, setSearch] = useState<Search>("best");
  const [batch, setBatch] = useState("500");
  const [drops, setDrops] = useState(false);
  const [opacity, setOpacity] = useState("");
  const [chosen, setChosen] = useState(0);
  const [lamp, setLamp] = useState("daylight");
  const grams = Number(batch.replace(",", "."));
  const percent = Number(opacity.replace(",", "."));
  const hides = opacity.trim() !== "" && percent > 0 && percent < 100 ? percent / 100 : 0;
  const asked = useSettled(JSON.stringify([grams, drops, search, hides]), 250);
  const match = useRead({
    queryKey: ["match", piece, asked],
    queryFn: () =>
      ask(
        api.GET("/api/pieces/{code}/match", {
          params: { path: { code: piece }, query: { batch_g: grams, drops, search, opacity: hides || undefined } },
        }),
      ),
    enabled: !!room.aim && grams >= 1 && grams <= 50_000,
    // What was found before stands while the next is worked out, and nothing typed is lost.
    placeholderData: (before) => before,
  });
  const m = match.data;
  const p = m?.proposals[Math.min(chosen, m.proposals.length - 1)];
  const own = room.lights.filter((l) => l.own).map((l) => l.name);
  useKey("D", "daylight", () => setLamp("daylight"));
  useKey("T", "tungsten", () => setLamp("tungsten"));
  useKey("L", "LED", () => setLamp("LED"));
  useKey("F", "tubes", () => setLamp("tubes"));
  useKey("C", "the set's own light, one after the other", () => setLamp(own[(own.indexOf(lamp) + 1) % Math.max(1, own.length)] ?? lamp));
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 430px")} gap="36px" data-testid="match">
      <Box minW="0">
        {match.error && !m && <Refusal problem={match.error as unknown as Problem} />}
        {m && p && (
          <>
            <Split m={m} p={p} lamp={lamp} />
            <Lamps p={p} lamp={lamp} choose={setLamp} />
            <Curves aim={m.aim_r} piece={p.r} what={m.aim.kind === "skin" ? "skin" : "target"} />
            <Box layerStyle="small" mt="6px">
              {m.over ? `Over ${m.over}, which has to be hidden, so` : "Over the wearer's own skin,"} at least {Math.round(100 * m.opacity_min)} %
              opaque; without any pigment it is {m.base_only.toFixed(1)} off by daylight. A screen shows it near enough to tell apart, not to match
              by: below 1 nobody sees a difference. Mix a little, read it dry and at its thickness, and put it right.
              {m.aged > 0.02 && ` Reckoned with the ${m.base} aged until the last day.`}
              {m.unknown.length > 0 && ` Left out, since nobody knows their colour: ${m.unknown.join(", ")}.`}
            </Box>
          </>
        )}
      </Box>
      <Box minW="0">
        <Target piece={piece} room={room} key={room.aim?.version} />
        {room.aim && (
          <Flex gap="10px" wrap="wrap" align="flex-end" mb="12px">
            <Box>
              <Box layerStyle="small">Look for</Box>
              <Pick
                label="Look for"
                value={search}
                set={(s) => {
                  setSearch(s as Search);
                  setChosen(0);
                }}
                width="196px"
              >
                {searches.map(([k, text]) => (
                  <option key={k} value={k}>
                    {text}
                  </option>
                ))}
              </Pick>
            </Box>
            <Entry label="Base, g" name="batch_g" value={batch} set={setBatch} problem={match.error as unknown as Problem} width="78px" />
            <Entry
              label="Opaque, %"
              name="opacity"
              value={opacity}
              set={setOpacity}
              placeholder={m ? String(Math.round(100 * m.opacity_min)) : ""}
              width="78px"
            />
            <label style={{ display: "flex", gap: 6, alignItems: "center", height: 42 }}>
              <input type="checkbox" checked={drops} onChange={(e) => setDrops(e.target.checked)} />
              in whole drops
            </label>
          </Flex>
        )}
        {match.error && m && <Refusal problem={match.error as unknown as Problem} />}
        {m && p && (
          <>
            <RecipeList m={m} p={p} />
            <Others m={m} chosen={m.proposals.indexOf(p)} choose={setChosen} />
            <Take piece={piece} m={m} p={p} taken={taken} />
          </>
        )}
      </Box>
    </Grid>
  );
}

function lightOf(p: Proposal, lamp: string) {
  return p.lights.find((l) => l.light === lamp) ?? p.lights[0];
}

/** Target and piece edge to edge, under the lamp that is on. */
function Split({ m, p, lamp }: { m: Matched; p: Proposal; lamp: string }) {
  const l = lightOf(p, lamp);
  const beyond = !shows(l.aim) || !shows(l.piece);
  return (
    <Box position="relative" mb="10px">
      <Flex
        h={{ base: "150px", lg: "180px" }}
        role="img"
        aria-label={`Under ${l.light}: the target, ${figures(l.aim)}; the piece at its centre, ${figures(l.piece)}; ${l.de00.toFixed(1)} apart, ${apart(l.de00)}`}
      >
        <Box flex="1" bg={hex(l.aim)} />
        <Box flex="1" bg={hex(l.piece)} />
        <Box w="16%" bg={hex(lamp === "daylight" ? p.edge : l.piece)} display={lamp === "daylight" ? "block" : "none"} />
      </Flex>
      <Flex fontSize="14px" fontWeight="600" lineHeight="1.3" mt="4px">
        <Box flex="1">{m.aim.words}</Box>
        <Box flex="1">
          {m.material}, {millimetres(m.centre_mm)}
        </Box>
        {lamp === "daylight" && (
          <Box w="16%">
            edge, {m.edge_mm > 0 ? millimetres(m.edge_mm) : "feathered"}: {p.edge_de00.toFixed(1)} off
          </Box>
        )}
      </Flex>
      <Box layerStyle="small">
        A preview on this screen{beyond && ", which cannot show one of these colours: it is shown paler"}. ±{m.aim.uncertainty.toFixed(1)} lies in the
        reading itself.
      </Box>
    </Box>
  );
}

/** The lamps: each with how far off the piece is under it, and on which days that matters. */
function Lamps({ p, lamp, choose }: { p: Proposal; lamp: string; choose: (l: string) => void }) {
  const fails = p.lights.filter((l) => l.fails);
  return (
    <Box mb="12px">
      <Grid templateColumns="repeat(auto-fit, minmax(104px, 1fr))" gap="10px" alignItems="start" role="radiogroup" aria-label="Lamp">
        {p.lights.map((l) => (
          <Box as="button" role="radio" aria-checked={l.light === lamp} key={l.light} textAlign="left" onClick={() => choose(l.light)}>
            <Flex h="46px" outline={l.light === lamp ? "3px solid #111" : "none"} outlineOffset="2px">
              <Box flex="1" bg={hex(l.aim)} />
              <Box flex="1" bg={hex(l.piece)} />
            </Flex>
            <Flex justify="space-between" fontSize="14px" mt="3px">
              <b>{l.light}</b>
              <b>{l.de00.toFixed(1)}</b>
            </Flex>
            <Box fontSize="12.5px" lineHeight="1.2">
              {l.fails ? "fails" : apart(l.de00)}
              {l.days.length > 0 && `: ${l.days.join("; ")}`}
            </Box>
          </Box>
        ))}
      </Grid>
      <Box mt="6px" fontWeight="600">
        {fails.length > 0 ? `Fails under ${fails.map((l) => l.light).join(" and ")}.` : "Holds under every light."}{" "}
        <Box as="span" layerStyle="small" fontWeight="400">
          Keys D T L F change the lamp, C takes the set's own.
        </Box>
      </Box>
    </Box>
  );
}

function RecipeList({ m, p }: { m: Matched; p: Proposal }) {
  return (
    <Box mb="14px">
      <Heading aside={`${p.load.toFixed(2)} of at most ${m.max_load} g in 100`}>Into {m.batch_g} g of base</Heading>
      {[...m.fixed, ...p.parts].map((x) => (
        <Flex key={x.material} gap="10px" align="center" py="3px" data-pigment={x.material}>
          <Box flex="1" lineHeight="1.2">
            {x.name}
            <Box fontSize="12.5px">
              {x.lot ? `lot ${x.lot}` : "not enough on the shelf"}
              {x.once && ", by the library"}
            </Box>
          </Box>
          <Box fontWeight="700" w="74px" textAlign="right">
            {x.grams.toFixed(2)} g
          </Box>
          <Drops n={x.drops ?? 0} />
        </Flex>
      ))}
      <Box layerStyle="small">
        {Math.round(100 * p.opacity)} % opaque; pigment for {money(p.cost_minor)}. Weighing in whole units costs {p.rounding.toFixed(2)}
        {p.rounding > 0.3 && `: mix ${p.trial_g} g at least, or let the pigment down 1 : 9`}.
      </Box>
    </Box>
  );
}

/** Drops as marks that can be counted; many of them as a number. */
function Drops({ n }: { n: number }) {
  if (n === 0) return <Box w="104px">weighed</Box>;
  return (
    <Box w="104px" lineHeight="1">
      {n <= 8 ? (
        <svg width={n * 12} height="18" aria-hidden>
          {Array.from({ length: n }, (_, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: drops are alike.
            <path key={i} d={`M${12 * i + 5} 1 Q${12 * i + 10} 9 ${12 * i + 5} 16 Q${12 * i} 9 ${12 * i + 5} 1`} fill="#333" stroke="#111" />
          ))}
        </svg>
      ) : null}
      <Box as="span" fontSize="13px">
        {n} {n === 1 ? "drop" : "drops"}
      </Box>
    </Box>
  );
}

function Others({ m, chosen, choose }: { m: Matched; chosen: number; choose: (n: number) => void }) {
  return (
    <Box mb="14px">
      <Heading>Recipes that would do</Heading>
      <Flex gap="8px" role="radiogroup" aria-label="Recipes that would do">
        {m.proposals.map((p, i) => (
          <Box
            as="button"
            role="radio"
            aria-checked={i === chosen}
            key={p.parts.map((x) => x.material).join()}
            flex="1 1 0"
            minW="0"
            textAlign="left"
            data-proposal={i + 1}
            onClick={() => choose(i)}
          >
            <Flex h="40px" outline={i === chosen ? "3px solid #111" : "none"} outlineOffset="2px">
              <Box flex="1" bg={hex(m.aim.lab)} />
              <Box flex="1" bg={hex(p.centre)} />
            </Flex>
            <Box fontSize="13px" lineHeight="1.2" mt="3px">
              <b>{p.lights[0].de00.toFixed(1)}</b> {p.rank === 1 ? "best: " : "near: "}
              {merits[p.merit] ?? p.merit}
            </Box>
            <Box fontSize="12px">{money(p.cost_minor)}</Box>
          </Box>
        ))}
      </Flex>
    </Box>
  );
}

/** One tap makes it a mix with its lots. */
function Take({ piece, m, p, taken }: { piece: string; m: Matched; p: Proposal; taken: () => void }) {
  const [base, setBase] = useState("");
  const much = base.trim() === "" ? p.trial_g : Number(base.replace(",", "."));
  const take = useAct(async (after?: string) => {
    await ask(
      api.POST("/api/pieces/{code}/colour-recipes", {
        params: { path: { code: piece } },
        body: { parts: p.parts.map((x) => ({ material: x.material, per_100_g: x.per_100_g })), base_g: much, after },
      }),
    );
    taken();
  });
  return (
    <Flex gap="12px" align="flex-end" wrap="wrap">
      <Entry label="Trial, g of base" name="base_g" value={base} set={setBase} placeholder={String(p.trial_g)} problem={take.problem} width="120px" />
      <Go disabled={take.busy || !(much > 0)} act={() => void take.run()}>
        {`Mix a ${Number.isFinite(much) ? much : "…"} g trial`}
      </Go>
      <Box flexBasis="100%">
        <WrongAt problem={take.problem} name="parts" />
        <Refusal problem={take.problem} />
      </Box>
      <Box layerStyle="small" flexBasis="100%">
        It is written down in Mix with its lots. The whole batch: type {m.batch_g}.
      </Box>
    </Flex>
  );
}
