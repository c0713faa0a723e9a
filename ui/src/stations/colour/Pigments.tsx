import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useMe } from "../../app/reads";
import { Choose, Entry, Go, Heading, Refusal } from "../../parts/controls";
import { day } from "../../parts/format";
import { columns } from "../../parts/Room";
import { hex, usePigments } from "./colours";
import { noReading, ReadingFields, sent, type TypedReading } from "./Reading";

type Body = Schemas["ColourNewCalibration"];
type Pigment = Schemas["ColourPigment"];

/** The shop's pigments: what each is reckoned as, its own drawdowns, and how a new lot differs from the old. */
export function Pigments() {
  const pigments = usePigments();
  const me = useMe();
  const groups = [...new Set(pigments.data?.map(intoOf))];
  return (
    <Grid templateColumns={columns("minmax(0,1fr) 380px")} gap="36px" data-testid="pigments">
      <Box minW="0">
        {groups.map((g) => (
          <Box key={g} mb="18px">
            <Heading>Into {g || "nothing yet"}</Heading>
            {pigments.data
              ?.filter((p) => intoOf(p) === g)
              .map((p) => (
                <One key={p.material} pigment={p} />
              ))}
          </Box>
        ))}
      </Box>
      {me.data?.person?.role === "apprentice" ? (
        <Box layerStyle="note">A fabricator or a lead calibrates a pigment.</Box>
      ) : (
        <Calibrate list={pigments.data ?? []} />
      )}
    </Grid>
  );
}

const families: Record<string, string> = {
  silicone_addition: "silicone",
  silicone_condensation: "silicone",
  latex_paste: "latex",
  foam_latex: "foam",
};
const intoOf = (p: Pigment) => [...new Set(p.into.map((f) => families[f] ?? f))].join(", ");

function One({ pigment: p }: { pigment: Pigment }) {
  return (
    <Flex key={p.material} gap="12px" py="5px" borderBottomWidth="1px" borderColor="line" align="center" data-pigment={p.material}>
      <Box w="34px" h="28px" flexShrink={0} bg={p.looks ? hex(p.looks) : "transparent"} borderWidth={p.looks ? "0" : "1px"} borderColor="line" />
      <Box flex="1" lineHeight="1.25">
        <b>{p.name}</b>
        <Box fontSize="13.5px">
          {p.own
            ? `drawn down here ${day(p.own.at)}${p.own.lot ? `, lot ${p.own.lot}` : ""}, ${p.own.way === "pair" ? "over white and black" : "one reading"}`
            : p.known
              ? `by the library's ${p.tint_name}`
              : "nobody knows its colour: draw it down"}
          {p.own && p.own.off > 1 && `; its own drawdown is ${p.own.off.toFixed(1)} off: was the thickness or the amount wrong?`}
          {p.own && p.own.weak_bands.length > 0 && `; unsure in ${p.own.weak_bands.length} of 36 bands`}
        </Box>
        {p.own?.drift !== undefined && (
          <Box fontSize="13.5px" fontWeight={p.own.drift > 1 ? 700 : 400}>
            A usual tint is {p.own.drift.toFixed(1)} from the {p.before[0]?.lot ? `lot ${p.before[0].lot}` : "drawdown"} of{" "}
            {p.before[0] && day(p.before[0].at)}
            {p.own.drift > 1 && ": recipes of before give another colour with it"}.
          </Box>
        )}
      </Box>
      <Box fontSize="13.5px" textAlign="right">
        {p.lot ? `${p.usable_g.toFixed(0)} g, lot ${p.lot}` : "none that may be taken"}
      </Box>
    </Flex>
  );
}

const classes: [NonNullable<Body["class"]>, string][] = [
  ["inorganic", "earth or oxide"],
  ["organic", "organic, strong"],
  ["white", "white"],
  ["black", "black"],
  ["blend", "a blend"],
  ["fibre", "flocking"],
  ["extender", "extender"],
];

