import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { Heading } from "../../parts/controls";
import { duration } from "../../parts/format";

/** A wait is asked about for a week at most, s. */
const WEEK = 7 * 86_400;

/** What hands can do while a pot waits: the next tasks that fit into it. */
export function Meanwhile({ waitS, piece }: { waitS: number; piece: string }) {
  // To five minutes, so that the question stays the same while somebody reads.
  const fits = Math.min(WEEK, Math.floor(waitS / 300) * 300);
  const list = useRead({
    queryKey: ["meanwhile", piece, fits],
    queryFn: () => ask(api.GET("/api/meanwhile", { params: { query: { wait_s: fits, piece } } })),
    enabled: fits > 0,
  });
  if (!list.data?.length) return null;
  return (
    <Box mt="16px" maxW="640px" data-testid="meanwhile">
      <Heading aside={`fits into ${duration(fits)}`}>Meanwhile</Heading>
      {list.data.map((t) => (
        <Box key={t.title} py="3px">
          <Link to={t.link}>{t.title}</Link>{" "}
          <Box as="span" layerStyle="small">
            about {duration(t.hand_s)}
            {t.about && `, ${t.about}`}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
