import { Box, Flex, Grid, Input, NativeSelect } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import type { Problem } from "../../app/api";
import { Plain } from "../../parts/controls";
import { fields } from "../../parts/Room";

/** One column of a list of a brief. */
export interface Column<T> {
  name: keyof T & string;
  label: string;
  width: string;
  kind?: "text" | "number" | "money" | "day" | "choice";
  choices?: [value: string, text: string][];
  placeholder?: string;
}

const cell = { bg: "sheet", borderColor: "line", borderRadius: "6px", h: "34px", px: "8px", fontSize: "14.5px" } as const;

/** A list that is written in place: what stands in a row is a part of the brief and saves itself. */
export function Rows<T extends object>({
  name,
  rows,
  set,
  columns,
  blank,
  add,
  empty,
  problem,
}: {
  name: string;
  rows: T[];
  set: (next: T[]) => void;
  columns: Column<T>[];
  blank: () => T;
  add: string;
  empty: string;
  problem?: Problem;
}) {
  const template = `${columns.map((c) => c.width).join(" ")} 64px`;
  const wrong = problem?.field.startsWith(name) ? problem.message : undefined;
  return (
    <Box>
      {rows.length === 0 && <Box layerStyle="note">{empty}</Box>}
      {rows.length > 0 && (
        <Grid templateColumns={template} gap="5px" layerStyle="small" aria-hidden="true" display={{ base: "none", lg: "grid" }}>
          {columns.map((c) => (
            <Box key={c.name}>{c.label}</Box>
          ))}
        </Grid>
      )}
      {rows.map((row, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a row has no other name while it is written
        <Grid key={i} templateColumns={fields(template)} gap="5px" mb={{ base: "14px", lg: "5px" }} alignItems={{ base: "end", lg: "center" }}>
          {columns.map((c) => (
            <Box key={c.name} minW="0">
              <Box layerStyle="small" aria-hidden="true" display={{ lg: "none" }}>
                {c.label}
              </Box>
              <Cell
                column={c as unknown as Column<Record<string, unknown>>}
                label={`${c.label}, ${i + 1}`}
                value={row[c.name]}
                set={(v) => set(rows.map((r, k) => (k === i ? { ...r, [c.name]: v } : r)))}
              />
            </Box>
          ))}
          <Box
            as="button"
            color="muted"
            fontSize="13px"
            textDecoration="underline"
            aria-label={`take out row ${i + 1}`}
            onClick={() => set(rows.filter((_, k) => k !== i))}
          >
            take out
          </Box>
        </Grid>
      ))}
      <Flex gap="10px" align="center" mt="4px">
        <Plain h="32px" px="14px" fontSize="14px" onClick={() => set([...rows, blank()])}>
          {add}
        </Plain>
        {wrong && (
          <Box color="rust" fontSize="13.5px" role="alert">
            {wrong}
          </Box>
        )}
      </Flex>
    </Box>
  );
}

function Cell({ column, label, value, set }: { column: Column<Record<string, unknown>>; label: string; value: unknown; set: (v: unknown) => void }) {
  if (column.kind === "choice") {
    return (
      <NativeSelect.Root>
        <NativeSelect.Field {...cell} aria-label={label} value={String(value ?? "")} onChange={(e) => set(e.target.value)}>
          {column.choices?.map(([v, text]) => (
            <option key={v} value={v}>
              {text}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    );
  }
  if (column.kind === "number" || column.kind === "money") {
    const per = column.kind === "money" ? 100 : 1;
    return <Figure label={label} value={Number(value ?? 0) / per} set={(n) => set(per === 100 ? Math.round(n * per) : n)} />;
  }
  return (
    <Input
      {...cell}
      aria-label={label}
      type={column.kind === "day" ? "date" : "text"}
      value={String(value ?? "")}
      placeholder={column.placeholder}
      autoComplete="off"
      onChange={(e) => set(e.target.value)}
    />
  );
}

/** A figure that keeps what is typed until it is one. */
export function Figure({
  label,
  value,
  set,
  width,
  h = "34px",
}: {
  label: string;
  value: number;
  set: (n: number) => void;
  width?: string;
  h?: string;
}) {
  const [text, setText] = useState(value ? String(value) : "");
  useEffect(() => setText((t) => (Number(t) === value ? t : value ? String(value) : "")), [value]);
  const wrong = text.trim() !== "" && !Number.isFinite(Number(text));
  return (
    <Input
      {...cell}
      h={h}
      w={width}
      aria-label={label}
      aria-invalid={wrong}
      inputMode="decimal"
      borderColor={wrong ? "rust" : "line"}
      title={wrong ? "Write a number." : undefined}
      value={text}
      autoComplete="off"
      onChange={(e) => {
        setText(e.target.value);
        const n = Number(e.target.value);
        if (Number.isFinite(n)) set(n);
      }}
    />
  );
}

/** An id for a row that is new. */