function Calibrate({ list }: { list: Schemas["ColourPigment"][] }) {
  const [material, setMaterial] = useState("");
  const [lot, setLot] = useState("");
  const [base, setBase] = useState<Body["base"]>("silicone");
  const [amount, setAmount] = useState("0.5");
  const [white, setWhite] = useState("0");
  const [x, setX] = useState("0.5");
  const [once, setOnce] = useState(false);
  const [kind, setKind] = useState<NonNullable<Body["class"]>>("inorganic");
  const [overWhite, setOverWhite] = useState(noReading("spectrum"));
  const [overBlack, setOverBlack] = useState(noReading("spectrum"));
  const [kept, setKept] = useState("");
  const slug = material || list[0]?.material || "";
  const num = (t: string) => Number(t.replace(",", "."));
  const keep = useAct(async () => {
    await ask(
      api.POST("/api/pigments/calibrations", {
        body: {
          material: slug,
          lot,
          base,
          amount: num(amount),
          white_g: num(white) || 0,
          thickness_mm: num(x),
          over_white: sent(overWhite, "over_white."),
          over_black: once ? undefined : sent(overBlack, "over_black."),
          class: once ? kind : "",
        },
      }),
    );
    setKept(list.find((p) => p.material === slug)?.name ?? slug);
  });
  return (
    <Flex direction="column" gap="9px">
      <Heading>Draw one down</Heading>
      <Choose label="Pigment" name="material" value={slug} set={setMaterial} problem={keep.problem}>
        {list.map((p) => (
          <option key={p.material} value={p.material}>
            {p.name}
          </option>
        ))}
      </Choose>
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Entry label="Lot" name="lot" value={lot} set={setLot} problem={keep.problem} placeholder={list.find((p) => p.material === slug)?.lot} />
        <Choose label="In" name="base" value={base} set={(b) => setBase(b as Body["base"])} problem={keep.problem}>
          {(["silicone", "gelatin", "latex", "foam", "wax", "clear"] as const).map((b) => (
            <option key={b} value={b}>
              {b === "clear" ? "clear paint vehicle" : b}
            </option>
          ))}
        </Choose>
        <Entry label="g of it in 100 g" name="amount" value={amount} set={setAmount} problem={keep.problem} />
        <Entry label="White beside it, g" name="white_g" value={white} set={setWhite} problem={keep.problem} />
        <Entry label="Thick, mm" name="thickness_mm" value={x} set={setX} problem={keep.problem} />
      </Grid>
      <Over text="Over the white of the card" value={overWhite} set={setOverWhite} field="over_white." problem={keep.problem} />
      <label style={{ display: "flex", gap: 8, alignItems: "center" }}>
        <input type="checkbox" checked={once} onChange={(e) => setOnce(e.target.checked)} />
        one reading has to do
      </label>
      {once ? (
        <Choose label="What sort it is" name="class" value={kind} set={(k) => setKind(k as typeof kind)} problem={keep.problem}>
          {classes.map(([k, text]) => (
            <option key={k} value={k}>
              {text}
            </option>
          ))}
        </Choose>
      ) : (
        <Over text="Over the black of the card" value={overBlack} set={setOverBlack} field="over_black." problem={keep.problem} />
      )}
      <Flex>
        <Go disabled={keep.busy || slug === ""} act={() => void keep.run()}>
          Keep the calibration
        </Go>
      </Flex>
      {kept && !keep.problem && (
        <Box role="status" fontWeight="600">
          {kept} is reckoned by its own drawdown from now on.
        </Box>
      )}
      <Refusal problem={keep.problem} />
    </Flex>
  );
}

function Over({
  text,
  ...rest
}: {
  text: string;
  value: TypedReading;
  set: (r: TypedReading) => void;
  field: string;
  problem?: import("../../app/api").Problem;
}) {
  return (
    <Box bg="deep" p="8px" borderRadius="4px">
      <Box fontWeight="600">{text}</Box>
      <ReadingFields {...rest} only={["spectrum", "lab", "reader"]} />
    </Box>
  );
}
