import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";
import { day, dayTime, words } from "../../parts/format";
import { columns, fields, RoomHead } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Rooms } from "./Rooms";

/** Lots that were called back: what they touched, where it is now, who was told. */
export default function Recalls() {
  const { code } = useParams();
  return code ? <OneRecall code={code} key={code} /> : <AllRecalls />;
}

function AllRecalls() {
  const recalls = useRead({ queryKey: ["recalls"], queryFn: () => ask(api.GET("/api/recalls")) });
  const lots = useRead({ queryKey: ["lots", false], queryFn: () => ask(api.GET("/api/lots", { params: { query: { used_up: false } } })) });
  const navigate = useNavigate();
  const [lot, setLot] = useState("");
  const [reason, setReason] = useState("");
  const call = useAct(async () => {
    const r = await ask(api.POST("/api/recalls", { body: { lot, reason } }));
    navigate(`/recalls/${r.code}`);
  });
  const codes = [...new Map((lots.data ?? []).map((l) => [l.code, l.material_name]))];
  const held = (lots.data ?? []).filter((l) => l.status === "quarantine");
  return (
    <Box>
      <RoomHead title="Recalls" aside="quarantine, and lots that were called back" acts={<Rooms />} />
      <Grid templateColumns={columns("minmax(0,1.3fr) minmax(0,1fr)")} gap="34px">
        <Box>
          <Heading>Called back</Heading>
          {recalls.data?.length === 0 && <Box color="muted">No lot was ever called back.</Box>}
          {recalls.data?.map((r) => (
            <Flex key={r.code} gap="12px" py="7px" borderBottomWidth="1px" borderColor="line" align="baseline" color={r.ended_at ? "muted" : "ink"}>
              <Tag code={r.code} to={`/recalls/${r.code}`} />
              <Box flex="1">
                <b>
                  {r.name}, lot {r.lot}
                </b>
                : {r.reason}
                <Box layerStyle="small">
                  {dayTime(r.at)}, {r.by}
                </Box>
              </Box>
              <Box color={r.open > 0 && !r.ended_at ? "rust" : "muted"}>
                {r.ended_at ? "over" : r.open > 0 ? `${r.open} to be told` : "everybody knows"}
              </Box>
            </Flex>
          ))}
          <Box mt="22px">
            <Heading>In quarantine</Heading>
            {held.length === 0 && <Box color="muted">Nothing is held back.</Box>}
            {held.map((l) => (
              <Flex key={l.code + l.part} gap="10px" py="4px">
                <Tag code={l.code} to={`/stores/${l.code}`} />
                <Box>
                  {l.part && `part ${l.part}, `}
                  {l.material_name}: {l.status_reason}
                </Box>
              </Flex>
            ))}
          </Box>
        </Box>
        <Box>
          <Heading>Call a lot back</Heading>
          <Choose label="Lot" name="lot" value={lot} set={setLot} problem={call.problem}>
            <option value="">choose</option>
            {codes.map(([c, name]) => (
              <option key={c} value={c}>
                {c}, {name}
              </option>
            ))}
          </Choose>
          <Box mt="8px">
            <Entry
              label="Why"
              name="reason"
              placeholder="the supplier wrote: drum 7 has water in it"
              value={reason}
              set={setReason}
              problem={call.problem}
            />
          </Box>
          <Box mt="10px">
            <Go act={() => void call.run()} disabled={call.busy || !lot}>
              Call it back
            </Go>
          </Box>
          <Refusal problem={call.problem} />
          <Box layerStyle="small" mt="8px">
            It is not used any more, what was put by from it is held back, no kit with it leaves the shop, and everybody who has some of it gets a
            letter.
          </Box>
        </Box>
      </Grid>
    </Box>
  );
}

const linkOf: Record<string, (c: string) => string> = {
  mix: (c) => `/mix/${c}`,
  copy: (c) => `/check/${c}`,
  kit: (c) => `/handover/${c}`,
  lot: (c) => `/stores/${c}`,
  mould: (c) => `/mould?mould=${encodeURIComponent(c)}`,
};
const kinds: Record<string, string> = { mix: "Mixes", lot: "Prepared and decanted", mould: "Moulds", copy: "Copies", kit: "Kits" };

