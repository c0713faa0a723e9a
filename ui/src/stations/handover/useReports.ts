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

/** Why a report waits rather than being wrong: the line, the server, or too many at once. */
const waits = (p: Problem) => p.status === 0 || p.status === 429 || p.status >= 500;

/**
 * Sends an artist's reports. One that cannot be taken just now stays on this
 * device and is sent by itself; when the link has ended, nothing of it is kept.
 */
export function useReports(token: string) {
  const [waiting, setWaiting] = useState<Report[]>([]);
  const [place, setPlace] = useState<string>();
  useEffect(() => {
    void placeOf(token).then((at) => {
      setPlace(at);
      setWaiting(JSON.parse(localStorage.getItem(at) ?? "[]") as Report[]);
    });
  }, [token]);
  useEffect(() => {
    if (!place) return;
    if (waiting.length > 0) localStorage.setItem(place, JSON.stringify(waiting));
    else localStorage.removeItem(place);
  }, [place, waiting]);
  const send = useAct(async (report: Report) => {
    try {
      await ask(api.POST("/api/artist/{token}/reports", { params: { path: { token } }, body: report }));
      setWaiting((w) => w.filter((x) => x.key !== report.key));
      return true;
    } catch (e) {
      if (!(e instanceof Problem)) throw e;
      if (e.code === "link_ended") setWaiting([]);
      else if (waits(e)) {
        setWaiting((w) => (w.some((x) => x.key === report.key) ? w : [...w, report]));
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
