import { useEffect, useState } from "react";
import type { Schemas } from "../../app/api";
import { openStream } from "../../app/stream";

export type Reading = Omit<Schemas["MixScaleView"], "simulated">;

/** The bench scale as it streams to this screen; lost is true when the line is. */
export function useScale(): { reading?: Reading; lost: boolean } {
  const [reading, setReading] = useState<Reading>();
  const [lost, setLost] = useState(false);
  useEffect(
    () =>
      openStream("/api/scale/stream", {
        reading: (e) => {
          setReading(JSON.parse(e.data) as Reading);
          setLost(false);
        },
        error: () => setLost(true),
      }),
    [],
  );
  return { reading, lost };
}
