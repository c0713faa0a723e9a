import { useState } from "react";
import type { View } from "./api";
import type { Linked } from "./useLink";

/** Is it all there? Signed once; the first signature stands. */
export function Receipt({ v, link }: { v: View; link: Linked }) {
  const [name, setName] = useState("");
  const [said, setSaid] = useState("");
  const signed = link.waits.find((w) => w.kind === "sign");
  if (signed) {
    return (
      <section className={signed.stopped ? "stop" : "look"} role="status" data-testid="sign-waits">
        {signed.stopped ?? "Your signature waits on this device and is sent by itself."}
      </section>
    );
  }
  const sign = () => {
    if (!name.trim()) {
      setSaid("Sign with your name.");
      return;
    }
    void link.put([{ kind: "sign", name: name.trim() }]);
  };
  return (
    <section className="sheet">
      <h2>Is it all there? Sign for it</h2>
      <p>
        <b>{v.copies.map((c) => c.code).join(", ") || "No piece"}</b> and {v.items.filter((i) => i.packed).length} things with them.
        {v.items.some((i) => i.missing) && (
          <>
            {" "}
            Missing:{" "}
            {v.items
              .filter((i) => i.missing)
              .map((i) => i.name)
              .join(", ")}
            .
          </>
        )}
      </p>
      <label>
        Your name
        <input
          name="name"
          autoComplete="name"
          value={name}
          maxLength={120}
          aria-invalid={said !== ""}
          aria-describedby="sign-said"
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <p id="sign-said" className="no">
        {said}
      </p>
      <button type="button" className="go big" onClick={sign}>
        Received
      </button>
    </section>
  );
}
