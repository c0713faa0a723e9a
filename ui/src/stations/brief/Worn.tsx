import { Box, Checkbox, Flex, Grid } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { Choose, Entry, Heading } from "../../parts/controls";
import { fields } from "../../parts/Room";
import { Days } from "./Days";
import { Figure } from "./Rows";
import type { BriefDraft } from "./useBrief";

const free = ["left eye", "right eye", "nose", "one nostril", "mouth", "hearing"];
const gradeWord: Record<string, string> = { full: "full finish", good: "good at arm's length", plain: "plain", hidden: "hidden, no detail" };

/** How it is worn, and what follows: the finish of each region, when the wearer is asked and cooled, how they get out. */
export function Worn({ piece, draft }: { piece: Schemas["PieceView"]; draft: BriefDraft }) {
  const { doc, view, change, problem } = draft;
  if (!doc || !view) return null;
  const choose = <K extends "camera" | "backdrop" | "exertion" | "speech" | "water">(name: K, label: string, options: string[]) => (
    <Choose label={label} name={name} value={doc[name]} set={(v) => change({ [name]: v } as Partial<typeof doc>)} problem={problem}>
      {options.map((o) => (
        <option key={o} value={o}>
          {o}
        </option>
      ))}
    </Choose>
  );
  const figure = (label: string, value: number, set: (n: number) => void) => (
    <Box>
      <Box layerStyle="small" fontWeight="500" mb="6px">
        {label}
      </Box>
      <Figure label={label} value={value} set={set} h="40px" />
    </Box>
  );
  const out = doc.way_out;
  const plan = view.wear;
  return (
    <Flex direction="column" gap="14px">
      <Box>
        <Heading>Worn</Heading>
        <Grid templateColumns={fields("repeat(4, 1fr)")} gap="8px 10px">
          {choose("camera", "Camera", ["close", "medium", "far"])}
          {figure("Nearest, m", doc.camera_m, (camera_m) => change({ camera_m }))}
          {choose("backdrop", "Backdrop", ["plain", "dark", "busy"])}
          {figure("Worn, hours", doc.wear_hours, (wear_hours) => change({ wear_hours }))}
          {choose("exertion", "Exertion", ["acting", "still", "walking", "running"])}
          {choose("speech", "Speech", ["speaks", "few words", "none"])}
          {choose("water", "Water", ["none", "splashed", "rained on", "under water"])}
          <Checkbox.Root mt="26px" checked={doc.stunt} onCheckedChange={(e) => change({ stunt: e.checked === true })}>
            <Checkbox.HiddenInput />
            <Checkbox.Control borderColor="ink" />
            <Checkbox.Label>a stunt</Checkbox.Label>
          </Checkbox.Root>
        </Grid>
        <Flex gap="14px" wrap="wrap" mt="8px" align="center">
          <Box layerStyle="small">Must stay free</Box>
          {free.map((f) => (
            <Checkbox.Root
              key={f}
              size="sm"
              checked={doc.keep_free.includes(f)}
              onCheckedChange={(e) => change({ keep_free: e.checked ? [...doc.keep_free, f] : doc.keep_free.filter((x) => x !== f) })}
            >
              <Checkbox.HiddenInput />
              <Checkbox.Control borderColor="ink" />
              <Checkbox.Label>{f}</Checkbox.Label>
            </Checkbox.Root>
          ))}
        </Flex>
        <Grid templateColumns={fields("2fr 90px 90px 1.6fr")} gap="10px" mt="8px">
          <Entry
            label="Quick way out: what opens"
            name="way_out.closure"
            value={out.closure ?? ""}
            set={(closure) => change({ way_out: { ...out, closure } })}
            problem={problem}
          />
          {figure("Minutes", out.minutes ?? 0, (minutes) => change({ way_out: { ...out, minutes } }))}
          {figure("Helpers", out.helpers ?? 0, (helpers) => change({ way_out: { ...out, helpers: Math.round(helpers) } }))}
          <Entry label="Where exactly" name="worn" value={doc.worn} set={(worn) => change({ worn })} problem={problem} />
        </Grid>
      </Box>
      <Box>
        <Heading aside={plan.worst_day ? `worst: ${plan.worst_day}, felt as ${plan.heat_c} °C` : "no day chosen yet"}>While it is worn</Heading>
        <Flex gap="26px" wrap="wrap">
          <Told figure={`${plan.check_in_min} min`} what="between check-ins" />
          <Told figure={plan.cool_min ? `${plan.cool_min} min` : "none"} what="of each hour to cool" />
          <Told figure={plan.max_hours ? `${plan.max_hours} h` : "open"} what="at a stretch at most" />
          <Told figure={`${plan.limit_c} °C`} what="is usual for this exertion" />
        </Flex>
        {plan.why.map((w) => (
          <Box key={w} layerStyle="note">
            {w}
          </Box>
        ))}
      </Box>
      <Box>
        <Heading aside={`${plan.hours} h, ${plan.saved_hours} h saved`}>Finish by region</Heading>
        {plan.grades.length === 0 && <Box color="muted">Draw the area on the map; what each region needs then stands here.</Box>}
        {plan.grades.map((g) => (
          <Grid key={g.region + g.side} templateColumns="150px 76px 160px 1fr" gap="8px" py="1px" lineHeight="1.3">
            <Box>
              {g.side === "L" ? "left " : g.side === "R" ? "right " : ""}
              {g.text}
            </Box>
            <Box>{g.cm2.toFixed(1)} cm²</Box>
            <Box fontWeight="600">
              {gradeWord[g.grade]}, {g.hours} h
            </Box>
            <Box layerStyle="note">{g.why}</Box>
          </Grid>
        ))}
      </Box>
      <Days piece={piece} />
    </Flex>
  );
}

function Told({ figure, what }: { figure: string; what: string }) {
  return (
    <Box>
      <Box fontSize="22px" fontWeight="700" lineHeight="1.15">
        {figure}
      </Box>
      <Box layerStyle="small">{what}</Box>
    </Box>
  );
}
