import { Box, Flex, Grid } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import type { Problem } from "../app/api";
import { Choose, Entry } from "../parts/controls";
import { type Cut, type Layer, natureOf } from "../parts/section/geometry";
import { Amount, Whole } from "./entries";
import type { KindFacts } from "./kinds";

interface Props {
  layer: Layer;
  cut: Cut;
  kind?: KindFacts;
  set: (next: Partial<Layer>) => void;
  here: (name: string) => Problem | undefined;
}

const roles = ["", "base", "wash", "spatter", "shadow", "highlight", "line", "veins"] as const;

/** What a band can say besides its thickness: how, where, when, and what for. */
export function BandMore({ layer, cut, kind, set, here }: Props) {
  // Its fields are made when somebody opens it: a dragged band draws often.
  const [open, setOpen] = useState(false);
  const used = [
    layer.method,
    layer.from_mm,
    layer.side,
    layer.air,
    layer.from_run,
    layer.shows_through,
    layer.stretched,
    layer.role,
    layer.purpose,
    layer.note,
  ].filter(Boolean).length;
  return (
    <details style={{ marginTop: "8px" }} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <Box as="summary" cursor="pointer" layerStyle="note">
        How, where and what for{used > 0 && `: ${used} said`}
      </Box>
      {open && <Fields layer={layer} cut={cut} kind={kind} set={set} here={here} />}
    </details>
  );
}

function Fields({ layer, cut, kind, set, here }: Props) {
  const nature = natureOf(layer);
  const zones = cut.zones ?? [];
  return (
    <>
      <Grid templateColumns="1fr 1fr" gap="8px" mt="6px">
        {(kind?.methods?.length ?? 0) > 1 && (
          <Choose
            label="How it goes on"
            name="method"
            value={layer.method || kind?.methods?.[0] || ""}
            set={(method) => set({ method })}
            problem={here("method")}
          >
            {kind?.methods?.map((m) => (
              <option key={m} value={m}>
                {m}
              </option>
            ))}
          </Choose>
        )}
        {layer.kind === "latex" && (
          <Choose
            label="Each coat dried"
            name="air"
            value={layer.air ?? ""}
            set={(air) => set({ air: (air || undefined) as Layer["air"] })}
            problem={here("air")}
          >
            <option value="">as is usual there</option>
            <option value="still">in still air</option>
            <option value="dryer">with a dryer, on skin held to what it bears</option>
          </Choose>
        )}
        {layer.kind === "paint" && (
          <Choose label="What the colour does" name="role" value={layer.role ?? ""} set={(role) => set({ role: role as Layer["role"] })}>
            {roles.map((r) => (
              <option key={r} value={r}>
                {r || "not said"}
              </option>
            ))}
          </Choose>
        )}
        {layer.kind === "insert" && (
          <Choose label="Set in" name="fitted" value={layer.fitted ?? ""} set={(fitted) => set({ fitted: fitted as Layer["fitted"] })}>
            <option value="">not said</option>
            <option value="in the mould">in the mould</option>
            <option value="before">before it goes on</option>
            <option value="on the face">on the face</option>
          </Choose>
        )}
        <Amount
          label="Begins at"
          kind="length"
          value={layer.from_mm ?? 0}
          unit="mm"
          name="from_mm"
          set={(from_mm) => set({ from_mm: from_mm || undefined })}
          problem={here("from_mm")}
        />
        <Choose label="Side" name="side" value={layer.side ?? ""} set={(side) => set({ side: side as Layer["side"] })}>
          <option value="">both</option>
          <option value="L">wearer's left</option>
          <option value="R">wearer's right</option>
        </Choose>
        <Whole
          label="From run"
          name="from_run"
          value={layer.from_run ?? 1}
          set={(n) => set({ from_run: n > 1 ? n : undefined })}
          problem={here("from_run")}
        />
        {(layer.kind === "gelatin" || layer.kind === "insert") && (
          <Amount
            label="Goes on at"
            kind="temperature"
            value={layer.applied_c}
            unit="°C"
            name="applied_c"
            placeholder="not said"
            set={(applied_c) => set({ applied_c })}
            clear={() => set({ applied_c: undefined })}
            problem={here("applied_c")}
          />
        )}
      </Grid>
      <Flex gap="14px" wrap="wrap" mt="8px" fontSize="14.5px">
        {layer.kind === "latex" && (
          <Tick on={layer.stretched} set={(stretched) => set({ stretched })}>
            powdered while stretched
          </Tick>
        )}
        {layer.kind === "paint" && (
          <Tick on={layer.shows_through} set={(shows_through) => set({ shows_through })}>
            meant to show through
          </Tick>
        )}
        {layer.kind === "insert" && (
          <Tick on={layer.sharp} set={(sharp) => set({ sharp })}>
            pins, points or wires
          </Tick>
        )}
        {nature === "film" && zones.length > 1 && (
          <Tick on={!!layer.zone_coats?.length} set={(on) => set({ zone_coats: on ? zones.map(() => layer.coats ?? 1) : undefined })}>
            coats differ by zone
          </Tick>
        )}
      </Flex>
      {nature === "film" && !!layer.zone_coats?.length && (
        <Grid templateColumns="repeat(3, 1fr)" gap="8px" mt="6px">
          {zones.map((z, i) => (
            <Whole
              key={z.name}
              label={z.name || `zone ${i + 1}`}
              name="zone_coats"
              value={layer.zone_coats?.[i] ?? 0}
              set={(n) => set({ zone_coats: zones.map((_, k) => (k === i ? n : (layer.zone_coats?.[k] ?? 0))) })}
              problem={i === 0 ? here("zone_coats") : undefined}
            />
          ))}
        </Grid>
      )}
      <Flex direction="column" gap="8px" mt="8px">
        <Entry
          label="What it is for, when nothing of it shows"
          name="purpose"
          value={layer.purpose ?? ""}
          set={(purpose) => set({ purpose: purpose || undefined })}
        />
        <Entry label="Note" name="note" value={layer.note ?? ""} set={(note) => set({ note: note || undefined })} />
      </Flex>
    </>
  );
}

/** A box to tick, with its words. */
export function Tick({ on, set, children }: { on?: boolean; set: (on: boolean) => void; children: ReactNode }) {
  return (
    <Flex as="label" align="center" gap="7px" cursor="pointer">
      <input type="checkbox" checked={!!on} onChange={(e) => set(e.target.checked)} />
      {children}
    </Flex>
  );
}
