import { useState } from "react";
import type { View } from "./api";
import type { Linked } from "./useLink";

/** What must not be used, and what to mind, before anything else. */
export function Cautions({ v }: { v: View }) {
  return (
    <section className="look" data-testid="cautions">
      <h2>First</h2>
      <ul>
        {v.cautions.map((c) => (
          <li key={c}>{c}</li>
        ))}
        {v.stop.map((c) => (
          <li key={c}>{c}</li>
        ))}
        <li>In the eye: stop, rinse with clean water, lens out; a professional looks at it.</li>
      </ul>
      <p className="muted">Safety data sheets, local rules and licensed professionals have the last word.</p>
    </section>
  );
}

/** Lots that were called back stand above everything until the artist says what they did. */
export function Recalls({ v, link }: { v: View; link: Linked }) {
  const [words, setWords] = useState("");
  const open = v.recalls.filter((r) => !link.waits.some((w) => w.kind === "recall" && w.recall === r.recall));
  return open.map((r) => (
    <section className="stop" role="alert" key={r.recall} data-testid="recall">
      <h2>Called back: {r.what}</h2>
      <p>
        {r.reason}. {r.copies && <>It is in {r.copies}.</>} Do not use it. If it is on skin, take it off.
      </p>
      <label>
        What you did
        <input value={words} maxLength={300} onChange={(e) => setWords(e.target.value)} placeholder="not used, put aside" />
      </label>
      <button
        type="button"
        className="go"
        disabled={!words.trim()}
        onClick={() => {
          void link.put([{ kind: "recall", recall: r.recall, words: words.trim() }]);
          setWords("");
        }}
      >
        I know
      </button>
    </section>
  ));
}
