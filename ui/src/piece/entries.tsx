import { Box } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { api, ask, Problem } from "../app/api";
import { Entry } from "../parts/controls";

/** A whole number, taken as soon as it is one. */
export function Whole({
  label,
  name,
  value,
  set,
  problem,
}: {
  label: string;
  name: string;
  value: number;
  set: (n: number) => void;
  problem?: Problem;
}) {
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

/** What an amount is of, and how it is shown. */
interface AmountProps {
  label: string;
  name: string;
  kind: "length" | "duration" | "mass" | "temperature" | "area";
  value: number | undefined;
  unit: string;
  factor?: number;
  placeholder?: string;
  set: (n: number) => void;
  clear?: () => void;
  problem?: Problem;
}

/** An amount in any unit: 0.2 mm, 1/4 in. Plain numbers are read here, the rest by the server. */
export function Amount({ label, name, kind, value, unit, factor = 1, placeholder, set, clear, problem }: AmountProps) {
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
