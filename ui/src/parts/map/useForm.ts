import { useEffect, useMemo, useState } from "react";
import { api, ask, type Schemas } from "../../app/api";
import { type Net, Sight } from "./form";

// A form never changes under its stamp, so it is read once and kept; a hint
// that something changed somewhere does not ask for it again.
const kept = new Map<string, Promise<unknown>>();
const most = 120;

function once<T>(key: string, read: () => Promise<T>): Promise<T> {
  let promise = kept.get(key) as Promise<T> | undefined;
  if (!promise) {
    promise = read();
    kept.set(key, promise);
    promise.catch(() => kept.delete(key));
    if (kept.size > most) kept.delete(kept.keys().next().value as string);
  }
  return promise;
}

type View = Schemas["CraftFormView"];

function useOnce<T>(key: string | undefined, read: () => Promise<T>): T | undefined {
  const [answer, setAnswer] = useState<{ key: string; value: T }>();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says what is read
  useEffect(() => {
    if (!key) return;
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
  return answer?.value;
}

const readView = (id: number, sheet: string, yaw: number, pitch: number) =>
  ask(api.GET("/api/performers/{id}/map/{sheet}/view", { params: { path: { id, sheet }, query: { yaw, pitch } } }));

const viewKey = (stamp: string, sheet: string, yaw: number, pitch: number) => `view ${stamp} ${sheet} ${yaw} ${pitch}`;

/** A wearer's form, seen from one side: its net, its drawing, and the sight that places marks on it. */
export function useForm(performer: number, sheet: string, stamp: string | undefined, yaw: number, pitch: number) {
  const net = useOnce<Net>(stamp && `net ${stamp} ${sheet}`, () =>
    ask(api.GET("/api/performers/{id}/map/{sheet}", { params: { path: { id: performer, sheet } } })),
  );
  const view = useOnce<View>(stamp && viewKey(stamp, sheet, yaw, pitch), () => readView(performer, sheet, yaw, pitch));
  const same = net?.name === sheet ? net : undefined;
  // Until the drawing of this side is there, the form stays as it was seen last.
  const sight = useMemo(() => (same && view ? new Sight(same, view.yaw, view.pitch) : undefined), [same, view]);
  useEffect(() => {
    if (!stamp || !same || same.yaws.length < 2) return;
    for (const next of [yaw - 15, yaw + 15]) {
      const to = next > 180 ? next - 360 : next < -165 ? next + 360 : next;
      void once(viewKey(stamp, sheet, to, pitch), () => readView(performer, sheet, to, pitch)).catch(() => undefined);
    }
  }, [stamp, same, sheet, yaw, pitch, performer]);
  return { net: same, view: same ? view : undefined, sight };
}
