import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask } from "../../app/api";
import { useRead } from "../../app/read";
import { useFound, usePiece } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { RoomHead } from "../../parts/Room";
import { Tag } from "../../parts/Tag";
import { Laid } from "./Laid";
import { LayOut } from "./LayOut";
import { to } from "./Moulds";

/** The build sheet of a piece's next mould: laid out, worked through, printed. */
export function PlanDesk({ code }: { code: string }) {
  const piece = usePiece(code);
  const plan = useRead({
    queryKey: ["mould plan", code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/mould-plan", { params: { path: { code } } })),
  });
  const moulds = useRead({ queryKey: ["moulds", code], queryFn: () => ask(api.GET("/api/moulds", { params: { query: { piece: code } } })) });
  const [anew, setAnew] = useState(false);
  const found = useFound(code).data;
  useInHand(code);
  if (!piece.data || !plan.data) return null;
  const laid = plan.data.sheet && !anew;
  return (
    <Box>
      <RoomHead
        code={code}
        to={`/piece/${code}`}
        title={piece.data.name}
        aside={laid ? `${plan.data.sheet?.order.kind} of ${plan.data.sheet?.order.stuff}` : "lay out the build sheet of its mould"}
        acts={
          <Flex gap="8px" align="center" wrap="wrap">
            {moulds.data?.map((m) => (
              <Tag key={m.code} code={m.code} to={to(m.code)} />
            ))}
            {laid && (
              <a href={`/api/pieces/${code}/mould-plan.pdf`} target="_blank" rel="noreferrer" style={{ textDecoration: "underline" }}>
                Print the build sheet
              </a>
            )}
          </Flex>
        }
      />
      {plan.data.held && (
        <Box color="gorse" fontWeight="600" mb="8px">
          The sculpt is not through its gate: {plan.data.held}{" "}
          <Link to={`/sculpt/${code}?leaf=Gate`} style={{ textDecoration: "underline" }}>
            To its gate
          </Link>
        </Box>
      )}
      {!!found?.places.length && (
        <Box color="gorse" fontWeight="600" mb="8px">
          To mend on the sculpt first: {found.places.map((p) => p.words).join("; ")}.{" "}
          <Link to={`/form/${code}`} style={{ textDecoration: "underline" }}>
            Look at it
          </Link>
        </Box>
      )}
      {laid ? <Laid plan={plan.data} code={code} anew={() => setAnew(true)} /> : <LayOut plan={plan.data} code={code} done={() => setAnew(false)} />}
    </Box>
  );
}
