import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { colour as v } from "../../parts/colour";
import { Entry, Go, Plain, Refusal, WrongAt } from "../../parts/controls";
import { grams, words } from "../../parts/format";

const ready = (state: string) => state === "dry" || state === "resting" || state === "repaired";

/** Which moulds the mix fills; the pour starts their pots. */
export function PourInto({ mix }: { mix: Schemas["MixView"] }) {
  const [chosen, setChosen] = useState<string[]>(() =>
    mix.moulds
      .filter((m) => ready(m.state))
      .slice(0, mix.pours)
      .map((m) => m.code),
  );
  const [reason, setReason] = useState("");
  const [place, setPlace] = useState("");
  const [warm, setWarm] = useState("");
  const [wet, setWet] = useState(false);
  const navigate = useNavigate();
  const bare = chosen.length === 0 && mix.moulds.length === 0;
  const pour = useAct(async (run?: string, none?: boolean) => {
    await ask(
      api.POST("/api/mixes/{code}/pour", {
        params: { path: { code: mix.code } },
        body: {
          ...(run ? { run } : { moulds: bare || none ? Array(mix.pours).fill("") : chosen }),
          reason: reason || undefined,
          place: place || undefined,
          mould_c: warm.trim() === "" ? undefined : Number(warm.replace(",", ".")),
          release_wet: wet || undefined,
        },
      }),
    );
    navigate("/build");
  });
  return (
    <Box>
      <Box fontSize="20px" color="muted" mb="8px">
        {grams(mix.mass_g)} in the cup. It fills {mix.fills.by_mass > 0 && mix.fills.per_g > 0 && `${mix.fills.by_mass}`}
        {mix.fills.next.length > 0 && `, ${mix.fills.next[0]} next`}
      </Box>
      <Flex gap="18px" wrap="wrap" mb="16px">
        {mix.moulds.map((m) => {
          const on = chosen.includes(m.code);
          const usable = ready(m.state);
          return (
            <Flex
              as="button"
              key={m.code}
              direction="column"
              align="center"
              w="150px"
              py="10px"
              opacity={usable ? 1 : 0.5}
              borderWidth="2.5px"
              borderColor={on ? "heather" : "transparent"}
              bg={on ? "heatherSoft" : "transparent"}
              borderRadius="14px"
              aria-pressed={on}
              aria-disabled={!usable}
              onClick={() => usable && setChosen(on ? chosen.filter((c) => c !== m.code) : [...chosen, m.code].slice(0, mix.pours))}
            >
              <svg viewBox="0 0 90 50" width="110" aria-hidden="true">
                <path d="M4 6h82v36q0 6-6 6H10q-6 0-6-6z" fill="url(#hatch-gypsum)" stroke={v("ink")} strokeWidth="2" />
                <path d="M22 6q6 26 23 26T68 6z" fill={on ? "url(#hatch-silicone)" : v("ground")} stroke={v("ink")} strokeWidth="2" />
              </svg>
              <b>{m.code}</b>
              <Box layerStyle="small">
                {words(m.state)}, {m.casts} casts{m.core && `, over ${m.core}`}
              </Box>
              {m.again && (
                <Box color="gorse" fontSize="13.5px">
                  comes again: {m.again}
                </Box>
              )}
            </Flex>
          );
        })}
        {mix.moulds.length === 0 && (
          <Box maxW="44ch">No mould is registered for this piece. It can be poured all the same; the copies then know no mould.</Box>
        )}
      </Flex>
      <details>
        <summary>How the mould stands</summary>
        <Flex gap="12px" wrap="wrap" align="end" my="8px">
          <Entry label="It is at, °C" name="mould_c" value={warm} set={setWarm} problem={pour.problem} width="120px" />
          <Entry label="Where it is poured and waits" name="place" value={place} set={setPlace} problem={pour.problem} width="260px" />
        </Flex>
        <Flex as="label" gap="8px" align="center" minH="32px">
          <input type="checkbox" checked={wet} onChange={(e) => setWet(e.target.checked)} />
          the release on it is not dry yet
        </Flex>
        <WrongAt problem={pour.problem} name="release_wet" />
      </details>
      {(mix.working.over || wet) && (
        <Entry
          label={mix.working.over ? "The working time is over. Why pour all the same?" : "The release is wet. Why pour all the same?"}
          name="reason"
          value={reason}
          set={setReason}
          problem={pour.problem}
          width="440px"
        />
      )}
      {mix.runs.map((r) => (
        <Box key={r} mb="10px">
          <Plain h="48px" disabled={pour.busy} onClick={() => void pour.run(r)}>
            Into {r}, which waits for it
          </Plain>
        </Box>
      ))}
      <Flex gap="16px" align="center" mt="10px">
        <Go big act={() => void pour.run()} disabled={pour.busy || (!bare && chosen.length === 0)}>
          {chosen.length > 1 ? `Poured into ${chosen.length} moulds` : "Poured"}
        </Go>
        {mix.moulds.length > 0 && chosen.length === 0 && (
          <>
            <Plain onClick={() => navigate("/mould")}>Look at the moulds</Plain>
            <Plain disabled={pour.busy} onClick={() => void pour.run(undefined, true)}>
              Into no recorded mould
            </Plain>
          </>
        )}
      </Flex>
      <Box mt="12px">
        <Refusal problem={pour.problem} />
      </Box>
    </Box>
  );
}
