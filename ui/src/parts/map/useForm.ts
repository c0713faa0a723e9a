import { useEffect, useMemo, useState } from "react";
import { api, ask, type Schemas } from "../../app/api";
import { type Net, sightOf } from "./form";

// A form never changes under its stamp, so it is read once and kept; a hint
// that something changed somewhere does not ask for it again.
const kept = new Map<string, Promise<unknown>>();
const here = new Map<string, unknown>();
const most = 120;

function once<T>(key: string, read: () => Promise<T>): Promise<T> {
  let promise = kept.get(key) as Promise<T> | undefined;
  if (!promise) {
    promise = read();
    kept.set(key, promise);
    promise.then(
      (value) => here.set(key, value),
      () => kept.delete(key),
    );
    if (kept.size > most) {
      const oldest = kept.keys().next().value as string;
      kept.delete(oldest);
      here.delete(oldest);
    }
  }
  return promise;
}

type View = Schemas["CraftFormView"];

function useOnce<T>(key: string | undefined, read: () => Promise<T>): T | undefined {
  const [answer, setAnswer] = useState<{ key: string; value: T }>();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says what is read
  useEffect(() => {
    if (!key || here.has(key)) return;
    let wanted = true;
    let again: number | undefined;
    const go = () =>
      once(key, read).then(
        (value) => wanted && setAnswer({ key, value }),
        () => {
          if (wanted) again = window.setTimeout(go, 2_000);
        },
      );
    void go();
    return () => {
      wanted = false;
      window.clearTimeout(again);
    };
  }, [key]);
  // What is here already is shown in the same frame.
  if (key && here.has(key)) return here.get(key) as T;
  return answer?.value;
}

const readView = (id: number, sheet: string, yaw: number, pitch: number) =>
  ask(api.GET("/api/performers/{id}/map/{sheet}/view", { params: { path: { id, sheet }, query: { yaw, pitch } } }));

const viewKey = (stamp: string, sheet: string, yaw: number, pitch: number) => `view ${stamp} ${sheet} ${yaw} ${pitch}`;

/** The net of a sheet of a wearer's map. */
export function useNet(performer: number, sheet: string, stamp: string | undefined): Net | undefined {
  const net = useOnce<Net>(stamp && `net ${stamp} ${sheet}`, () =>
    ask(api.GET("/api/performers/{id}/map/{sheet}", { params: { path: { id: performer, sheet } } })),
  );
  return net?.name === sheet ? net : undefined;
}

/** A wearer's form, seen from one side: its net, its drawing, and the sight that places marks on it. */
export function useForm(performer: number, sheet: string, stamp: string | undefined, yaw: number, pitch: number) {
  const net = useNet(performer, sheet, stamp);
  const view = useOnce<View>(stamp && viewKey(stamp, sheet, yaw, pitch), () => readView(performer, sheet, yaw, pitch));
  // Until the drawing of this side is there, the form stays as it was seen last.
  const sight = useMemo(() => (net && view ? sightOf(net, view.yaw, view.pitch) : undefined), [net, view]);
  useEffect(() => {
    if (!stamp || !net || net.yaws.length < 2) return;
    for (const next of [yaw - 15, yaw + 15]) {
      const to = next > 180 ? next - 360 : next < -165 ? next + 360 : next;
      void once(viewKey(stamp, sheet, to, pitch), () => readView(performer, sheet, to, pitch)).catch(() => undefined);
    }
  }, [stamp, net, sheet, yaw, pitch, performer]);
  return { net, view: net ? view : undefined, sight };
}
