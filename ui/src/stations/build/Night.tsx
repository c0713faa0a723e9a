import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { clockTime, duration } from "../../parts/format";
import { Notice } from "../../parts/Notice";

/** What the pots did while nobody was in the shop; nothing where somebody always was. */
export function Night() {
  const night = useRead({ queryKey: ["night"], queryFn: () => ask(api.GET("/api/night")) });
  const n = night.data;
  if (!n?.from || !n.to) return null;
  if (n.rang.length === 0 && n.silent_s === 0) return null;
  return (
    <Notice mb="16px" data-testid="night">
      <b>
        While nobody was here, {clockTime(n.from)} to {clockTime(n.to)}
      </b>
      {n.low_c !== undefined && n.top_c !== undefined && `: the room was between ${n.low_c.toFixed(1)} and ${n.top_c.toFixed(1)} °C`}
      {n.silent_s > 0 && `; no reading of it came for ${duration(n.silent_s)}`}.
      {n.rang.map((r) => (
        <Box key={r.pot} color={r.late ? "rust" : undefined}>
          {clockTime(r.at)} <Link to={`/build?pot=${r.pot}`}>{r.label}</Link>: {r.words}
        </Box>
      ))}
    </Notice>
  );
}
