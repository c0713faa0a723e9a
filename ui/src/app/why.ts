import { useSyncExternalStore } from "react";
import type { Schemas } from "./api";

/** The code of an act that goes on as soon as somebody says why. */
export const SAY_WHY = "say_why";

/** The header that carries the reason. */
export const BECAUSE = "Because";

/** A reason as a header carries it: headers hold no letters beyond the plainest. */
export const encoded = (why: string) => encodeURIComponent(why);

/** What speaks against an act, while somebody is asked why it goes on. */
export interface Question {
  detail: string;
  finding?: Schemas["CraftRulesFinding"];
  /** Answers it; undefined leaves the act undone. */
  answer: (why: string | undefined) => void;
}

let open: Question | undefined;
const hear = new Set<() => void>();

function put(q: Question | undefined) {
  open = q;
  for (const f of hear) f();
}

/** Asks whoever did something why they go on with it; undefined when they do not, or nobody can be asked. */
export function whyAsked(detail: string, finding?: Schemas["CraftRulesFinding"]): Promise<string | undefined> {
  if (open || hear.size === 0) return Promise.resolve(undefined);
  return new Promise((resolve) => {
    put({
      detail,
      finding,
      answer: (why) => {
        put(undefined);
        resolve(why);
      },
    });
  });
}

const listen = (f: () => void) => {
  hear.add(f);
  return () => {
    hear.delete(f);
    if (hear.size === 0) open?.answer(undefined);
  };
};

/** The question that stands open, if one does. */
export const useQuestion = () => useSyncExternalStore(listen, () => open);
