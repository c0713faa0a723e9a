import { Box, Flex } from "@chakra-ui/react";
import type { Schemas } from "../../app/api";
import { useMaterials } from "../../app/reads";
import { Choose, Entry, Heading, Plain } from "../../parts/controls";
import { freshId, type PlanDraft } from "./bench";
import { Figure } from "./Figure";
import { Out } from "./Out";

type Part = Schemas["CraftPlanPart"];

/** A headpiece as a tree: what hangs on what, by which joint, and what each joint must stand. */
export function Parts({ draft }: { draft: PlanDraft }) {
  const materials = useMaterials();
  const { doc, view: v } = draft;
  if (!doc || !v) return null;
  const set = (p: Part, part: Partial<Part>, now = true) => draft.change({ parts: doc.parts.map((x) => (x === p ? { ...x, ...part } : x)) }, now);
  const came = (id: string) => v.result?.joints.find((j) => j.id === id);
  // In the order of the tree where it can be told, else as they were entered.
  const order = v.result?.joints.map((j) => doc.parts.find((p) => p.id === j.id)).filter((p) => p !== undefined) ?? doc.parts;
  const list = order.length === doc.parts.length ? order : doc.parts;
  return (
    <Box mt="20px">
      <Heading>Put together of parts</Heading>
      {list.map((p) => {
        const j = came(p.id);
        return (
          <Box key={p.id} borderBottomWidth="1px" borderColor="line" py="6px" ps={`${14 * (j?.depth ?? 0)}px`}>
            <Flex gap="8px" wrap="wrap">
              <Entry label="Part" name="part" value={p.name} set={(name) => set(p, { name }, false)} width="140px" />
              <Choose label="on" name="on" value={p.on ?? ""} set={(on) => set(p, { on })} width="140px">
                <option value="">carries all</option>
                {doc.parts
                  .filter((x) => x !== p)
                  .map((x) => (
                    <option key={x.id} value={x.id}>
                      {x.name}
                    </option>
                  ))}
              </Choose>
              <Choose label="joint" name="joint" value={p.joint ?? ""} set={(joint) => set(p, { joint: joint as Part["joint"] })} width="110px">
                <option value="">–</option>
                {["glued", "sewn", "pegged", "tied", "pushed in", "screwed"].map((s) => (
                  <option key={s}>{s}</option>
                ))}
              </Choose>
              {p.joint === "glued" && (
                <Choose label="glue" name="glue" value={p.glue ?? ""} set={(glue) => set(p, { glue })} width="160px">
                  <option value="">not said</option>
                  {materials.data
                    ?.filter((m) => m.family.startsWith("adhesive"))
                    .map((m) => (
                      <option key={m.slug} value={m.slug}>
                        {m.name}
                      </option>
                    ))}
                </Choose>
              )}
              <Figure label="dries, h" value={p.dry_h} set={(dry_h) => set(p, { dry_h })} width="80px" />
              <Figure label="weighs, g" value={p.mass_g} set={(mass_g) => set(p, { mass_g })} width="90px" />
              <Entry label="kept to mend it" name="repair" value={p.repair ?? ""} set={(repair) => set(p, { repair }, false)} width="150px" />
            </Flex>
            <Flex gap="12px" align="baseline">
              {j && (
                <Box layerStyle="small">
                  {j.hangs_g.toFixed(0)} g hang here{j.pull_n > 0 && `, pull it with ${j.pull_n.toFixed(1)} N`}, dry after {j.dry_h} h
                </Box>
              )}
              <Out act={() => draft.change({ parts: doc.parts.filter((x) => x !== p) }, true)} />
            </Flex>
          </Box>
        );
      })}
      <Plain
        h="34px"
        mt="8px"
        onClick={() => draft.change({ parts: [...doc.parts, { id: freshId("p", doc.parts), name: "band", dry_h: 0, mass_g: 20, pull_n: 0 }] }, true)}
      >
        Add a part
      </Plain>
    </Box>
  );
}
