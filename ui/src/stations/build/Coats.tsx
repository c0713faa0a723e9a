import { Box, Grid } from "@chakra-ui/react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { clockTime, dayTime, isoDay } from "../../parts/format";

type Plan = Schemas["BuildCoatPlan"];

const names: Record<Plan["plan"], string> = {
  now: "the next now, others at recoat-ready",
  recoat: "each at recoat-ready",
  dry: "each once the one below is dry",
  wet_on_wet: "all wet on wet",
};

/** What the coats to come cost: the price of going on now, and each way beside the others. */
export function Coats({ run, held }: { run: string; held: boolean }) {
  const plans = useRead({
    queryKey: ["coat plans", run],
    queryFn: () => ask(api.GET("/api/runs/{code}/coats", { params: { path: { code: run } } })),
    refetchInterval: 60_000,
  });
  const of = (plan: Plan["plan"]) => plans.data?.plans.find((p) => p.plan === plan);
  const now = of("now");
  const wait = of("recoat");
  if (!plans.data || !now || !wait) return null;
  // One coat alone goes on now or wet on wet: the same.
  const shown = plans.data.plans.filter((p) => plans.data.coats > 1 || p.plan !== "wet_on_wet");
  const soonest = shown.reduce((a, b) => ((b.dry_at ?? "~") < (a.dry_at ?? "~") ? b : a));
  const first = now.next_at ?? "";
  const at = (iso?: string) => (iso ? (isoDay(new Date(iso)) === isoDay(new Date(first)) ? clockTime(iso) : dayTime(iso)) : "not in sixty days");
  const costs = now.dry_at !== wait.dry_at && (!now.dry_at || !wait.dry_at || new Date(now.dry_at) > new Date(wait.dry_at));
  return (
    <Box mb="12px" fontSize="16px" data-testid="coat-price">
      {held && (
        <Box>
          Not before <b>{at(wait.next_at)}</b>
          {costs ? (
            <>
              : put on now, all of it is dry at <b>{at(now.dry_at)}</b> instead of <b>{at(wait.dry_at)}</b>.
            </>
          ) : (
            "; put on now it dries no later, by the model."
          )}
        </Box>
      )}
      {held && plans.data.trapped && <Box color="rust">{plans.data.trapped}</Box>}
      <details>
        <summary>{plans.data.coats === 1 ? "The last coat" : `${plans.data.coats} coats to come`}, each way</summary>
        <Grid templateColumns="minmax(0,1.6fr) 1fr 1fr" gap="2px 14px" mt="4px" fontSize="15px">
          <Box color="muted">put on</Box>
          <Box color="muted">the last goes on</Box>
          <Box color="muted">dry through</Box>
          {shown.map((p) => (
            <Row key={p.plan} name={names[p.plan]} last={at(p.last_at)} dry={at(p.dry_at)} best={p === soonest} />
          ))}
        </Grid>
        <Box layerStyle="small">As the model is, a third sooner or half as long again until this place is learned.</Box>
      </details>
    </Box>
  );
}

function Row({ name, last, dry, best }: { name: string; last: string; dry: string; best: boolean }) {
  return (
    <>
      <Box fontWeight={best ? 600 : 400}>{name}</Box>
      <Box>{last}</Box>
      <Box fontWeight="600">{dry}</Box>
    </>
  );
}
