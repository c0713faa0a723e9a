import { Box } from "@chakra-ui/react";
import { useEffect, useState } from "react";

interface TurnProps {
  label: string;
  unit?: string;
  value: number;
  min: number;
  max: number;
  step: number;
  set: (v: number) => void;
  /** Reads the label aloud only. */
  hide?: boolean;
  why?: string;
  /** Draws another one by chance. */
  another?: () => void;
}

const field = {
  width: 64,
  height: 28,
  padding: "0 6px",
  borderRadius: 8,
  background: "var(--chakra-colors-sheet)",
} as const;

/** A number that is typed. What is no number yet stays on the screen and changes nothing. */
export function Turn({ label, unit = "", value, min, max, step, set, hide, why, another }: TurnProps) {
  const [typed, setTyped] = useState<string>();
  // What stands there as it would be written is the value's own again, so that a
  // step back shows. “2.” is 2 already, but the hand is on its way to 2.5.
  useEffect(() => {
    if (typed === String(value)) setTyped(undefined);
  }, [typed, value]);
  const wrong = typed !== undefined && !(Number(typed) >= min && Number(typed) <= max && typed.trim() !== "");
  return (
    <Box as="span" display="inline-flex" alignItems="center" gap="6px" title={why}>
      {!hide && (
        <Box as="span" layerStyle="small">
          {label}
        </Box>
      )}
      <input
        aria-label={unit ? `${label}, ${unit}` : label}
        aria-invalid={wrong}
        inputMode="decimal"
        value={typed ?? String(Math.round(value * 1000) / 1000)}
        style={{ ...field, border: `1.5px solid var(--chakra-colors-${wrong ? "rust" : "line"})` }}
        onChange={(e) => {
          const text = e.target.value.replace(",", ".");
          setTyped(text);
          const x = Number(text);
          if (text.trim() !== "" && x >= min && x <= max) set(x);
        }}
        onKeyDown={(e) => {
          const by = e.key === "ArrowUp" ? step : e.key === "ArrowDown" ? -step : 0;
          if (!by) return;
          e.preventDefault();
          setTyped(undefined);
          set(Math.round(1000 * Math.max(min, Math.min(max, value + by))) / 1000);
        }}
        onBlur={() => setTyped(undefined)}
      />
      <Box as="span" layerStyle="small">
        {wrong ? `${min} to ${max} ${unit}` : unit}
      </Box>
      {another && (
        <Box as="button" textDecoration="underline" layerStyle="small" onClick={another}>
          another
        </Box>
      )}
    </Box>
  );
}
