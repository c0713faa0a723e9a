import { type IDBPDatabase, openDB } from "idb";
import { type Link, type NewReport, No, type Tick, type View } from "./api";

/** What is sent, but for its key, which is that of what waits. */
export type Unkeyed<T> = Omit<T, "key" | "$schema">;

/** One thing that is to be sent: its key makes that it counts once. */
export type Waiting =
  | { key: string; link: string; kind: "sign"; name: string; at: number; stopped?: string }
  | { key: string; link: string; kind: "report"; report: Unkeyed<NewReport>; at: number; stopped?: string }
  | { key: string; link: string; kind: "picture"; report: string; file: Blob; at: number; stopped?: string }
  | { key: string; link: string; kind: "tick"; tick: Unkeyed<Tick>; at: number; stopped?: string }
  | { key: string; link: string; kind: "recall"; recall: string; words: string; at: number; stopped?: string };

/** A mark of a link, so that the link itself is not written down beside what waits. */
export function markOf(token: string): string {
  let h = 0xcbf29ce484222325n;
  for (const c of token) h = BigInt.asUintN(64, (h ^ BigInt(c.charCodeAt(0))) * 0x100000001b3n);
  return h.toString(16);
}

let opened: Promise<IDBPDatabase> | undefined;
const db = () => {
  opened ??= openDB("yewmoor-artist", 1, {
    upgrade(d) {
      d.createObjectStore("waiting", { keyPath: "key" });
      d.createObjectStore("kept");
    },
  });
  return opened;
};

const urgent = (w: Waiting) => (w.kind === "report" && w.report.kind === "reaction" ? 0 : 1);

/** What waits for a link: a reaction of skin before all else, then the first written first. */
export async function waiting(link: string): Promise<Waiting[]> {
  const all = (await (await db()).getAll("waiting")) as Waiting[];
  return all.filter((w) => w.link === link).sort((a, b) => urgent(a) - urgent(b) || a.at - b.at);
}

/** It is on the device before anybody is told that it waits there. */
export async function keep(w: Waiting): Promise<void> {
  await (await db()).put("waiting", w);
}

export async function drop(key: string): Promise<void> {
  await (await db()).delete("waiting", key);
}

/** The last answer of a link, for where no worker keeps it. */
export async function keepView(link: string, v: View, at: number): Promise<void> {
  await (await db()).put("kept", { view: v, at }, link);
}

export async function keptView(link: string): Promise<{ view: View; at: number } | undefined> {
  return (await db()).get("kept", link);
}

/** Wipes what a link kept here, when it has ended. */
export async function forget(link: string): Promise<void> {
  const d = await db();
  for (const w of await waiting(link)) await d.delete("waiting", w.key);
  await d.delete("kept", link);
}

async function sendOne(api: Link, w: Waiting, now: number): Promise<View> {
  switch (w.kind) {
    case "sign":
      return api.sign(w.name);
    case "report":
      return api.report({ ...w.report, key: w.key });
    case "picture":
      return api.picture(w.report, w.key, w.file);
    case "tick":
      return api.tick({ ...w.tick, key: w.key, ago_s: Math.max(0, (now - w.at) / 1000) });
    case "recall":
      return api.recall(w.recall, w.words);
  }
}

/**
 * Sends what waits, in order. What cannot be taken just now stays; what the server says no to stays as well, with its reason, until
 * somebody looks; a picture waits for its report. Answers the newest view.
 */
export async function sendAll(api: Link, link: string): Promise<View | undefined> {
  let newest: View | undefined;
  for (const w of await waiting(link)) {
    if (w.stopped) continue;
    try {
      newest = await sendOne(api, w, Date.now());
      await drop(w.key);
    } catch (e) {
      if (!(e instanceof No)) throw e;
      if (e.code === "link_ended") throw e;
      if (!e.waits) {
        await keep({ ...w, stopped: e.message });
        continue;
      }
      if (e.status !== 429) break; // after a full hour the ticks still go
    }
  }
  return newest;
}
