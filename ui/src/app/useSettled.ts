import { useEffect, useState } from "react";

/** What stands in the fields once the hand rests: what is worked out from it is asked for then, not at every letter. */
export function useSettled<T>(now: T, restMs = 200): T {
  const [settled, setSettled] = useState(now);
  useEffect(() => {
    const t = window.setTimeout(() => setSettled(now), restMs);
    return () => window.clearTimeout(t);
  }, [now, restMs]);
  return settled;
}
