import { useSyncExternalStore } from "react";
import { Problem, post } from "./api";

/**
 * What was entered while the server did not answer. It is kept on this device,
 * marked as waiting, and sent once, in order, when the server is back: every
 * entry carries a key, and the server counts a key once.
 */
export interface Waiting {
  key: string;
  person: number;
  path: string;
  body: Record<string, unknown>;
  /** What it is, in words: shown while it waits. */
  words: string;
  /** What it is about, so that a screen finds its own: a mix's code and line. */
  about: string;
  enteredAt: number;
  /** Why the server said no; it then waits for the person. */
  refused?: string;
}

type Entry = Omit<Waiting, "enteredAt" | "refused">;

interface Means {
  storage: Pick<Storage, "getItem" | "setItem">;
  send: (path: string, body: Record<string, unknown>) => Promise<unknown>;
  now: () => number;
}

const place = "yewmoor.waiting";

export function createOutbox({ storage, send, now }: Means) {
  let list: Waiting[] = read();
  let running: Promise<void> | undefined;
  const listeners = new Set<() => void>();
  const answered = new Set<(w: Waiting, answer: unknown) => void>();

  function read(): Waiting[] {
    try {
      return JSON.parse(storage.getItem(place) ?? "[]") as Waiting[];
    } catch {
      return [];
    }
  }
  // Another tab may have sent or added something: what is stored counts.
  const change = (by: (before: Waiting[]) => Waiting[]) => {
    list = by(read());
    storage.setItem(place, JSON.stringify(list));
    for (const l of listeners) l();
  };
  const drop = (key: string) => change((before) => before.filter((w) => w.key !== key));

  async function flushNow(person: number, first?: string): Promise<void> {
    for (const w of read()) {
      if (w.person !== person || w.refused) continue;
      const ago = Math.max(0, (now() - w.enteredAt) / 1000);
      try {
        const late = ago > 1 ? { ago_s: Math.min(86400, Math.round(ago)) } : {};
        const answer = await send(w.path, { ...w.body, key: w.key, ...late });
        // The screen takes the answer before the entry stops counting as in.
        for (const l of answered) l(w, answer);
        drop(w.key);
      } catch (e) {
        const p = e instanceof Problem ? e : undefined;
        if (!p || comesBack(p)) return;
        if (p.code === "kept") drop(w.key);
        else if (w.key === first) {
          drop(w.key);
          throw p;
        } else change((before) => before.map((x) => (x.key === w.key ? { ...x, refused: p.message } : x)));
      }
    }
  }

  return {
    /** Sends, or keeps when the server is away; throws the server's no. */
    async add(entry: Entry): Promise<"sent" | "waiting"> {
      change((before) => [...before, { ...entry, enteredAt: now() }]);
      await running?.catch(() => {});
      await flushNow(entry.person, entry.key);
      return read().some((w) => w.key === entry.key) ? "waiting" : "sent";
    },
    flush(person: number): Promise<void> {
      running ??= flushNow(person).finally(() => {
        running = undefined;
      });
      return running;
    },
    drop,
    list: () => list,
    /** Hears the server's answer to every entry. */
    onAnswer(listener: (w: Waiting, answer: unknown) => void) {
      answered.add(listener);
      return () => {
        answered.delete(listener);
      };
    },
    subscribe(listener: () => void) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
}

/** Whether it is worth sending again: the line, the database or the sign-in is away. */
export function comesBack(p: Problem): boolean {
  return p.status === 0 || p.status === 401 || p.status === 502 || p.status === 504 || (p.status === 503 && p.code !== "kept");
}

export const outbox = createOutbox({ storage: localStorage, send: post, now: Date.now });

/** What waits of this person, refused entries among it. */
export function useWaiting(person: number | undefined): Waiting[] {
  const all = useSyncExternalStore(outbox.subscribe, outbox.list);
  return all.filter((w) => w.person === person);
}
