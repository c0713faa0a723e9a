import { Box, Flex, Grid } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMaterials } from "../../app/reads";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import { columns, fields, RoomHead } from "../../parts/Room";
import { Rooms } from "./Rooms";

type NewLot = Schemas["StoresNewLot"];
type Preview = Schemas["StoresPreview"];

/** A line on the screen, with a key of its own. */
type LineOf = NewLot & { key: string };

const keyed = (lot: NewLot): LineOf => ({ ...lot, key: crypto.randomUUID() });
const fresh = () => keyed({ material: "", code: "", expires_on: "" });

/** Deliveries: several lines at once, by hand or from a list that is looked at before anything is done. */
export default function Deliveries() {
  const [lines, setLines] = useState<LineOf[]>(() => [fresh()]);
  const [supplier, setSupplier] = useState("");
  const [note, setNote] = useState("");
  const [key, setKey] = useState(() => crypto.randomUUID());
  const receipts = useRead({ queryKey: ["receipts"], queryFn: () => ask(api.GET("/api/receipts")) });
  const take = useAct(async () => {
    await ask(api.POST("/api/receipts", { body: { key, supplier, note, lines: lines.map(({ key: _, ...lot }) => lot) } }));
    setLines([fresh()]);
    setNote("");
    setKey(crypto.randomUUID());
  });
  const undo = useAct((code: string) => ask(api.POST("/api/receipts/{code}/undo", { params: { path: { code } } })));
  const put = (i: number, next: Partial<NewLot>) => setLines(lines.map((l, j) => (j === i ? { ...l, ...next } : l)));
  return (
    <Box>
      <RoomHead title="Deliveries" aside="what came in, line by line" acts={<Rooms />} />
      <Grid templateColumns={columns("minmax(0,1.6fr) minmax(0,1fr)")} gap="34px">
        <Box>
          <Heading>Take a delivery in</Heading>
          <Grid templateColumns={fields("1fr 1fr")} gap="8px" mb="8px">
            <Entry label="Supplier" name="supplier" value={supplier} set={setSupplier} problem={take.problem} />
            <Entry label="Note" name="note" placeholder="delivery note 118" value={note} set={setNote} problem={take.problem} />
          </Grid>
          {lines.map((l, i) => (
            <LotLine
              key={l.key}
              at={`lines[${i}]`}
              lot={l}
              put={(next) => put(i, next)}
              problem={take.problem}
              out={lines.length > 1 ? () => setLines(lines.filter((_, j) => j !== i)) : undefined}
            />
          ))}
          <Flex gap="12px" mt="8px" align="center" wrap="wrap">
            <Plain h="40px" onClick={() => setLines([...lines, fresh()])}>
              One more line
            </Plain>
            <Go act={() => void take.run()} disabled={take.busy || lines.every((l) => !l.material)}>
              Take it in
            </Go>
          </Flex>
          <Refusal problem={take.problem} />
          <FromList
            take={(lots) => {
              setLines(lots.map(keyed));
              setKey(crypto.randomUUID());
            }}
          />
        </Box>
        <Box>
          <Heading>Before</Heading>
          {receipts.data?.length === 0 && <Box color="muted">Nothing came in as a delivery yet.</Box>}
          {receipts.data?.map((r) => (
            <Flex key={r.code} gap="10px" py="5px" borderBottomWidth="1px" borderColor="line" fontSize="15px" color={r.undone_at ? "muted" : "ink"}>
              <Box flex="1">
                <b>{r.code}</b> {r.supplier} {r.note && `· ${r.note}`}
                <Box layerStyle="small">
                  {dayTime(r.at)}, {r.by}: {r.lots}
                </Box>
              </Box>
              {r.undone_at ? (
                <Box>taken back</Box>
              ) : r.used ? (
                <Box color="muted">in use</Box>
              ) : (
                <Plain h="34px" disabled={undo.busy} onClick={() => void undo.run(r.code)}>
                  Take it back
                </Plain>
              )}
            </Flex>
          ))}
          <Refusal problem={undo.problem} />
        </Box>
      </Grid>
    </Box>
  );
}

interface LineProps {
  at: string;
  lot: NewLot;
  put: (next: Partial<NewLot>) => void;
  out?: () => void;
  problem?: ReturnType<typeof useAct>["problem"];
}