function OneRecall({ code }: { code: string }) {
  const params = { path: { code } };
  const [contact, setContact] = useState(false);
  const recall = useRead({
    queryKey: ["recall", code, contact],
    queryFn: () => ask(api.GET("/api/recalls/{code}", { params: { ...params, query: { contact } } })),
    placeholderData: (old) => old,
  });
  const end = useAct(() => ask(api.POST("/api/recalls/{code}/end", { params })));
  if (!recall.data) return recall.error ? <Refusal problem={recall.error as never} /> : null;
  const r = recall.data;
  return (
    <Box>
      <RoomHead code={code} title={`${r.name}, lot ${r.lot}`} aside={r.reason} acts={<Rooms />} />
      <Grid templateColumns={columns("minmax(0,1fr) minmax(0,1.1fr)")} gap="34px">
        <Box>
          <Heading>What it is in, and where that is</Heading>
          <Flex as="label" gap="7px" mb="8px" align="center">
            <input type="checkbox" checked={contact} onChange={(e) => setContact(e.target.checked)} /> with what it only touched: moulds made of it,
            and what was cast in them
          </Flex>
          {r.touched.length === 0 && <Box color="muted">Nothing was made of it.</Box>}
          {Object.entries(kinds).map(([kind, name]) => {
            const list = r.touched.filter((t) => t.kind === kind);
            return (
              list.length > 0 && (
                <Box key={kind} mb="12px">
                  <Box color="muted" mb="4px">
                    {name}
                  </Box>
                  {list.map((t) => (
                    <Flex key={t.code} gap="10px" py="3px" align="center">
                      <Tag code={t.code} to={linkOf[kind](t.code)} />
                      <Box>
                        {words(t.state)}
                        {t.where && `, ${t.where}`}
                        {t.contact && ", touched only"}
                      </Box>
                    </Flex>
                  ))}
                </Box>
              )
            );
          })}
        </Box>
        <Box>
          <Heading aside={r.letters.length > 0 && <a href={`/api/recalls/${code}/letters.pdf`}>Print the letters</a>}>Who must be told</Heading>
          {r.letters.length === 0 && <Box color="muted">Nothing of it has left the shop.</Box>}
          {r.letters.map((l) => (
            <OneLetter key={l.kit} recall={code} l={l} />
          ))}
          <Box mt="16px">
            {r.ended_at ? (
              <Box color="muted">Over since {dayTime(r.ended_at)}.</Box>
            ) : (
              <Plain h="40px" disabled={end.busy || r.open > 0} onClick={() => void end.run()}>
                {r.open > 0 ? `${r.open} have not answered yet` : "Close the recall"}
              </Plain>
            )}
            <Refusal problem={end.problem} />
          </Box>
          <Box mt="10px" layerStyle="small">
            The lot itself stays out of use. <Link to={`/stores/${r.lot}`}>Its page</Link>
          </Box>
        </Box>
      </Grid>
    </Box>
  );
}

function OneLetter({ recall, l }: { recall: string; l: Schemas["StoresLetter"] }) {
  const [answer, setAnswer] = useState("");
  const told = useAct(() => ask(api.POST("/api/recalls/{code}/told", { params: { path: { code: recall } }, body: { kit: l.kit, answer } })));
  return (
    <Box py="8px" borderBottomWidth="1px" borderColor="line">
      <Flex gap="10px" align="center" wrap="wrap">
        <b>{l.artist}</b>
        <Tag code={l.kit} to={`/handover/${l.kit}`} />
        <Box>
          {day(l.day)}, {l.back ? "worn, and back in the shop" : l.handed ? "with them" : "still here"}
        </Box>
      </Flex>
      <Box fontSize="15px">
        {l.copies && `Copies with it inside: ${l.copies}. `}
        {l.shelf && "The lot itself went along."}
      </Box>
      {l.told_at ? (
        <Box color="yew" fontWeight="600">
          Knows since {dayTime(l.told_at)}: {l.answer}
        </Box>
      ) : (
        <Grid templateColumns={fields("minmax(0,1fr) auto")} gap="8px" alignItems="end" mt="4px">
          <Entry label="What they answered" name="answer" placeholder="not used, sent back" value={answer} set={setAnswer} problem={told.problem} />
          <Plain h="40px" disabled={told.busy || !answer.trim()} onClick={() => void told.run()}>
            They know
          </Plain>
        </Grid>
      )}
      <Refusal problem={told.problem} />
    </Box>
  );
}
