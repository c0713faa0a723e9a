import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { clockTime, duration } from "../../parts/format";

/** What the pots did while nobody was in the shop; nothing where somebody always was. */
export function Night() {
  const night = useRead({ queryKey: ["night"], queryFn: () => ask(api.GET("/api/night")) });
  const n = night.data;
  if (!n?.from || !n.to) return null;
  if (n.rang.length === 0 && n.silent_s === 0) return null;
  return (
    <Box mb="14px" borderBottomWidth="1px" borderColor="line" pb="8px" data-testid="night">
      <details>
        <summary>
          <b>
            While nobody was here, {clockTime(n.from)} to {clockTime(n.to)}
          </b>
          : {n.rang.length === 0 ? "no pot came to its time" : `${n.rang.length === 1 ? "one pot" : `${n.rang.length} pots`} came to their time`}
          {n.rang.some((r) => r.late) && ", one of them too late"}
          {n.silent_s > 0 && `, and no reading of the room came for ${duration(n.silent_s)}`}
        </summary>
        {n.rang.map((r) => (
          <Box key={r.pot} color={r.late ? "rust" : undefined}>
            {clockTime(r.at)} <Link to={`/build?pot=${r.pot}`}>{r.label}</Link>: {r.words}
          </Box>
        ))}
        {n.low_c !== undefined && n.top_c !== undefined && (
          <Box color="muted">
            The room was between {n.low_c.toFixed(1)} and {n.top_c.toFixed(1)} °C.
          </Box>
        )}
      </details>
    </Box>
  );
}
