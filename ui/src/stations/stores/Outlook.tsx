import { Box, type BoxProps, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { usePieces } from "../../app/reads";
import { colour as v } from "../../parts/colour";
import { Choose, Entry, Go, Heading, Refusal } from "../../parts/controls";
import { day, grams, money } from "../../parts/format";
import { Dot } from "../../parts/hatches";
import { columns, fields, RoomHead } from "../../parts/Room";
import { Rooms } from "./Rooms";

type Standing = Schemas["StoresStanding"];

/** The stock over the weeks to come: what can still be made, what is spoken for, what dies, what to order. */
export default function Outlook() {
  const stock = useRead({ queryKey: ["stock"], queryFn: () => ask(api.GET("/api/stock")) });
  return (
    <Box>
      <RoomHead
        title="What is short"
        aside={stock.data && `worth ${money(stock.data.value_minor)} in all, looked ahead to ${day(stock.data.until)}`}
        acts={<Rooms />}
      />
      <CanMake />
      {!stock.data && !stock.error && (
        <Box mt="16px" color="muted">
          Working out what the weeks to come take…
        </Box>
      )}
      {stock.error && <Refusal problem={stock.error as never} />}
      <Box mt="22px">
        <Box as="table" w="100%" display={{ base: "block", md: "table" }}>
          <Box as="thead" display={{ base: "none", md: "table-header-group" }}>
            <Box as="tr" textAlign="left" layerStyle="small" borderBottomWidth="1.5px" borderColor="ink">
              <th>material</th>
              <Box as="th" textAlign="right">
                may be used
              </Box>
              <Box as="th" textAlign="right">
                spoken for
              </Box>
              <Box as="th" ps="18px">
                the weeks to come
              </Box>
              <th>order</th>
              <th>runs out</th>
              <Box as="th" textAlign="right">
                worth
              </Box>
            </Box>
          </Box>
          <Box as="tbody" display={{ base: "block", md: "table-row-group" }}>
            {stock.data?.items.map((s) => (
              <Line key={s.material} s={s} />
            ))}
          </Box>
        </Box>
      </Box>
    </Box>
  );
}

/** A cell of the table; on a narrow screen a line under the material, named by its column. */
function Cell({ of, right, children, ...more }: { of: string; right?: boolean } & BoxProps) {
  return (
    <Box
      as="td"
      display={{ base: "flex", md: "table-cell" }}
      justifyContent="space-between"
      alignItems="center"
      gap="12px"
      py={{ base: "2px", md: "6px" }}
      textAlign={{ base: "right", md: right ? "right" : "left" }}
      {...more}
    >
      <Box as="span" display={{ base: "inline", md: "none" }} color="muted" fontWeight="400">
        {of}
      </Box>
      <Box>{children}</Box>
    </Box>
  );
}

function Line({ s }: { s: Standing }) {
  const [open, setOpen] = useState(false);
  return (
    <Box
      as="tr"
      display={{ base: "block", md: "table-row" }}
      py={{ base: "8px", md: 0 }}
      borderBottomWidth="1px"
      borderColor="line"
      verticalAlign="top"
      data-material={s.material}
    >
      <Box as="td" display={{ base: "block", md: "table-cell" }} py={{ base: "2px", md: "6px" }} fontWeight={{ base: 600, md: 400 }}>
        <Flex gap="8px" align="center">
          <Dot family={s.family} size={13} /> <Link to={`/products?of=${s.material}`}>{s.name}</Link>
        </Flex>
        {open &&
          s.wants.map((w) => (
            <Box key={`${w.for} ${w.grams}`} layerStyle="small" ps="22px">
              {w.for}: {grams(w.grams)}, {day(w.on)}
            </Box>
          ))}
      </Box>
      <Cell of="may be used" right fontWeight="600">
        {grams(s.on_hand_g)}
      </Cell>
      <Cell of="spoken for" right>
        {s.reserved_g > 0 ? (
          <Box as="button" textDecoration="underline" aria-expanded={open} onClick={() => setOpen(!open)}>
            {grams(s.reserved_g)}
          </Box>
        ) : (
          <Box color="muted">nothing</Box>
        )}
      </Cell>
      <Cell of="the weeks to come" ps={{ base: 0, md: "18px" }}>
        <Course s={s} />
      </Cell>
      <Cell of="order" color={s.late ? "rust" : s.order_by ? "gorse" : "muted"} fontWeight={s.order_by ? 600 : 400}>
        {s.order_by ? `${grams(s.order_g)} by ${day(s.order_by)}${s.late ? ", late" : ""}` : "no need"}
        {s.short_g > 0 && (
          <Box layerStyle="small" color="rust">
            {grams(s.short_g)} are missing
          </Box>
        )}
        {s.order_by && s.supplier && <Box layerStyle="small">{s.supplier}</Box>}
      </Cell>
      {s.dies_on ? (
        <Cell of="runs out" color="muted">
          {day(s.dies_on)}
        </Cell>
      ) : (
        <Box as="td" display={{ base: "none", md: "table-cell" }} />
      )}
      <Cell of="worth" right>
        {money(s.value_minor)}
      </Cell>
    </Box>
  );
}

const W = 170;
const H = 30;

/** What will be on hand, as a stair over the days; the line is what is always wanted. */
function Course({ s }: { s: Standing }) {
  const points = s.projected;
  if (points.length === 0) return null;
  const first = new Date(points[0].day).getTime();
  const days = 45;
  const top = Math.max(...points.map((p) => p.grams), s.safety_g, 1);
  const low = Math.min(0, ...points.map((p) => p.grams));
  const x = (d: string) => Math.min(W, ((new Date(d).getTime() - first) / 86_400_000 / days) * W);
  const y = (g: number) => H - 2 - ((g - low) / (top - low)) * (H - 4);
  let path = `M0 ${y(points[0].grams)}`;
  for (const p of points.slice(1)) path += `H${x(p.day)}V${y(p.grams)}`;
  path += `H${W}`;
  return (
    <svg width={W} height={H} viewBox={`0 0 ${W} ${H}`} role="img">
      <title>{points.map((p) => `${day(p.day)}: ${grams(p.grams)}`).join(", ")}</title>
      <line x1="0" x2={W} y1={y(0)} y2={y(0)} stroke={v("line")} />
      {s.safety_g > 0 && <line x1="0" x2={W} y1={y(s.safety_g)} y2={y(s.safety_g)} stroke={v("gorse")} strokeDasharray="3 3" />}
      <path d={path} fill="none" stroke={v(points.some((p) => p.grams < 0) ? "rust" : "ink")} strokeWidth="1.8" />
    </svg>
  );
}

/** The question what can still be made today from what is here. */
function CanMake() {
  const pieces = usePieces();
  const recipes = useRead({ queryKey: ["recipes"], queryFn: () => ask(api.GET("/api/recipes")) });
  const [what, setWhat] = useState("");
  const [count, setCount] = useState("6");
  const [answer, setAnswer] = useState<Schemas["StoresMakeable"]>();
  const isPiece = what.startsWith("p:");
  const can = useAct(async () => {
    const n = Number(count.replace(",", "."));
    const of = what.slice(2);
    setAnswer(await ask(api.POST("/api/stock/can-make", { body: isPiece ? { piece: of, copies: Math.round(n) } : { recipe: of, grams: n } })));
  });
  return (
    <Grid templateColumns={columns("minmax(0,540px) minmax(0,1fr)")} gap="34px">
      <Box>
        <Heading>What can still be made</Heading>
        <Grid templateColumns={fields("minmax(0,1fr) 92px auto")} gap="8px" alignItems="end">
          <Choose label="From what is here" name="piece" value={what} set={setWhat} problem={can.problem}>
            <option value="">choose</option>
            <optgroup label="Copies of">
              {pieces.data
                ?.filter((p) => p.section_number > 0)
                .map((p) => (
                  <option key={p.code} value={`p:${p.code}`}>
                    {p.code} {p.name}
                  </option>
                ))}
            </optgroup>
            <optgroup label="By recipe">
              {recipes.data?.map((r) => (
                <option key={r.slug} value={`r:${r.slug}`}>
                  {r.name}
                </option>
              ))}
            </optgroup>
          </Choose>
          <Entry
            label={isPiece || !what ? "Copies" : "Grams"}
            name={isPiece ? "copies" : "grams"}
            value={count}
            set={setCount}
            problem={can.problem}
          />
          <Go act={() => void can.run()} disabled={can.busy || !what}>
            Ask
          </Go>
        </Grid>
        <Refusal problem={can.problem} />
      </Box>
      {answer && (
        <Box data-testid="can-make">
          <Box fontSize="24px" fontWeight="700" color={answer.yes ? "yew" : "rust"} lineHeight="1.2" mb="6px">
            {answer.words}
          </Box>
          {answer.lines.map((l) => (
            <Flex key={`${l.material} ${l.need_g}`} gap="10px" fontSize="15px">
              <Box flex="1">
                {l.name}
                {l.by && (
                  <Box as="span" layerStyle="small">
                    {" "}
                    for {l.by}
                  </Box>
                )}
              </Box>
              <Box w="80px" textAlign="right">
                {grams(l.need_g)}
              </Box>
              <Box w="220px" color={l.lot ? "muted" : "rust"}>
                {l.lot ? `lot ${l.lot}, until ${day(l.until ?? "")}` : `lacks ${grams(l.lacks_g)}`}
              </Box>
            </Flex>
          ))}
        </Box>
      )}
    </Grid>
  );
}
