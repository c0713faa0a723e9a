import { useState } from "react";
import type { View } from "./api";
import { left } from "./clock";
import { useNow } from "./Morning";
import type { Linked } from "./useLink";

/** Taking it off: in this order, with a clock for each soak. */
export function Off({ v, link, tell }: { v: View; link: Linked; tell: () => void }) {
  const [seen, setSeen] = useState("");
  const [begun, setBegun] = useState<number>();
  const now = useNow();
  const gone = begun === undefined ? undefined : (now - begun) / 60000;
  const off = v.off;
  return (
    <>
      <p className="look">
        <b>{off.never}</b>
      </p>
      <p className="big-number">
        {gone === undefined ? `${Math.round(off.total_min)} min` : left(gone)}
        <span className="muted">{gone === undefined ? "in all; do not hurry it" : "since the first remover went on"}</span>
      </p>
      {begun === undefined && (
        <button type="button" className="go big" onClick={() => setBegun(Date.now())}>
          Begin
        </button>
      )}
      <ol className="steps">
        {off.steps.map((s) => (
          <li key={s.piece + s.words} className="sheet">
            <h2>
              {s.piece} {s.name}
            </h2>
            <p>{s.words}</p>
            <p className="muted">
              {Math.round(s.ml * 10) / 10} ml, soaks {Math.round(s.soak_min)} min, off after {Math.round(s.off_min)} min
              {gone !== undefined && gone < s.off_min && <b> · {left(s.off_min - gone)} to go</b>}
            </p>
          </li>
        ))}
      </ol>
      <section>
        <h2>Then</h2>
        <ul>
          {off.after.map((a) => (
            <li key={a}>{a}</li>
          ))}
          {off.rest_h != null && <li>No glue there again for at least {Math.round(off.rest_h)} hours.</li>}
          <li>Redness that stays: stop, tell us, ring, and ask a licensed professional.</li>
        </ul>
        <fieldset>
          <legend>How does the skin look?</legend>
          <div className="row">
            {["as before", "a little red"].map((look) => (
              <button
                type="button"
                key={look}
                aria-pressed={seen === look}
                onClick={() => {
                  setSeen(look);
                  void link.put([{ kind: "report", report: { kind: "removal", words: `All off. Skin: ${look}.` } }]);
                }}
              >
                {look}
              </button>
            ))}
            <button type="button" className="stop" onClick={tell}>
              red or burning
            </button>
          </div>
          {seen && (
            <p role="status">
              Noted: {seen}.
              {seen === "a little red" &&
                off.rest_h != null &&
                ` No glue there for at least ${Math.round(off.rest_h + 12)} hours; look again before.`}
            </p>
          )}
        </fieldset>
        <h2>What becomes of it</h2>
        <ul>
          {off.again.map((a) => (
            <li key={a}>{a}</li>
          ))}
        </ul>
      </section>
    </>
  );
}
