import { useParams, useSearchParams } from "react-router";
import { MouldPage } from "./MouldPage";
import { Moulds } from "./Moulds";
import { PlanDesk } from "./PlanDesk";

/** The room of moulds: every one in the shop, one of them, or the build sheet of a piece's next. */
export default function Mould() {
  const { code } = useParams();
  const [search] = useSearchParams();
  const mould = search.get("mould");
  if (mould) return <MouldPage key={mould} code={mould} />;
  return code ? <PlanDesk key={code} code={code} /> : <Moulds />;
}
