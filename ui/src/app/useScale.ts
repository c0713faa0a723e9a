import { useEffect, useRef, useState } from "react";
import type { Schemas } from "./api";
import { openStream } from "./stream";

export type Reading = Omit<Schemas["MixScaleView"], "simulated">;

/**
 * The bench scale as it streams to this screen; lost is true when the line is.
 * stillS is how long its number has not moved, in seconds.
 */
export function useScale(): { reading?: Reading; lost: boolean; stillS: number } {
  const [reading, setReading] = useState<Reading>();
  const [lost, setLost] = useState(false);
  const moved = useRef({ value: Number.NaN, at: 0 });
  useEffect(
    () =>
      openStream("/api/scale/stream", {
        reading: (e) => {
          const r = JSON.parse(e.data) as Reading;
          if (r.value !== moved.current.value) moved.current = { value: r.value, at: performance.now() };
          setReading(r);
          setLost(false);
        },
        error: () => setLost(true),
      }),
    [],
  );
  return { reading, lost, stillS: (performance.now() - moved.current.at) / 1000 };
}
