import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { linkOf, No, type View } from "./api";
import { newKey } from "./key";
import { forget, keep, keepView, keptView, markOf, sendAll, type Waiting, waiting } from "./waiting";

const HEAR_MS = 5_000;
const SEND_MS = 15_000;

/** What a thing that waits is beside its key, link and time. */
export type ToSend = Waiting extends infer W ? (W extends Waiting ? Omit<W, "key" | "link" | "at" | "stopped"> : never) : never;

/**
 * A kit behind a link: its newest answer, what waits here to be sent, and whether there is a line. It asks every few seconds while it is
 * looked at; what is written is kept on the device first and told then.
 */
export function useLink(token: string) {
  const api = useMemo(() => linkOf(token), [token]);
  const mark = useMemo(() => markOf(token), [token]);
  const [view, setView] = useState<View>();
  const [fetchedAt, setFetchedAt] = useState(0);
  const [ended, setEnded] = useState("");
  const [offline, setOffline] = useState(!navigator.onLine);
  const [waits, setWaits] = useState<Waiting[]>([]);
  const [cannotKeep, setCannotKeep] = useState(false);
  const busy = useRef(false);

  const took = useCallback(
    (v: View) => {
      setView(v);
      const at = Date.now();
      setFetchedAt(at);
      setOffline(false);
      void keepView(mark, v, at).catch(() => setCannotKeep(true));
    },
    [mark],
  );
  const failed = useCallback(
    async (e: unknown) => {
      if (!(e instanceof No)) throw e;
      if (e.code === "link_ended") {
        setEnded(e.message);
        setView(undefined);
        await forget(mark).catch(() => undefined);
        navigator.serviceWorker?.controller?.postMessage("forget");
      } else if (e.status === 0 || e.status >= 500) setOffline(true);
    },
    [mark],
  );

  /** Sends what waits and reads anew; one round at a time. */
  const flush = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    try {
      const v = await sendAll(api, mark);
      if (v) took(v);
    } catch (e) {
      await failed(e);
    } finally {
      busy.current = false;
      setWaits(await waiting(mark).catch(() => []));
    }
  }, [api, mark, took, failed]);

  const read = useCallback(async () => {
    try {
      const v = await api.view();
      // A worker may answer from what it kept: what is older than what stands here is not taken for new.
      took(v);
    } catch (e) {
      await failed(e);
      const kept = await keptView(mark).catch(() => undefined);
      if (kept && e instanceof No && e.code !== "link_ended") {
        setView((had) => had ?? kept.view);
        setFetchedAt((had) => had || kept.at);
      }
    }
  }, [api, mark, took, failed]);

  useEffect(() => {
    void waiting(mark)
      .then(setWaits)
      .catch(() => setCannotKeep(true));
    void keptView(mark)
      .catch(() => undefined)
      .then((kept) => {
        if (kept) {
          setView((had) => had ?? kept.view);
          setFetchedAt((had) => had || kept.at);
        }
        return read();
      })
      .then(flush);
  }, [mark, read, flush]);

  const heard = useRef("");
  useEffect(() => {
    const hear = async () => {
      if (document.hidden) return;
      try {
        const h = await api.heard();
        setOffline(false);
        const now = JSON.stringify([h.recalls, h.answers, h.ticks]);
        if (heard.current !== "" && heard.current !== now) await read();
        heard.current = now;
        setView((v) => (v ? { ...v, recalls: h.recalls, asked_at: h.asked_at } : v));
        if ((await waiting(mark)).some((w) => !w.stopped)) await flush();
      } catch (e) {
        await failed(e);
      }
    };
    const timer = window.setInterval(() => void hear(), HEAR_MS);
    const again = window.setInterval(() => void flush(), SEND_MS);
    const back = () => void hear();
    window.addEventListener("online", back);
    document.addEventListener("visibilitychange", back);
    return () => {
      window.clearInterval(timer);
      window.clearInterval(again);
      window.removeEventListener("online", back);
      document.removeEventListener("visibilitychange", back);
    };
  }, [api, mark, read, flush, failed]);

  /** Keeps something on the device and sends it when it can. Answers its key. */
  const put = useCallback(
    async (things: ToSend[], first?: string): Promise<string> => {
      const key = first ?? newKey();
      let n = 0;
      for (const t of things) {
        await keep({ ...t, key: n === 0 ? key : newKey(), link: mark, at: Date.now() + n } as Waiting);
        n++;
      }
      setWaits(await waiting(mark));
      void flush();
      return key;
    },
    [mark, flush],
  );

  return { api, view, fetchedAt, ended, offline, waits, cannotKeep, put, flush };
}
export type Linked = ReturnType<typeof useLink>;
