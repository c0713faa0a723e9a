import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, offline, Problem, type Schemas } from "../../app/api";

type Mark = Schemas["CraftWearmapMark"];
type Look = Schemas["BriefLook"];

const REST_MS = 600;

/** Marks that belong to the look and to the wearer: shown at once, kept when the hand rests. */
export function useOwnMarks(p: Schemas["PieceView"], view: Schemas["BriefView"] | undefined, may: boolean) {
  const queries = useQueryClient();
  const performer = p.performer_id;
  const character = useQuery({
    queryKey: ["character", p.character_code],
    queryFn: () => ask(api.GET("/api/characters/{code}", { params: { path: { code: p.character_code } } })),
  });
  const own = useQuery({
    queryKey: ["wearer marks", performer],
    enabled: !!performer,
    queryFn: () => ask(api.GET("/api/performers/{id}/marks", { params: { path: { id: performer ?? 0 } } })),
  });
  const [drafts, setDrafts] = useState<{ look?: Mark[]; wearer?: Mark[] }>({});
  const [problem, setProblem] = useState<Problem>();
  const timer = useRef<number>(undefined);
  const look: Look | undefined = character.data?.looks.find((l) => l.name === view?.look);
  // Another look has marks of its own.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when another look is shown
  useEffect(() => setDrafts((d) => ({ ...d, look: undefined })), [view?.look]);

  const keep = useCallback(
    async (of: "look" | "wearer", marks: Mark[]) => {
      try {
        if (of === "look" && look) {
          const { name, stage, left_half, right_half, note, pieces, version } = look;
          await ask(
            api.PUT("/api/characters/{code}/looks", {
              params: { path: { code: p.character_code } },
              body: { name, stage, left_half, right_half, note, pieces, marks, version },
            }),
          );
        } else if (of === "wearer" && performer) {
          await ask(api.PUT("/api/performers/{id}/marks", { params: { path: { id: performer } }, body: { marks, version: own.data?.version ?? 0 } }));
        }
        await queries.invalidateQueries({ predicate: (q) => ["character", "wearer marks", "brief"].includes(String(q.queryKey[0])) });
        setDrafts((d) => ({ ...d, [of]: undefined }));
        setProblem(undefined);
      } catch (e) {
        setProblem(e instanceof Problem ? e : offline());
      }
    },
    [look, own.data?.version, p.character_code, performer, queries],
  );
  const latest = useRef(keep);
  latest.current = keep;

  return {
    looks: character.data?.looks ?? [],
    look: drafts.look ?? look?.marks ?? [],
    wearer: drafts.wearer ?? own.data?.marks ?? [],
    problem,
    set: may
      ? (of: "look" | "wearer", marks: Mark[]) => {
          setDrafts((d) => ({ ...d, [of]: marks }));
          window.clearTimeout(timer.current);
          timer.current = window.setTimeout(() => void latest.current(of, marks), REST_MS);
        }
      : undefined,
  };
}
