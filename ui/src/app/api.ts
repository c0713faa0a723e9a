import createClient from "openapi-fetch";
import type { components, paths } from "../api/schema.gen";
import { heed } from "./changes";
import { ended, keyOf, wordsOf } from "./keyed";
import { lineIs } from "./line";
import { BECAUSE, encoded, SAY_WHY, whyAsked } from "./why";

export type Schemas = components["schemas"];

/** What the server said no with: a sentence, a code, and the field at fault. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly field: string,
    detail: string,
    readonly data?: unknown,
    private readonly from?: Problem,
  ) {
    super(detail);
  }

  /** The problem as the server said it, when this is a part of it. */
  get whole(): Problem {
    return this.from?.whole ?? this;
  }

  /** This problem under another field's name; undefined when it is about something else. */
  at(field: string, name: string): Problem | undefined {
    return this.field === field ? new Problem(this.status, this.code, name, this.message, this.data, this) : undefined;
  }
}

export const offline = () =>
  new Problem(
    0,
    "offline",
    "",
    "The workshop's server does not answer. What was recorded is kept; what you typed is still here. Try again in a moment.",
  );

/** The server, or the database behind it, cannot answer just now. */
const unable = [502, 503, 504];

/** The header that carries the key of an act. */
const KEY = "Idempotency-Key";

const client = createClient<paths>({ baseUrl: globalThis.location?.origin ?? "/", fetch: (request) => fetch(request) });

const acts = new WeakMap<Request, string>();
/** A request to be sent again with a reason, when something speaks against it. */
const again = new WeakMap<Request, Request>();

client.use({
  onRequest: async ({ request }) => {
    if (request.method === "GET") return undefined;
    const act = `${request.method} ${request.url} ${await request.clone().text()}`;
    acts.set(request, act);
    request.headers.set(KEY, keyOf(act));
    again.set(request, request.clone());
    return request;
  },
  onResponse: async ({ request, response: first }) => {
    const response = (await withReason(request, first)) ?? first;
    heed(request.method, response);
    const act = acts.get(request);
    if (act) ended(act, response.status);
    return response;
  },
  onError: ({ request, error }) => {
    const act = acts.get(request);
    // A question that was taken back is no act that waits for its answer.
    if (act && error instanceof DOMException && error.name === "AbortError") ended(act, 499);
  },
});

/** The answer to an act that is sent once more with a reason; undefined when none is asked for or given. */
async function withReason(request: Request, first: Response): Promise<Response | undefined> {
  const copy = again.get(request);
  again.delete(request);
  if (first.status !== 409 || !copy) return undefined;
  const body = (await first
    .clone()
    .json()
    .catch(() => undefined)) as Schemas["Problem"] | undefined;
  if (body?.code !== SAY_WHY) return undefined;
  const why = await whyAsked(body.detail, body.data as Schemas["CraftRulesFinding"]);
  if (why === undefined) return undefined;
  copy.headers.set(BECAUSE, encoded(why));
  return await fetch(copy);
}

/** The typed client of the server's operations. */
export const api = client;

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The answer of an operation, or its Problem thrown. */
export async function ask<T>(call: Promise<Answer<T>>): Promise<NonNullable<T>> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    lineIs(false);
    throw offline();
  }
  lineIs(!unable.includes(answer.response.status));
  if (answer.error !== undefined || !answer.response.ok) throw toProblem(answer.response.status, answer.error);
  return answer.data as NonNullable<T>;
}

function toProblem(status: number, body: unknown): Problem {
  const b = (body ?? {}) as Partial<Schemas["Problem"]>;
  if (!b.detail && status >= 500) return offline();
  return new Problem(status, b.code ?? "failed", b.field ?? "", b.detail ?? "That did not work.", b.data);
}

/** Sends a picture; the server's no is thrown as a Problem. */
export async function upload<T>(path: string, form: FormData): Promise<T> {
  const act = `POST ${path} ${wordsOf(form)}`;
  return (await sent(path, { method: "POST", body: form, headers: { [KEY]: keyOf(act) } }, (status) => ended(act, status))) as T;
}

/** Posts a body to a path that is known only when it is sent. */
export async function post(path: string, body: unknown): Promise<unknown> {
  return await sent(path, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) });
}

async function sent(path: string, init: RequestInit, answered?: (status: number) => void): Promise<unknown> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch {
    lineIs(false);
    throw offline();
  }
  lineIs(!unable.includes(response.status));
  heed(init.method ?? "GET", response);
  answered?.(response.status);
  const body = await response.json().catch(() => undefined);
  if (!response.ok) throw toProblem(response.status, body);
  return body;
}
