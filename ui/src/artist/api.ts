import type { components } from "../api/schema.gen";

export type View = components["schemas"]["HandoverArtistView"];
export type Heard = components["schemas"]["HandoverHeard"];
export type NewReport = components["schemas"]["HandoverNewReport"];
export type Tick = components["schemas"]["HandoverTick"];
export type Step = components["schemas"]["CraftOutingStep"];
export type Report = components["schemas"]["HandoverReport"];

/** Why a request was not done: status 0 is the line, the rest is the server's own answer. */
export class No extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly field = "",
  ) {
    super(message);
  }
  /** Whether it is sent again later rather than being wrong: the line, the server, or too many at once. */
  get waits(): boolean {
    return this.status === 0 || this.status === 429 || this.status >= 500;
  }
}

async function send(path: string, init?: RequestInit): Promise<unknown> {
  let answer: Response;
  try {
    answer = await fetch(path, init);
  } catch {
    throw new No(0, "offline", "There is no connection just now.");
  }
  const body = (await answer.json().catch(() => ({}))) as { detail?: string; code?: string; field?: string };
  if (!answer.ok) throw new No(answer.status, body.code ?? "", body.detail ?? "The workshop's server did not take it.", body.field);
  return body;
}

/** What an artist's link can ask and send. */
export function linkOf(token: string) {
  const at = `/api/artist/${token}`;
  const post = (path: string, body: unknown) =>
    send(at + path, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) }) as Promise<View>;
  return {
    at,
    view: () => send(at) as Promise<View>,
    heard: () => send(`${at}/heard`) as Promise<Heard>,
    sign: (name: string) => post("/receipt", { name }),
    report: (r: NewReport) => post("/reports", r),
    tick: (t: Tick) => post("/ticks", t),
    recall: (code: string, words: string) => post(`/recalls/${code}`, { words }),
    picture: (report: string, key: string, file: Blob) => {
      const form = new FormData();
      form.append("key", key);
      form.append("file", file, "picture.jpg");
      return send(`${at}/reports/${report}/pictures`, { method: "POST", body: form }) as Promise<View>;
    },
  };
}
export type Link = ReturnType<typeof linkOf>;
