import { Box, Flex, Grid } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import { usePiece } from "../../app/reads";
import { useInHand } from "../../app/Shell";
import { Amounts } from "../../parts/Amounts";
import { Go, Teach } from "../../parts/controls";
import { millimetres } from "../../parts/format";
import { Leaves } from "../../parts/Leaves";
import { RoomHead } from "../../parts/Room";
import { Legend, SurfaceView, useSurface } from "../../parts/surface/SurfaceView";
import { type Band, differenceBands, draftBands, greatest, type Scheme, type Surface, thicknessBands, type Vec } from "../../parts/surface/surface";
import { BuiltOn } from "./BuiltOn";
import { Change, type Changed } from "./Change";
import { marksOf } from "./marks";
import { Pull } from "./Pull";
import { ScanList, TakeScan } from "./ScanList";
import { Sides } from "./Sides";
import { Thickness } from "./Thickness";
import { type Measured, useScans } from "./useScans";
import { Weights } from "./Weights";

const leaves = ["Scans", "Thickness", "Pull", "Left and right", "Weight", "Two stages"] as const;
type Leaf = (typeof leaves)[number];

const mmBand = (bands: Band[], v: number) => bands.find((b) => v <= b.to)?.words ?? "";

/** The scans of a piece: its sculpt over its core, seen from all sides, with what that means. */
export function ScanDesk({ code }: { code: string }) {
  const piece = usePiece(code);
  const scans = useScans({ piece: code });
  const go = useNavigate();
  useInHand(code);
  const [leaf, setLeaf] = useState<Leaf>();
  const [held, setHeld] = useState<number>();
  const [spot, setSpot] = useState<string>();
  const [bare, setBare] = useState(false);
  const [change, setChange] = useState<Changed>();
  const list = scans.data?.scans ?? [];
  const scan = list.find((s) => s.id === held) ?? list.find((s) => s.measured) ?? list[0];
  const m = scan?.measured;
  const at: Leaf = leaf ?? (m ? "Thickness" : "Scans");
  const scheme: Scheme =
    at === "Two stages" && change ? "change" : !m ? "plain" : at === "Pull" ? "draft" : at === "Left and right" ? "sides" : "thickness";
  const sha =
    scheme === "change"
      ? change?.surface
      : scheme === "draft"
        ? m?.of_mould
        : scheme === "sides"
          ? m?.of_sculpt
          : scheme === "thickness"
            ? m?.over_core
            : scan?.looked?.surface;
  const surface = useSurface(sha);
  const layer = scheme === "plain" ? undefined : 0;
  const bands = useMemo(() => bandsOf(scheme, m, scan?.noise_mm ?? 0.15, surface.data), [scheme, m, scan?.noise_mm, surface.data]);
  const marks = useMemo(() => (m ? marksOf(at, m) : []), [at, m]);
  if (!piece.data || !scans.data) return null;
  const say = (value: number | undefined, where: Vec) => {
    const place = `at ${where.map((x) => x.toFixed(0)).join(", ")} mm`;
    if (scheme === "plain") return place;
    if (value === undefined) return `nothing lies over the core here, ${place}`;
    if (scheme === "draft") return value <= -45 ? `locks, ${place}` : `${value.toFixed(0)}° of draft, ${place}`;
    if (scheme === "thickness") return `${millimetres(Math.max(0, value))} thick, ${mmBand(bands, value)}, ${place}`;
    return `${value > 0 ? "+" : "−"}${millimetres(Math.abs(value))}, ${place}`;
  };
  return (
    <Box>
      <RoomHead
        code={code}
        to={`/piece/${code}`}
        title={piece.data.name}
        aside={
          m
            ? `${scan?.stage || scan?.name} over ${scans.data.cores.find((c) => c.id === scan?.core)?.form ?? "its core"}`
            : "scans over the bare core"
        }
        acts={m ? <Go act={() => go(`/mould/${code}`)}>Plan its mould</Go> : undefined}
      />
      <Grid templateColumns={{ base: "1fr", lg: "574px minmax(0,1fr)" }} gap="26px">
        <Box>
          {sha ? (
            <>
              <SurfaceView
                sha={sha}
                title={`${code}, ${at.toLowerCase()}`}
                layer={layer}
                bands={() => bands}
                lifted={scheme === "thickness" && !bare}
                marks={scheme === "change" ? [] : marks}
                held={spot}
                hold={setSpot}
                line={at === "Pull" ? (m?.parting as Vec[][] | undefined) : undefined}
                say={say}
                flat={scan ? (side) => `/api/scans/${scan.id}/map.png?view=${side}` : undefined}
                height={392}
              />
              {bands.length > 0 && <Legend bands={bands} unit={scheme === "draft" ? "" : "mm"} />}
              {scheme === "thickness" && (
                <Flex gap="14px" mt="6px" align="center" fontSize="14px" wrap="wrap">
                  <label>
                    <input type="checkbox" checked={bare} onChange={(e) => setBare(e.target.checked)} /> on the bare core
                  </label>
                  <a href={`/api/scans/${scan?.id}/thickness.pdf`} target="_blank" rel="noreferrer" style={{ textDecoration: "underline" }}>
                    four sides on paper
                  </a>
                  <Link to={`/piece/${code}`} style={{ textDecoration: "underline" }}>
                    into its section
                  </Link>
                </Flex>
              )}
            </>
          ) : (
            <Teach>
              No scan of {code} yet. Scan the bare core before you sculpt, and the clay on it after: the difference is the piece. Without a scanner,
              weigh the clay in Sculpt.
            </Teach>
          )}
        </Box>
        <Box minW="0">
          <Leaves of={code} list={leaves} leaf={at} choose={setLeaf} />
          <Box mt="10px">
            {at === "Scans" && (
              <Flex direction="column" gap="12px">
                <BuiltOn code={code} />
                <TakeScan of={{ piece: code }} stages core={scans.data.cores[0]?.id} done={setHeld} />
                <ScanList scans={list} cores={scans.data.cores} held={scan?.id} hold={setHeld} />
              </Flex>
            )}
            {at !== "Scans" && at !== "Two stages" && !m && (
              <Teach>
                {scan ? "It is not measured yet: choose the core that it lies over in Scans." : "There is no scan yet; take one in Scans."}
              </Teach>
            )}
            {m && at === "Thickness" && <Thickness m={m} spot={spot} hold={setSpot} />}
            {m && scan && at === "Pull" && <Pull m={m} scan={scan} spot={spot} hold={setSpot} />}
            {m && at === "Left and right" && <Sides m={m} />}
            {m && at === "Weight" && (
              <Flex direction="column" gap="16px">
                <Weights m={m} code={code} />
                <Amounts code={code} />
              </Flex>
            )}
            {at === "Two stages" && <Change scans={list} show={setChange} />}
          </Box>
        </Box>
      </Grid>
    </Box>
  );
}

function bandsOf(scheme: Scheme, m: Measured | undefined, eps: number, s: Surface | undefined): Band[] {
  switch (scheme) {
    case "thickness":
      return m ? thicknessBands(eps, m.thin_under_mm, m.thickness.max) : [];
    case "draft":
      return draftBands;
    case "sides":
      return differenceBands(m?.sides?.p95 ?? 1);
    case "change":
      return differenceBands(Math.min(12, greatest(s?.layers[0], true)));
    default:
      return [];
  }
}
