/** Something that changed: a topic, and the code of the thing where there is one. */
export interface Change {
  topic: string;
  code?: string;
}

/** What an answer to an act names as changed; everything when it names nothing at all. */
export type Changes = Change[] | "everything";

/** Reads the header "Changes": "section/BF-03,pieces"; empty for nothing, absent for who knows. */
export function readChanges(header: string | null): Changes {
  if (header === null) return "everything";
  return header
    .split(",")
    .filter((word) => word !== "")
    .map((word) => {
      const [topic = "", code] = word.split("/");
      return code === undefined ? { topic } : { topic, code: decodeURIComponent(code) };
    });
}

const answered: Changes[] = [];

/** Notes what the answer to an act named; reads change nothing. */
export function heed(method: string, answer: Response): void {
  if (method === "GET" || !answer.ok) return;
  answered.push(readChanges(answer.headers.get("Changes")));
}

/** A mark in the order of the answers, for changesSince. */
export const changesSoFar = (): number => answered.length;

/** What all answers since a mark named as changed. */
export function changesSince(mark: number): Changes {
  const since = answered.slice(mark);
  return since.includes("everything") ? "everything" : (since as Change[][]).flat();
}
