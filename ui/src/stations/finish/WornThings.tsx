import { Box, Flex } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { Choose, Entry, Heading, Plain } from "../../parts/controls";
import { words } from "../../parts/format";
import { freshId, type PlanDraft } from "./bench";
import { Figure } from "./Figure";
import { Out } from "./Out";

type Worn = Schemas["CraftPlanWorn"];
const sorts: Worn["sort"][] = ["lens", "wig", "wig_cap", "pins", "glove", "shoe", "other"];

/** Lenses, wigs, caps, pins: what is worn with it and not built into it. */
export function WornThings({ draft }: { draft: PlanDraft }) {
  const { doc } = draft;
  if (!doc) return null;
  const set = (w: Worn, part: Partial<Worn>, now = true) => draft.change({ worn: doc.worn.map((x) => (x === w ? { ...x, ...part } : x)) }, now);
  return (
    <Box mt="20px">
      <Heading>Worn with it</Heading>
      {doc.worn.map((w) => (
        <Box key={w.id} borderBottomWidth="1px" borderColor="line" py="6px">
          <Flex gap="8px" wrap="wrap">
            <Choose label="It is" name="worn sort" value={w.sort} set={(sort) => set(w, { sort: sort as Worn["sort"] })} width="110px">
              {sorts.map((s) => (
                <option key={s} value={s}>
                  {words(s)}
                </option>
              ))}
            </Choose>
            <Entry label="Name" name="worn name" value={w.name} set={(name) => set(w, { name }, false)} width="150px" />
            <Figure label="how many" value={w.count} set={(count) => set(w, { count })} width="80px" />
            <Entry label="Size" name="size" value={w.size ?? ""} set={(size) => set(w, { size }, false)} width="110px" />
            <Choose label="Goes on" name="slot" value={w.slot} set={(slot) => set(w, { slot: slot as Worn["slot"] })} width="130px">
              {["first", "before colour", "last"].map((s) => (
                <option key={s}>{s}</option>
              ))}
            </Choose>
            <Entry label="because" name="slot why" value={w.slot_why ?? ""} set={(slot_why) => set(w, { slot_why }, false)} width="170px" />
            {w.sort === "lens" && (
              <>
                <Entry label="Whose" name="for" value={w.for ?? ""} set={(v) => set(w, { for: v }, false)} width="150px" />
                <Entry
                  label="Supplied and fitted by (licensed)"
                  name="fitted by"
                  value={w.fitted_by ?? ""}
                  set={(v) => set(w, { fitted_by: v }, false)}
                  width="220px"
                />
                <Figure label="at most, h" value={w.most_h} set={(most_h) => set(w, { most_h })} width="90px" />
                <Entry label="Hygiene" name="hygiene" value={w.hygiene ?? ""} set={(v) => set(w, { hygiene: v }, false)} width="220px" />
              </>
            )}
          </Flex>
          <Out act={() => draft.change({ worn: doc.worn.filter((x) => x !== w) }, true)} />
        </Box>
      ))}
      <Plain
        h="34px"
        mt="8px"
        onClick={() =>
          draft.change({ worn: [...doc.worn, { id: freshId("w", doc.worn), sort: "wig", name: "wig", most_h: 0, slot: "last", count: 1 }] }, true)
        }
      >
        Add a thing
      </Plain>
    </Box>
  );
}
