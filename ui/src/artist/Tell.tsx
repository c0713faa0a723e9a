import { useEffect, useState } from "react";
import type { NewReport, Report, View } from "./api";
import { newKey } from "./key";
import { smaller } from "./smaller";
import type { Linked } from "./useLink";
import type { Unkeyed } from "./waiting";

type Kind = NonNullable<NewReport["kind"]>;
const kinds: [Kind, string][] = [
  ["arrival", "How it arrived"],
  ["lifted", "An edge lifted"],
  ["reaction", "Skin reacted"],
  ["itch", "It itches"],
  ["colour", "Colour off in this light"],
  ["touchup", "Touched up"],
  ["wear", "How long it was worn"],
  ["removal", "Taken off"],
  ["better", "A better way"],
  ["feedback", "How it did"],
];
const words = Object.fromEntries(kinds) as Record<string, string>;

type Draft = {
  kind: Kind;
  copy: string;
  layer: string;
  hour: string;
  step: string;
  worn: string;
  light: string;
  words: string;
  redness: number;
  edge: number;
  colour: number;
  hold: number;
};
const empty: Draft = {
  kind: "arrival",
  copy: "",
  layer: "",
  hour: "",
  step: "",
  worn: "",
  light: "",
  words: "",
  redness: 1,
  edge: 0,
  colour: 0,
  hold: 0,
};
const DRAFT = "yewmoor.artist.draft";