function LotLine({ at, lot, put, out, problem }: LineProps) {
  const materials = useMaterials();
  const kit = !!materials.data?.find((m) => m.slug === lot.material)?.ratio;
  const here = (name: string) => (problem?.field === `${at}.${name}` ? problem.at(problem.field, `${at}.${name}`) : undefined);
  return (
    <Grid
      templateColumns={fields("1.6fr 0.9fr 0.9fr 0.9fr 1fr 0.8fr auto")}
      gap="8px"
      py="6px"
      borderTopWidth="1px"
      borderColor="line"
      alignItems="end"
    >
      <Choose label="What" name={`${at}.material`} value={lot.material} set={(material) => put({ material })} problem={here("material")}>
        <option value="">choose</option>
        {materials.data
          ?.filter((m) => !m.tap)
          .map((m) => (
            <option key={m.slug} value={m.slug}>
              {m.name}
            </option>
          ))}
      </Choose>
      <Entry label="Lot" name={`${at}.code`} placeholder="26-003" value={lot.code} set={(code) => put({ code })} problem={here("code")} />
      {kit ? (
        <>
          <Entry
            label="Part A"
            name={`${at}.amount_a`}
            placeholder="1 kg"
            value={lot.amount_a ?? ""}
            set={(amount_a) => put({ amount_a })}
            problem={here("amount_a")}
          />
          <Entry
            label="Part B"
            name={`${at}.amount_b`}
            placeholder="1 kg"
            value={lot.amount_b ?? ""}
            set={(amount_b) => put({ amount_b })}
            problem={here("amount_b")}
          />
        </>
      ) : (
        <>
          <Entry
            label="Amount"
            name={`${at}.amount`}
            placeholder="500 g"
            value={lot.amount ?? ""}
            set={(amount) => put({ amount })}
            problem={here("amount")}
          />
          <Entry
            label="Paid"
            name={`${at}.paid_minor`}
            placeholder="12.50"
            value={lot.paid_minor === undefined ? "" : (lot.paid_minor / 100).toString()}
            set={(t) =>
              put({
                paid_minor: t.trim() === "" || Number.isNaN(Number(t.replace(",", "."))) ? undefined : Math.round(Number(t.replace(",", ".")) * 100),
              })
            }
            problem={here("paid_minor")}
          />
        </>
      )}
      <Entry
        label="Use by"
        name={`${at}.expires_on`}
        type="date"
        value={lot.expires_on}
        set={(expires_on) => put({ expires_on })}
        problem={here("expires_on")}
      />
      <Entry
        label="Place"
        name={`${at}.shelf`}
        placeholder="cold 1"
        value={lot.shelf ?? ""}
        set={(shelf) => put({ shelf })}
        problem={here("shelf")}
      />
      {out ? (
        <Plain h="38px" aria-label="Leave this line out" onClick={out}>
          ×
        </Plain>
      ) : (
        <Box />
      )}
    </Grid>
  );
}

/** A list from a file: what each row will do, and nothing done until it is agreed. */
function FromList({ take }: { take: (lots: NewLot[]) => void }) {
  const file = useRef<HTMLInputElement>(null);
  const [name, setName] = useState("");
  const [preview, setPreview] = useState<Preview>();
  const read = useAct(async (f: File) => {
    setName(f.name);
    setPreview(undefined);
    const bytes = new Uint8Array(await f.arrayBuffer());
    let binary = "";
    for (let i = 0; i < bytes.length; i += 8192) binary += String.fromCharCode(...bytes.subarray(i, i + 8192));
    setPreview(await ask(api.POST("/api/lists/read", { body: { text: btoa(binary) } })));
  });
  const prices = useAct(async (list: Schemas["StoresNewPrice"][]) => {
    await ask(api.POST("/api/lists/prices", { body: { prices: list, which: name } }));
    setPreview(undefined);
  });
  const lots = preview?.rows.flatMap((r) => (r.lot ? [r.lot] : [])) ?? [];
  const priced = preview?.rows.flatMap((r) => (r.price ? [r.price] : [])) ?? [];
  return (
    <Box mt="24px">
      <Heading>From a list</Heading>
      <Flex gap="10px" align="center" wrap="wrap">
        <input
          ref={file}
          type="file"
          hidden
          accept=".csv,text/csv,text/plain"
          aria-label="A list as a file"
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) void read.run(f);
            e.target.value = "";
          }}
        />
        <Plain h="40px" disabled={read.busy} onClick={() => file.current?.click()}>
          Choose a list
        </Plain>
        <Box layerStyle="small" maxW="52ch">
          CSV in UTF-8, with commas, semicolons or tabs: product, lot, amount, use by; or product and price per kg.
        </Box>
      </Flex>
      <Refusal problem={read.problem ?? prices.problem} />
      {preview && (
        <Box mt="8px" data-testid="list-preview">
          <Box mb="6px">
            <b>{name}</b>: {preview.good} of {preview.rows.length} rows can be taken. Columns:{" "}
            {Object.entries(preview.headings)
              .map(([h, is]) => (is ? `${h} as ${is.replace("_", " ")}` : `${h} is left out`))
              .join(", ")}
            .
          </Box>
          {preview.rows.map((r) => (
            <Flex key={r.row} gap="10px" fontSize="15px" borderTopWidth="1px" borderColor="line" py="3px">
              <Box w="54px" color="muted">
                row {r.row}
              </Box>
              <Box flex="1" color={r.fault ? "rust" : "ink"}>
                {r.fault ? `${r.field}: ${r.fault}` : r.does}
              </Box>
            </Flex>
          ))}
          <Flex gap="10px" mt="10px">
            {lots.length > 0 && (
              <Go
                act={() => {
                  take(lots);
                  setPreview(undefined);
                }}
              >
                Put {lots.length} {lots.length === 1 ? "lot" : "lots"} on the delivery
              </Go>
            )}
            {priced.length > 0 && (
              <Go act={() => void prices.run(priced)} disabled={prices.busy}>
                Take {priced.length} prices
              </Go>
            )}
            <Plain onClick={() => setPreview(undefined)}>Leave it</Plain>
          </Flex>
        </Box>
      )}
    </Box>
  );
}
