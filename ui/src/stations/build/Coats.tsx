import { Box, Grid } from "@chakra-ui/react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { colour as v } from "../../parts/colour";
import { Heading } from "../../parts/controls";
import { clockTime, dayTime, isoDay } from "../../parts/format";

type Plan = Schemas["BuildCoatPlan"];

const names: Record<Plan["plan"], string> = {
  recoat: "wait, then coat",
  now: "coat now",
  dry: "each dried first",
  wet_on_wet: "all wet on wet",
};
const meant: Record<Plan["plan"], string> = {
  recoat: "each as soon as the one below takes it",
  now: "the next at once, the others when they may",
  dry: "each once the one below is dry through",
  wet_on_wet: "three minutes apart",
};

/** What the coats to come cost, each way; asked only where a coat comes next. */
export function useCoatPlans(run: string, asked: boolean) {
  return useRead({
    queryKey: ["coat plans", run],
    queryFn: () => ask(api.GET("/api/runs/{code}/coats", { params: { path: { code: run } } })),
    refetchInterval: 60_000,
    enabled: asked,
  }).data;
}

type Plans = Schemas["BuildCoatPlans"];

const planOf = (plans: Plans, plan: Plan["plan"]) => plans.plans.find((p) => p.plan === plan);

/** Writes an end as the time of day, with its day where that is another than the first coat's. */
const clockFrom = (first: string) => (iso?: string) =>
  iso ? (isoDay(new Date(iso)) === isoDay(new Date(first)) ? clockTime(iso) : dayTime(iso)) : "not in sixty days";

/** When all would be dry, each way to put on what is still to come. */
export function Coats({ plans }: { plans?: Plans }) {
  const now = plans && planOf(plans, "now");
  const wait = plans && planOf(plans, "recoat");
  if (!plans || !now || !wait) return null;
  // One coat alone goes on now or wet on wet: the same.
  const shown = (["recoat", "now", "dry", "wet_on_wet"] as const)
    .map((p) => planOf(plans, p))
    .filter((p): p is Plan => !!p && (plans.coats > 1 || p.plan !== "wet_on_wet"));
  const at = clockFrom(now.next_at ?? "");
  const begin = new Date(now.next_at ?? "").getTime();
  const far = (iso?: string) => (iso ? new Date(iso).getTime() - begin : Number.POSITIVE_INFINITY);
  const whole = 1.15 * Math.max(1, ...shown.map((p) => far(p.dry_at)).filter(Number.isFinite));
  return (
    <Box mb="14px" data-testid="coat-plans">
      <Heading aside={`${plans.coats === 1 ? "one coat" : `${plans.coats} coats`} to come, −30/+50 %`}>When would it all be dry?</Heading>
      {shown.map((p) => (
        <Grid
          key={p.plan}
          templateColumns="minmax(0,142px) minmax(60px,1fr) auto"
          gap="10px"
          py="4px"
          alignItems="center"
          borderBottomWidth="1px"
          borderColor="line"
          title={`${meant[p.plan]}; the last one goes on ${at(p.last_at)}`}
          data-plan={p.plan}
        >
          <Box>{names[p.plan]}</Box>
          <Far share={far(p.dry_at) / whole} late={p.plan !== "recoat" && far(p.dry_at) > far(wait.dry_at) + 60_000} />
          <Box fontWeight="700" fontSize="16px" textAlign="right">
            {at(p.dry_at)}
          </Box>
        </Grid>
      ))}
    </Box>
  );
}

/** What going on now costs against waiting until the coat below takes the next. */
export function Price({ plans }: { plans?: Plans }) {
  const now = plans && planOf(plans, "now");
  const wait = plans && planOf(plans, "recoat");
  if (!plans || !now || !wait) return null;
  const at = clockFrom(now.next_at ?? "");
  const costs = now.dry_at !== wait.dry_at && (!now.dry_at || !wait.dry_at || new Date(now.dry_at) > new Date(wait.dry_at));
  return (
    <span data-testid="coat-price">
      Not before <b>{at(wait.next_at)}</b>
      {costs ? (
        <>
          : put on now, all of it is dry at <b>{at(now.dry_at)}</b> instead of <b>{at(wait.dry_at)}</b>.
        </>
      ) : (
        "; put on now it dries no later, by the model."
      )}{" "}
      {plans.trapped}
    </span>
  );
}

/** How far off an end is, with its band. */
function Far({ share, late }: { share: number; late: boolean }) {
  const x = Math.min(1, share);
  return (
    <svg width="100%" height="22" aria-hidden="true" style={{ overflow: "hidden" }}>
      <rect x="0" y="8" width={`${100 * x}%`} height="6" fill={v("line")} />
      {Number.isFinite(share) && (
        <>
          <line x1={`${70 * x}%`} x2={`${Math.min(100, 150 * x)}%`} y1="11" y2="11" stroke={v("ink")} strokeWidth="1.2" strokeDasharray="3 3" />
          <svg x={`${100 * x}%`} overflow="visible" aria-hidden="true">
            <rect x="-5" y="2" width="8" height="18" rx="2" fill={late ? v("gorseDot") : v("yew")} stroke={v("ink")} strokeWidth="1.2" />
          </svg>
        </>
      )}
    </svg>
  );
}
