import { useSyncExternalStore } from "react";

// Whether the server answers. Every request says how it went; screens show it
// once, at the top, and go on with what they have.
let since: number | undefined;
const listeners = new Set<() => void>();

export function lineIs(up: boolean) {
  const before = since;
  if (up) since = undefined;
  else since ??= Date.now();
  if ((before === undefined) !== (since === undefined)) for (const l of listeners) l();
}

/** Since when the server has not answered; undefined while it does. */
export function useLineDown(): number | undefined {
  return useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => since,
  );
}
