import { useEffect, useState } from "react";
import type { View } from "./api";
import { Cautions, Recalls } from "./Cautions";
import { Day } from "./Day";
import { Kit } from "./Kit";
import { Morning } from "./Morning";
import { Off } from "./Off";
import { Receipt } from "./Receipt";
import { Tell } from "./Tell";
import { useInstall } from "./useInstall";
import { type Linked, useLink } from "./useLink";

const leaves = [
  ["kit", "Kit"],
  ["morning", "Morning"],
  ["day", "On set"],
  ["off", "Take off"],
  ["tell", "Tell us"],
] as const;
type Leaf = (typeof leaves)[number][0];

const day = (iso: string) => new Date(iso).toLocaleDateString("en-GB", { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" });

/** The makeup artist's page, for one hand on a phone: cautions first, then sign, then the day. */
export function Page({ token }: { token: string }) {
  const link = useLink(token);
  const [large, setLarge] = useKept("large");
  const [left, setLeft] = useKept("left");
  const [night, setNight] = useKept("night");
  const [leaf, setLeaf] = useState<Leaf>(() => (leaves.find(([id]) => id === location.hash.slice(1))?.[0] ?? "kit") as Leaf);
  useEffect(() => {
    const on = (is: boolean, name: string) => document.documentElement.classList.toggle(name, is);
    on(large, "large");
    on(left, "left");
    on(night, "night");
  }, [large, left, night]);
  useEffect(() => history.replaceState(null, "", `#${leaf}`), [leaf]);
  const v = link.view;
  if (link.ended) {
    return (
      <main className="page">
        <h1>Yewmoor</h1>
        <p className="stop">{link.ended}</p>
        <p>Nothing of this kit is kept on this device any more.</p>
      </main>
    );
  }
  if (!v) {
    return (
      <main className="page">
        <h1>Yewmoor</h1>
        <p role="status">
          {link.offline ? "There is no connection, and this kit was not opened here before. It is read as soon as there is one." : "Reading the kit…"}
        </p>
      </main>
    );
  }
  return (
    <>
      <Head v={v} link={link} />
      <main className="page">
        <NotSent link={link} v={v} />
        <Recalls v={v} link={link} />
        {leaf === "kit" && <Cautions v={v} />}
        {!v.received_at && <Receipt v={v} link={link} />}
        {leaf === "kit" && <Kit v={v} token={token} />}
        {leaf === "morning" && <Morning v={v} link={link} token={token} />}
        {leaf === "day" && <Day v={v} link={link} />}
        {leaf === "off" && <Off v={v} link={link} tell={() => setLeaf("tell")} />}
        {leaf === "tell" && <Tell v={v} link={link} token={token} />}
        <footer>
          <Keeps link={link} v={v} />
          <div className="row">
            <button type="button" aria-pressed={large} onClick={() => setLarge(!large)}>
              Larger
            </button>
            <button type="button" aria-pressed={night} onClick={() => setNight(!night)}>
              Dark
            </button>
            <button type="button" aria-pressed={left} onClick={() => setLeft(!left)}>
              Left hand
            </button>
          </div>
        </footer>
      </main>
      <nav aria-label="The day">
        {leaves.map(([id, text]) => (
          <button type="button" className="leaf" key={id} aria-current={leaf === id ? "page" : undefined} onClick={() => setLeaf(id)}>
            {text}
            {id === "tell" && link.waits.length > 0 && <span className="dot"> {link.waits.length}</span>}
          </button>
        ))}
      </nav>
    </>
  );
}

function Head({ v, link }: { v: View; link: Linked }) {
  const off = Math.round((new Date(v.asked_at).getTime() - link.fetchedAt) / 60000);
  return (
    <header>
      <div className="row">
        <span className="tag">{v.kit}</span>
        <h1>{v.wearer || v.production}</h1>
      </div>
      <div className="muted">
        {day(v.day)}, {v.place}
        {v.scene && ` · ${v.scene}`} · for {v.artist}
      </div>
      <div className="muted" role="status" data-testid="line">
        {link.offline ? "No connection. " : ""}Asked the workshop at{" "}
        {new Date(link.fetchedAt + off * 60000).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}
        {link.offline && ": what came since is not here"}.
        {Math.abs(off) >= 3 && ` This device's clock is ${Math.abs(off)} min ${off > 0 ? "slow" : "fast"}; the workshop's is used.`}
      </div>
    </header>
  );
}

/** A reaction of skin that has not gone out is said above everything, with whom to ring. */
function NotSent({ link, v }: { link: Linked; v: View }) {
  const skin = link.waits.some((w) => w.kind === "report" && (w.report.kind === "reaction" || w.report.kind === "itch"));
  if (!skin) return null;
  return (
    <section className="stop" role="alert" data-testid="not-sent">
      <h2>NOT SENT: skin reacted</h2>
      <p>Your report has not reached the workshop yet. Take it off, and ring now:</p>
      <Rings v={v} />
      <button type="button" onClick={() => void link.flush()}>
        Try again
      </button>
    </section>
  );
}

export function Rings({ v }: { v: View }) {
  if (v.call.length === 0) return <p>Nobody's number is written down: ask the production office for the workshop.</p>;
  return (
    <ul className="plain">
      {v.call.map((r) => (
        <li key={r.name}>
          <a className="ring" href={`tel:${r.phone.replace(/\s/g, "")}`}>
            {r.name} <b>{r.phone}</b>
          </a>
        </li>
      ))}
    </ul>
  );
}

function Keeps({ link, v }: { link: Linked; v: View }) {
  const maps = [...new Set(v.run.steps.filter((s) => s.marks.length > 0).map((s) => s.piece))];
  const { works, why, offer, install } = useInstall(link.api.at, [
    ...v.pictures.map((p) => `/pictures/${p.sha256}`),
    ...maps.map((p) => `/maps/${p}`),
  ]);
  if (link.cannotKeep) return <p className="look">This browser keeps nothing: leave the page open until everything is sent.</p>;
  return (
    <>
      <p className="muted" data-testid="keeps">
        {works ? "This page opens without a connection, with its steps, clocks, pictures and maps." : why}
      </p>
      {offer && (
        <button type="button" onClick={install}>
          Put it on this phone
        </button>
      )}
    </>
  );
}

/** A choice that stays on the device. */
function useKept(name: string) {
  const [is, set] = useState(() => localStorage.getItem(`yewmoor.artist.${name}`) === "1");
  return [
    is,
    (to: boolean) => {
      localStorage.setItem(`yewmoor.artist.${name}`, to ? "1" : "0");
      set(to);
    },
  ] as const;
}
