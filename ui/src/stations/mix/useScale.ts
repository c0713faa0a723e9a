import { useEffect, useState } from "react";
import type { Schemas } from "../../app/api";

export type Reading = Omit<Schemas["MixScaleView"], "simulated">;

/** The bench scale as it streams to this screen; lost is true when the line is. */
export function useScale(): { reading?: Reading; lost: boolean } {
  const [reading, setReading] = useState<Reading>();
  const [lost, setLost] = useState(false);
  useEffect(() => {
    const source = new EventSource("/api/scale/stream");
    source.addEventListener("reading", (e) => {
      setReading(JSON.parse((e as MessageEvent<string>).data) as Reading);
      setLost(false);
    });
    source.addEventListener("error", () => setLost(true));
    return () => source.close();
  }, []);
  return { reading, lost };
}
