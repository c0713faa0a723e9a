import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { useMe } from "../../app/reads";
import { Entry, Heading, Plain, Refusal, Teach } from "../../parts/controls";
import { dayTime, words as plain } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { Tag } from "../../parts/Tag";

/** What skin reacted to: where, under what, from which lots, and what it stops. Closing it clears nothing. */
export function Skin() {
  const me = useMe();
  const lead = me.data?.person?.role === "lead";
  const list = useRead({ queryKey: ["incidents"], queryFn: () => ask(api.GET("/api/incidents")) });
  if (list.error && !list.data) return <Refusal problem={list.error as never} />;
  if (!list.data) return null;
  if (list.data.length === 0) return <Teach>No skin reacted to anything that was reported. A report of it opens an incident here.</Teach>;
  return (
    <Box maxW="760px">
      {list.data.map((i) => (
        <One key={i.id} i={i} lead={lead} />
      ))}
    </Box>
  );
}

function One({ i, lead }: { i: Schemas["HandoverIncident"]; lead: boolean }) {
  const [words, setWords] = useState("");
  const close = useAct(() => ask(api.POST("/api/incidents/{id}/close", { params: { path: { id: i.id } }, body: { words } })));
  const erase = useAct(() => ask(api.DELETE("/api/incidents/{id}", { params: { path: { id: i.id } } })));
  return (
    <Box mb="22px" data-incident={i.id}>
      <Heading aside={dayTime(i.opened_at)}>
        {i.performer}, {plain(i.region)}
      </Heading>
      <Notice tone={i.closed_at ? "look" : "stop"}>
        {i.closed_at ? (
          <>
            Closed by {i.closed_by}, {dayTime(i.closed_at)}: {i.closing} <b>That clears nothing:</b> what lay there still needs licensed advice before
            it goes on this skin again.
          </>
        ) : (
          <>
            <b>Open.</b> Nothing of it goes on this skin again without licensed advice; the rule book holds it back.
          </>
        )}
      </Notice>
      <Box my="6px">
        {["", "a little red", "red", "burning"][i.redness]}
        {i.words && `: ${i.words}`}
      </Box>
      <Flex gap="8px" wrap="wrap" align="center">
        {i.copy && <Tag code={i.copy} to={`/check/${i.copy}`} />}
        {i.kit && <Tag code={i.kit} to={`/handover/${i.kit}?leaf=Came back`} />}
        {i.stuff.map((s) => (
          <Box key={s.slug}>
            {s.name}
            {s.lot && (
              <Box as="span" layerStyle="small">
                {" "}
                lot {s.lot}
              </Box>
            )}
            ;
          </Box>
        ))}
      </Flex>
      {i.planned.length > 0 && (
        <Flex gap="8px" align="center" mt="6px" wrap="wrap" color="rust">
          Planned for this wearer with something of it:
          {i.planned.map((p) => (
            <Tag key={p} code={p} to={`/piece/${p}`} />
          ))}
        </Flex>
      )}
      {i.pictures.length > 0 && i.kit && (
        <Flex gap="8px" wrap="wrap" my="6px">
          {i.pictures.map((p) => (
            <img key={p.key} src={`/api/kits/${i.kit}/pictures/${p.sha256}`} alt="the skin, as it was sent" height={110} loading="lazy" />
          ))}
        </Flex>
      )}
      {lead && (
        <Flex gap="8px" align="end" mt="6px" wrap="wrap">
          {!i.closed_at && (
            <>
              <Box flex="1">
                <Entry label="Who was asked, and what follows" name="words" value={words} set={setWords} problem={close.problem} />
              </Box>
              <Plain disabled={!words.trim() || close.busy} onClick={() => void close.run()}>
                Close it
              </Plain>
            </>
          )}
          <Box as="button" layerStyle="small" color="rust" textDecoration="underline" onClick={() => void erase.run()}>
            erase it for good
          </Box>
        </Flex>
      )}
      <Refusal problem={close.problem ?? erase.problem} />
    </Box>
  );
}
