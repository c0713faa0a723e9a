import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useForms } from "../../app/reads";
import { Entry, Figure, Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { day, words } from "../../parts/format";
import { RoomHead } from "../../parts/Room";
import { SurfaceView } from "../../parts/surface/SurfaceView";
import { Tag } from "../../parts/Tag";
import { ScanList, TakeScan } from "./ScanList";
import { useScans } from "./useScans";

/** One form: its scan from all sides, how it was taken, where it stands, what is built on it. */
export function FormPage({ code }: { code: string }) {
  const forms = useForms();
  const scans = useScans({ form: code });
  const [held, setHeld] = useState<number>();
  const f = forms.data?.find((x) => x.code === code);
  if (!forms.data || !scans.data) return null;
  if (!f) return <Teach>There is no form {code}.</Teach>;
  const shown = scans.data.scans.find((s) => s.id === held) ?? scans.data.scans.find((s) => s.looked) ?? scans.data.scans[0];
  return (
    <Box>
      <RoomHead
        code={f.code}
        title={`${f.performer ?? "General"}, ${words(f.region)}`}
        aside={`${f.kind}, ${f.material}, made ${day(f.made_on)}`}
        acts={
          <a href={`/api/forms/${f.code}/label.pdf`} target="_blank" rel="noreferrer" style={{ textDecoration: "underline" }}>
            Print its tag
          </a>
        }
      />
      <Grid templateColumns={{ base: "1fr", lg: "574px minmax(0,1fr)" }} gap="26px">
        <Box>
          {shown?.looked ? (
            <SurfaceView
              sha={shown.looked.surface}
              title={`Form ${f.code}`}
              height={420}
              flat={(side) => `/api/scans/${shown.id}/map.png?view=${side}`}
            />
          ) : (
            <Teach>No scan yet. With one, every sculpt on this form can be measured over it: thickness, core contact, undercuts.</Teach>
          )}
        </Box>
        <Flex direction="column" gap="14px">
          <Box>
            <Heading aside={`${scans.data.scans.length} kept`}>Scans of it</Heading>
            <TakeScan of={{ form: code }} done={setHeld} />
            <ScanList scans={scans.data.scans} held={shown?.id} hold={setHeld} />
          </Box>
          <Condition key={f.version} form={f} />
          <Box>
            <Heading>What is built on it</Heading>
            <Flex gap="8px" wrap="wrap">
              {(f.pieces ?? "")
                .split(", ")
                .filter(Boolean)
                .map((p) => (
                  <Tag key={p} code={p} to={`/form/${p}`} />
                ))}
              {!f.pieces && <Box color="muted">nothing yet</Box>}
            </Flex>
            {f.moulds && <Figure label="Core of">{f.moulds}</Figure>}
          </Box>
        </Flex>
      </Grid>
    </Box>
  );
}

function Condition({ form: f }: { form: Schemas["Form"] }) {
  const [place, setPlace] = useState(f.place);
  const [state, setState] = useState(f.state);
  const [how, setHow] = useState(f.taken_how);
  const keep = useAct(() =>
    ask(api.PUT("/api/forms/{code}", { params: { path: { code: f.code } }, body: { place, state, taken_how: how, version: f.version } })),
  );
  const changed = place !== f.place || state !== f.state || how !== f.taken_how;
  return (
    <Box>
      <Heading>Where and how it is</Heading>
      <Grid templateColumns="1fr 1fr" gap="8px">
        <Entry label="Stands" name="place" value={place} set={setPlace} problem={keep.problem} />
        <Entry label="Condition" name="state" value={state} set={setState} problem={keep.problem} placeholder="chipped at the brow" />
      </Grid>
      <Flex gap="8px" align="end" mt="6px">
        <Entry label="How it was taken" name="taken_how" value={how} set={setHow} problem={keep.problem} />
        <Plain h="40px" flexShrink="0" disabled={!changed || keep.busy} onClick={() => void keep.run()}>
          Write it down
        </Plain>
      </Flex>
      <Refusal problem={keep.problem} />
    </Box>
  );
}
