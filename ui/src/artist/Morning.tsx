import { useEffect, useRef, useState } from "react";
import type { View } from "./api";
import { clock, left, nowMin, type Stand, stands } from "./clock";
import type { Linked } from "./useLink";

/** The time, every second while it is looked at. */
export function useNow(): number {
  const [now, set] = useState(Date.now);
  useEffect(() => {
    const timer = window.setInterval(() => set(Date.now()), 1000);
    return () => window.clearInterval(timer);
  }, []);
  return now;
}

/** Steps as pages, the one that is next first: what, where, when its glue grips, and one button. */
export function Morning({ v, link, token }: { v: View; link: Linked; token: string }) {
  const now = useNow();
  const list = stands(v, link.waits, link.fetchedAt, now);
  const at = nowMin(v, link.fetchedAt, now);
  const due = list.findIndex((s) => s.state === "next" || s.state === "missed");
  const [picked, setPicked] = useState<number>();
  useRing(list, at);
  if (v.bar) return <p className="stop">{v.bar}</p>;
  if (list.length === 0) return <p>This kit has no morning to run.</p>;
  const n = Math.min(picked ?? (due < 0 ? list.length - 1 : due), list.length - 1);
  const s = list[n];
  if (!s) return null;
  const done = list.filter((x) => x.state === "done").length;
  return (
    <>
      <p className="big-number">
        {v.today ? clock(at) : "Not today"}{" "}
        <span className="muted">
          on set {clock(v.run.ready_min)}, begin by {clock(v.run.begin_min)}
        </span>
      </p>
      <p className="muted">
        Ready about {clock(v.live.begun ? v.live.ready_min : v.run.ready_min)}, in time {Math.round(100 * v.live.chance)} in 100. {done} of{" "}
        {list.length} done.
      </p>
      <OneStep key={s.step.id} s={s} v={v} at={at} link={link} token={token} then={() => setPicked(undefined)} />
      <div className="row turn">
        <button type="button" disabled={n === 0} onClick={() => setPicked(n - 1)}>
          Before
        </button>
        <span>
          {n + 1} of {list.length}
        </span>
        <button type="button" disabled={n === list.length - 1} onClick={() => setPicked(n + 1)}>
          After
        </button>
      </div>
      <details>
        <summary>All steps</summary>
        <ol className="plain">
          {list.map((x, i) => (
            <li key={x.step.id}>
              <button type="button" className="line" aria-current={i === n ? "step" : undefined} onClick={() => setPicked(i)}>
                <b>{clock(x.start)}</b> {x.step.text} <span className="muted">{x.state === "waits" ? "" : x.state}</span>
              </button>
            </li>
          ))}
        </ol>
      </details>
      <section>
        <h2>For {v.wearer || "the wearer"}</h2>
        <ul>
          {v.told.map((t) => (
            <li key={t.text + t.from_min}>
              {clock(t.from_min)} to {clock(t.until_min)}: {t.text}
            </li>
          ))}
        </ul>
        <Comfort v={v} link={link} />
      </section>
    </>
  );
}

function OneStep({ s, v, at, link, token, then }: { s: Stand; v: View; at: number; link: Linked; token: string; then: () => void }) {
  const { step } = s;
  const early = s.from !== undefined && at < s.from;
  const tick = (act: "done" | "missed" | "undo") => {
    void link.put([{ kind: "tick", tick: { step: step.id, act } }]);
    then();
  };
  return (
    <section className={s.state === "missed" ? "stop" : "sheet"} aria-live="polite" data-testid="step">
      <div className="muted">
        {step.who.join(", ")} · {clock(s.start)} · {step.minutes} min{s.state === "done" && " · done"}
      </div>
      <h2>{step.text}</h2>
      {step.how && <p>{step.how}</p>}
      {step.twice && <p>{step.twice}.</p>}
      {step.marks.length > 0 && (
        <>
          <ol>
            {step.marks.map((m) => (
              <li key={m}>{m}</li>
            ))}
          </ol>
          <img
            className="map"
            src={`/api/artist/${token}/maps/${step.piece}`}
            alt={`The map of ${step.piece} with its landmarks numbered: ${step.marks.join(", ")}`}
          />
        </>
      )}
      {s.state === "missed" ? (
        <p>
          <b>The glue let go{s.until !== undefined && ` at ${clock(s.until)}`}.</b> Clean it off and lay a new coat. A second pressing does not hold.
        </p>
      ) : (
        s.from !== undefined &&
        s.until !== undefined &&
        s.state !== "done" && (
          <p className="big-number" data-testid="window">
            {early ? left(s.from - at) : left(s.until - at)}
            <span className="muted">{early ? `until it grips, at ${clock(s.from)}` : `left; too late after ${clock(s.until)}`}</span>
          </p>
        )
      )}
      {step.cautions.map((c) => (
        <p className="muted" key={c}>
          {c}
        </p>
      ))}
      <div className="row">
        {s.state === "missed" ? (
          <button type="button" className="go big" onClick={() => tick("missed")}>
            New coat
          </button>
        ) : s.state === "done" ? (
          <button type="button" onClick={() => tick("undo")}>
            Not done after all
          </button>
        ) : (
          <button type="button" className="go big" disabled={early || !v.today} onClick={() => tick("done")}>
            {step.kind === "place" ? "It is on" : "Done"}
          </button>
        )}
      </div>
      {step.why && <p className="muted">{step.why}</p>}
      {v.live.late_min > 1 && s.state !== "done" && <p className="no">About {Math.round(v.live.late_min)} min late as it stands.</p>}
    </section>
  );
}

/** How the wearer says that it is, 0 to 10. */
export function Comfort({ v, link }: { v: View; link: Linked }) {
  const [said, setSaid] = useState("");
  return (
    <fieldset>
      <legend>How is it? Asked every {v.ask_min} minutes</legend>
      <div className="row scores">
        {[0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10].map((n) => (
          <button
            type="button"
            key={n}
            onClick={() => {
              void link.put([{ kind: "tick", tick: { act: "comfort", score: n } }]);
              setSaid(n <= 3 ? `${n} is written down. Stop and ask what is wrong.` : `${n} is written down.`);
            }}
          >
            {n}
          </button>
        ))}
      </div>
      <p role="status">{said}</p>
    </fieldset>
  );
}

/** Rings when a window opens, three minutes before it closes, and when it has: buzz and a tone. */
function useRing(list: Stand[], at: number) {
  const rung = useRef(new Set<string>());
  useEffect(() => {
    for (const s of list) {
      if (s.state === "done" || s.from === undefined || s.until === undefined) continue;
      for (const [name, when] of [
        ["opens", s.from],
        ["closes", s.until - 3],
        ["late", s.until],
      ] as const) {
        const id = `${s.step.id} ${name} ${Math.round(when)}`;
        if (at < when || rung.current.has(id)) continue;
        rung.current.add(id);
        if (at - when < 0.5) ring();
      }
    }
  }, [list, at]);
}

function ring() {
  navigator.vibrate?.([200, 100, 200]);
  try {
    const audio = new AudioContext();
    const tone = audio.createOscillator();
    tone.frequency.value = 880;
    tone.connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + 0.25);
  } catch {
    // A browser that gives no sound still buzzes and shows it.
  }
}
