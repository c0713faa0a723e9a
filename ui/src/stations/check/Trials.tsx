import { Box, Flex } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { Entry, Heading, Plain, Refusal } from "../../parts/controls";
import { dayTime } from "../../parts/format";
import type { Copy } from "./bench";

type Trial = Schemas["CheckTrial"];
const kinds: [Trial["kind"], string][] = [
  ["movement", "In movement"],
  ["comfort", "Worn"],
  ["hand", "By hand and nose"],
  ["measure", "Measured"],
];

/** What is tried, felt and measured on a copy, by where it goes. */
export function Trials({ copy: c }: { copy: Copy }) {
  const trials = useRead({
    queryKey: ["copy trials", c.code],
    queryFn: () => ask(api.GET("/api/copies/{code}/trials", { params: { path: { code: c.code } } })),
  });
  return (
    <Box>
      {kinds.map(([kind, title]) => {
        const list = trials.data?.filter((t) => t.kind === kind) ?? [];
        return (
          list.length > 0 && (
            <Box key={kind} mb="16px">
              <Heading>{title}</Heading>
              {list.map((t) => (
                <Line key={t.what} trial={t} code={c.code} />
              ))}
            </Box>
          )
        );
      })}
    </Box>
  );
}

const results: [Schemas["CheckNewTest"]["result"], string][] = [
  ["good", "good"],
  ["so-so", "so-so"],
  ["bad", "bad"],
];

function Line({ trial: t, code }: { trial: Trial; code: string }) {
  const [value, setValue] = useState("");
  const [note, setNote] = useState("");
  const key = useRef(crypto.randomUUID());
  const keep = useAct(async (result: Schemas["CheckNewTest"]["result"]) => {
    await ask(
      api.POST("/api/copies/{code}/trials", {
        params: { path: { code } },
        body: { what: t.what, result, value: value ? Number(value.replace(",", ".")) : undefined, note, key: key.current },
      }),
    );
    key.current = crypto.randomUUID();
    setValue("");
    setNote("");
  });
  const off = t.planned && t.last?.value !== undefined ? t.last.value - t.planned : undefined;
  return (
    <Box borderBottomWidth="1px" borderColor="line" py="6px" data-trial={t.what}>
      <Flex gap="10px" align="baseline" wrap="wrap">
        <b>{t.what}</b>
        <Box color="muted" flex="1 1 220px">
          {t.ask}
          {t.planned !== undefined && ` ${t.planned.toFixed(t.planned < 10 ? 2 : 1)} ${t.unit} as planned.`}
        </Box>
        {t.last && (
          <Box fontWeight="600" color={t.last.result === "bad" ? "rust" : undefined}>
            {t.last.value !== undefined ? `${t.last.value} ${t.unit ?? ""}` : t.last.result}
            {off !== undefined && `, ${off >= 0 ? "+" : "−"}${Math.abs(off).toFixed(Math.abs(off) < 10 ? 2 : 1)}`}
          </Box>
        )}
      </Flex>
      <Flex gap="8px" align="end" wrap="wrap" mt="4px">
        {t.kind === "measure" && <Entry label={t.unit ?? ""} name="value" value={value} set={setValue} problem={keep.problem} width="110px" />}
        <Entry label={t.kind === "measure" ? "Where" : "What was seen"} name="note" value={note} set={setNote} problem={keep.problem} width="230px" />
        {t.kind === "measure" ? (
          <Plain h="40px" disabled={keep.busy || !value} onClick={() => void keep.run("good")}>
            Write it down
          </Plain>
        ) : (
          results.map(([r, text]) => (
            <Plain key={r} h="40px" disabled={keep.busy} onClick={() => void keep.run(r)}>
              {text}
            </Plain>
          ))
        )}
      </Flex>
      {t.last && (
        <Box layerStyle="small">
          {t.last.who}, {dayTime(t.last.at)} {t.last.note}
          {t.times > 1 && `, ${t.times} times so far`}
        </Box>
      )}
      <Refusal problem={keep.problem} />
    </Box>
  );
}