/** What happened, with pictures. It stays on the device until it is sent, and is sent once. */
export function Tell({ v, link, token }: { v: View; link: Linked; token: string }) {
  const [d, setD] = useState<Draft>(() => ({
    ...empty,
    copy: v.copies.length === 1 ? (v.copies[0]?.code ?? "") : "",
    ...JSON.parse(localStorage.getItem(DRAFT) ?? "{}"),
  }));
  const [files, setFiles] = useState<File[]>([]);
  const [said, setSaid] = useState<{ field?: string; text: string }>();
  const [working, setWorking] = useState(false);
  useEffect(() => localStorage.setItem(DRAFT, JSON.stringify(d)), [d]);
  const set = (change: Partial<Draft>) => setD({ ...d, ...change });
  const skin = d.kind === "reaction" || d.kind === "itch";
  const copy = v.copies.find((c) => c.code === d.copy);

  const send = async () => {
    const hours = (text: string, field: string) => {
      const n = Number(text.replace(",", "."));
      if (text.trim() !== "" && (!Number.isFinite(n) || n < 0 || n > 48)) throw { field, text: "Hours between 0 and 48." };
      return n || undefined;
    };
    try {
      if (skin && !d.copy) throw { field: "copy", text: "Under which piece?" };
      if (!d.words.trim() && !skin && d.kind !== "feedback" && d.kind !== "wear" && files.length === 0)
        throw { field: "words", text: "Say what happened, or add a picture." };
      if (d.kind === "feedback" && !(d.edge && d.colour && d.hold)) throw { field: "marks", text: "Give each a mark." };
      const report: Unkeyed<NewReport> = {
        kind: d.kind,
        copy: d.copy,
        layer: d.layer,
        hour_h: hours(d.hour, "hour"),
        worn_h: hours(d.worn, "worn"),
        light: d.kind === "colour" ? d.light : "",
        words: d.words.trim(),
        said_at: new Date().toISOString(),
        ...(skin ? { redness: d.redness } : {}),
        ...(d.step ? { step: d.step } : {}),
        ...(d.kind === "feedback" ? { edge: d.edge, colour: d.colour, hold: d.hold } : {}),
      };
      setWorking(true);
      const key = newKey();
      const pictures = [];
      for (const f of files) pictures.push({ kind: "picture" as const, report: key, file: await smaller(f) });
      await link.put([{ kind: "report", report }, ...pictures], key);
      setD({ ...empty, copy: d.copy });
      setFiles([]);
      setSaid({ text: "It is on this device, and is sent as soon as there is a connection." });
    } catch (e) {
      if (e instanceof Error) setSaid({ text: `It could not be kept here: ${e.message}. What you wrote still stands above.` });
      else setSaid(e as { field?: string; text: string });
    } finally {
      setWorking(false);
    }
  };
  const at = (field: string) => said?.field === field && <p className="no">{said.text}</p>;
  return (
    <>
      <section className="sheet">
        <h2>What happened?</h2>
        <div className="choices" role="radiogroup" aria-label="What it is about">
          {kinds.map(([k, text]) => (
            <label key={k} className={d.kind === k ? "chosen" : ""}>
              <input type="radio" name="kind" checked={d.kind === k} onChange={() => set({ kind: k })} />
              {text}
            </label>
          ))}
        </div>
        {skin && (
          <p className="stop">
            <b>Stop. Take it off now</b>, rinse, and ask a licensed professional. Ring the workshop as well.
          </p>
        )}
        <label>
          Piece
          <select name="copy" value={d.copy} onChange={(e) => set({ copy: e.target.value, layer: "" })}>
            <option value="">the whole kit</option>
            {v.copies.map((c) => (
              <option key={c.code} value={c.code}>
                {c.code} {c.name}
              </option>
            ))}
          </select>
        </label>
        {at("copy")}
        {copy && copy.parts.length > 0 && !skin && (
          <label>
            Layer
            <select name="layer" value={d.layer} onChange={(e) => set({ layer: e.target.value })}>
              <option value="">all of it</option>
              {copy.parts.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </select>
          </label>
        )}
        {["better", "other", "lifted"].includes(d.kind) && v.run.steps.length > 0 && (
          <label>
            Step of the morning
            <select name="step" value={d.step} onChange={(e) => set({ step: e.target.value })}>
              <option value="">none</option>
              {v.run.steps.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.text}
                </option>
              ))}
            </select>
          </label>
        )}
        {["lifted", "reaction", "itch", "touchup", "colour"].includes(d.kind) && (
          <label>
            At which hour of wear
            <input name="hour" inputMode="decimal" value={d.hour} onChange={(e) => set({ hour: e.target.value })} />
          </label>
        )}
        {at("hour")}
        {["wear", "removal", "feedback"].includes(d.kind) && (
          <label>
            Worn, hours
            <input name="worn" inputMode="decimal" value={d.worn} onChange={(e) => set({ worn: e.target.value })} />
          </label>
        )}
        {at("worn")}
        {d.kind === "colour" && (
          <label>
            In which light
            <input name="light" maxLength={40} value={d.light} onChange={(e) => set({ light: e.target.value })} />
          </label>
        )}
        {skin && <Marks name="How red" from={["a little", "red", "burning"]} value={d.redness} set={(redness) => set({ redness })} />}
        {d.kind === "feedback" && (
          <>
            <Marks name="The edge vanished" value={d.edge} set={(edge) => set({ edge })} />
            <Marks name="The colour matched" value={d.colour} set={(colour) => set({ colour })} />
            <Marks name="It held" value={d.hold} set={(hold) => set({ hold })} />
            {at("marks")}
          </>
        )}
        <label>
          In your words
          <textarea name="words" rows={3} maxLength={1000} value={d.words} onChange={(e) => set({ words: e.target.value })} />
        </label>
        {at("words")}
        <label className="pick">
          Pictures{files.length > 0 && `: ${files.length}`}
          <input
            type="file"
            name="pictures"
            accept="image/*"
            multiple
            onChange={(e) => {
              setFiles([...files, ...(e.target.files ?? [])].slice(0, 20));
              e.target.value = "";
            }}
          />
        </label>
        {files.length > 0 && (
          <button type="button" onClick={() => setFiles([])}>
            Without pictures
          </button>
        )}
        <button type="button" className="go big" disabled={working} onClick={() => void send()}>
          {working ? "Keeping it here…" : "Send it to the workshop"}
        </button>
        {said && !said.field && (
          <p role="status" data-testid="said">
            {said.text}
          </p>
        )}
      </section>
      {link.waits.length > 0 && (
        <section className="look" role="status" data-testid="waiting-reports">
          <h2>Waits on this device: {link.waits.length}</h2>
          <ul>
            {link.waits.map((w) => (
              <li key={w.key}>
                {w.kind === "report"
                  ? words[w.report.kind ?? "feedback"]
                  : w.kind === "picture"
                    ? "a picture"
                    : w.kind === "tick"
                      ? `a step: ${w.tick.step ?? "how it is"}`
                      : w.kind === "sign"
                        ? "your signature"
                        : "an answer to a recall"}
                {w.stopped && <b className="no"> not taken: {w.stopped}</b>}
              </li>
            ))}
          </ul>
          Sent by itself. Leave this page open, or come back to it.
        </section>
      )}
      <section>
        <h2>Sent</h2>
        {v.reports.length === 0 && <p className="muted">Nothing yet.</p>}
        {v.reports.map((r) => (
          <Sent key={r.id} r={r} token={token} />
        ))}
      </section>
    </>
  );
}

function Sent({ r, token }: { r: Report; token: string }) {
  return (
    <div className="sheet">
      <b>{words[r.kind] ?? "A note"}</b> {r.copy} {r.layer} {r.hour_h ? `at hour ${r.hour_h}` : ""}
      {r.edge ? `: edge ${r.edge}, colour ${r.colour}, hold ${r.hold} of 5` : ""}
      <p>{r.words}</p>
      <div className="shots">
        {r.pictures.map((p) => (
          <img key={p.key} src={`/api/artist/${token}/pictures/${p.sha256}`} alt="sent with this report" loading="lazy" />
        ))}
      </div>
      {r.answer && (
        <p className="good">
          {r.answered_by}: {r.answer}
        </p>
      )}
    </div>
  );
}

function Marks({ name, value, set, from = ["1", "2", "3", "4", "5"] }: { name: string; value: number; set: (n: number) => void; from?: string[] }) {
  return (
    <fieldset>
      <legend>{name}</legend>
      <div className="row scores">
        {from.map((text, i) => (
          <button type="button" key={text} aria-pressed={value === i + 1} aria-label={`${name}: ${text}`} onClick={() => set(i + 1)}>
            {text}
          </button>
        ))}
      </div>
    </fieldset>
  );
}
