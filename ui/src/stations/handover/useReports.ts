import { useEffect, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, Problem } from "../../app/api";

export interface Report {
  key: string;
  edge: number;
  colour: number;
  hold: number;
  worn_h: number;
  words: string;
}

const RETRY_MS = 30_000;

/** Where a link keeps what waits to be sent: by a mark of the link, never the link itself. */
async function placeOf(token: string): Promise<string> {
  const sum = new Uint8Array(await crypto.subtle.digest("SHA-256", new TextEncoder().encode(token)));
  return `yewmoor.artist.${[...sum.slice(0, 8)].map((b) => b.toString(16).padStart(2, "0")).join("")}`;
}

/** Wipes what a link kept here, when it has ended. */
export async function forgetLink(token: string): Promise<void> {
  localStorage.removeItem(await placeOf(token));
}

/**
 * Changes what a link keeps here and answers what waits then. It is on the
 * device before anybody is told that it waits there; what another page of the
 * same link kept meanwhile stays.
 */
async function keep(token: string, change: (w: Report[]) => Report[]): Promise<Report[]> {
  const place = await placeOf(token);
  const waiting = change(JSON.parse(localStorage.getItem(place) ?? "[]") as Report[]);
  if (waiting.length > 0) localStorage.setItem(place, JSON.stringify(waiting));
  else localStorage.removeItem(place);
  return waiting;
}

/** Why a report waits rather than being wrong: the line, the server, or too many at once. */
const waits = (p: Problem) => p.status === 0 || p.status === 429 || p.status >= 500;

/**
 * Sends an artist's reports. One that cannot be taken just now stays on this
 * device and is sent by itself; when the link has ended, nothing of it is kept.
 */
export function useReports(token: string) {
  const [waiting, setWaiting] = useState<Report[]>([]);
  useEffect(() => {
    void keep(token, (w) => w).then(setWaiting);
  }, [token]);
  const send = useAct(async (report: Report) => {
    try {
      await ask(api.POST("/api/artist/{token}/reports", { params: { path: { token } }, body: report }));
      setWaiting(await keep(token, (w) => w.filter((x) => x.key !== report.key)));
      return true;
    } catch (e) {
      if (!(e instanceof Problem)) throw e;
      if (e.code === "link_ended") setWaiting(await keep(token, () => []));
      else if (waits(e)) {
        setWaiting(await keep(token, (w) => (w.some((x) => x.key === report.key) ? w : [...w, report])));
        return true;
      }
      throw e;
    }
  });
  const first = waiting[0];
  const { run } = send;
  useEffect(() => {
    if (!first) return;
    const timer = window.setInterval(() => void run(first), RETRY_MS);
    return () => window.clearInterval(timer);
  }, [first, run]);
  return { send, waiting };
}
