import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, ask, offline, Problem, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";

type Mark = Schemas["CraftWearmapMark"];
type Look = Schemas["BriefLook"];

interface Draft {
  marks: Mark[];
  version: number;
}

const REST_MS = 600;

/** Marks that belong to the look and to the wearer: shown at once, kept when the hand rests. */
export function useOwnMarks(p: Schemas["PieceView"], view: Schemas["BriefView"] | undefined, may: boolean) {
  const queries = useQueryClient();
  const performer = p.performer_id;
  const character = useRead({
    queryKey: ["character", p.character_code],
    queryFn: () => ask(api.GET("/api/characters/{code}", { params: { path: { code: p.character_code } } })),
  });
  const own = useRead({
    queryKey: ["wearer marks", performer],
    enabled: !!performer,
    queryFn: () => ask(api.GET("/api/performers/{id}/marks", { params: { path: { id: performer ?? 0 } } })),
  });
  // What is drawn stands on the version that was seen when it was begun: a newer one makes a conflict, never a silent change.
  const [drafts, setDrafts] = useState<{ look?: Draft; wearer?: Draft }>({});
  const [problem, setProblem] = useState<Problem>();
  const timers = useRef<{ look?: number; wearer?: number }>({});
  const look: Look | undefined = character.data?.looks.find((l) => l.name === view?.look);
  const drawn = useRef<{ look?: Draft; wearer?: Draft }>({});
  const put = (of: "look" | "wearer", draft: Draft | undefined) => {
    drawn.current = { ...drawn.current, [of]: draft };
    setDrafts(drawn.current);
  };
  // Another look has marks of its own.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when another look is shown
  useEffect(() => put("look", undefined), [view?.look]);

  const keep = async (of: "look" | "wearer") => {
    const draft = drawn.current[of];
    if (!draft) return;
    const { marks, version } = draft;
    try {
      if (of === "look" && look) {
        const { name, stage, left_half, right_half, note, pieces } = look;
        await ask(
          api.PUT("/api/characters/{code}/looks", {
            params: { path: { code: p.character_code } },
            body: { name, stage, left_half, right_half, note, pieces, marks, version },
          }),
        );
      } else if (of === "wearer" && performer) {
        await ask(api.PUT("/api/performers/{id}/marks", { params: { path: { id: performer } }, body: { marks, version } }));
      }
      await queries.invalidateQueries({ predicate: (q) => ["character", "wearer marks", "brief"].includes(String(q.queryKey[0])) });
      // What was drawn while this was under way stands on what was just kept.
      const now = drawn.current[of];
      put(of, now === draft || !now ? undefined : { ...now, version: version + 1 });
      setProblem(undefined);
    } catch (e) {
      setProblem(e instanceof Problem ? e : offline());
    }
  };
  const latest = useRef(keep);
  latest.current = keep;
  // One at a time, in the order in which they were drawn.
  const running = useRef(Promise.resolve());

  return {
    looks: character.data?.looks ?? [],
    look: drafts.look?.marks ?? look?.marks ?? [],
    wearer: drafts.wearer?.marks ?? own.data?.marks ?? [],
    problem,
    /** Lets what could not be kept go, and shows what stands there. */
    letGo: () => {
      window.clearTimeout(timers.current.look);
      window.clearTimeout(timers.current.wearer);
      put("look", undefined);
      put("wearer", undefined);
      setProblem(undefined);
    },
    set: may
      ? (of: "look" | "wearer", marks: Mark[]) => {
          const seen = (of === "look" ? look?.version : own.data?.version) ?? 0;
          put(of, { marks, version: drawn.current[of]?.version ?? seen });
          window.clearTimeout(timers.current[of]);
          timers.current[of] = window.setTimeout(() => {
            running.current = running.current.then(() => latest.current(of));
          }, REST_MS);
        }
      : undefined,
  };
}
