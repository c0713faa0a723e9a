import { useEffect, useState } from "react";
import { Entry } from "../../parts/controls";
import { typed } from "./bench";

/** A number of a plan: typed, and kept when the field is left or Enter is pressed. */
export function Figure({
  label,
  value,
  set,
  width = "110px",
  name,
}: {
  label: string;
  value: number;
  set: (n: number) => void;
  width?: string;
  name?: string;
}) {
  const [text, setText] = useState(String(value));
  useEffect(() => setText(String(value)), [value]);
  const keep = () => {
    const n = typed(text, value);
    setText(String(n));
    if (n !== value) set(n);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: it only hears that its one field is left.
    <span style={{ display: "inline-block" }} onBlur={keep} onKeyDown={(e) => e.key === "Enter" && keep()}>
      <Entry label={label} name={name ?? label} value={text} set={setText} width={width} />
    </span>
  );
}
