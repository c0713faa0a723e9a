import { vi } from "vitest";
import type { paths } from "./api/schema.gen";

type Method = "get" | "post" | "put" | "delete";
type At<M extends Method> = { [P in keyof paths]: paths[P] extends Record<M, { responses: unknown }> ? P : never }[keyof paths];
type Answer<P extends keyof paths, M extends Method> =
  paths[P] extends Record<M, { responses: { 200: { content: { "application/json": infer T } } } }> ? T : never;
type Body<P extends keyof paths, M extends Method> =
  paths[P] extends Record<M, { requestBody: { content: { "application/json": infer T } } }> ? T : undefined;

/** What was asked of the server. */
export interface Asked {
  method: string;
  path: string;
  params: Record<string, string>;
  query: URLSearchParams;
  body: unknown;
}

interface Route {
  method: string;
  path: string;
  pattern: RegExp;
  names: string[];
  answer: (asked: Asked) => unknown;
}

/** The server's no, as it comes over the line. */
export class No {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly field: string,
    readonly detail: string,
    readonly data?: unknown,
  ) {}
}

/**
 * For tests: a server that answers at fetch, in the types of the API's own
 * document, so that a test which no longer fits it does not compile. What nobody
 * said an answer for is a 404 that names it.
 */
export class FakeServer {
  readonly asked: Asked[] = [];
  private routes: Route[] = [];

  private on(method: Method, path: string, answer: (asked: Asked) => unknown) {
    const names: string[] = [];
    const pattern = path.replace(/\{(\w+)\}/g, (_, name: string) => {
      names.push(name);
      return "([^/]+)";
    });
    this.routes.unshift({ method: method.toUpperCase(), path, pattern: new RegExp(`^${pattern}$`), names, answer });
    return this;
  }

  get<P extends At<"get">>(path: P, answer: Answer<P, "get"> | No | ((asked: Asked) => Answer<P, "get"> | No)) {
    return this.on("get", path, typeof answer === "function" ? (answer as (a: Asked) => unknown) : () => answer);
  }
  post<P extends At<"post">>(path: P, answer: (body: Body<P, "post">, asked: Asked) => Answer<P, "post"> | No) {
    return this.on("post", path, (a) => answer(a.body as Body<P, "post">, a));
  }
  put<P extends At<"put">>(path: P, answer: (body: Body<P, "put">, asked: Asked) => Answer<P, "put"> | No) {
    return this.on("put", path, (a) => answer(a.body as Body<P, "put">, a));
  }
  delete<P extends At<"delete">>(path: P, answer: (asked: Asked) => Answer<P, "delete"> | No) {
    return this.on("delete", path, answer);
  }

  /** What was posted to a path, oldest first. */
  posted(path: At<"post">): unknown[] {
    return this.asked.filter((a) => a.method === "POST" && a.path === path).map((a) => a.body);
  }

  /** Answers the interface's requests until vi.unstubAllGlobals. */
  install(): this {
    vi.stubGlobal("fetch", (input: Request | string, init?: RequestInit) =>
      this.serve(new Request(input instanceof Request ? input : new URL(input, "http://shop.test"), init)),
    );
    return this;
  }

  private async serve(request: Request): Promise<Response> {
    const url = new URL(request.url);
    const text = await request.text();
    for (const r of this.routes) {
      const found = r.method === request.method ? r.pattern.exec(url.pathname) : null;
      if (!found) continue;
      const params = Object.fromEntries(r.names.map((n, i) => [n, decodeURIComponent(found[i + 1])]));
      const asked = { method: r.method, path: r.path, params, query: url.searchParams, body: text ? JSON.parse(text) : undefined };
      this.asked.push(asked);
      const answer = await r.answer(asked);
      return answer instanceof No ? json({ ...answer, title: "no" }, answer.status) : json(answer, 200);
    }
    return json({ status: 404, title: "no", code: "not_faked", detail: `Nobody said what ${request.method} ${url.pathname} answers.` }, 404);
  }
}

const json = (body: unknown, status: number) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": status === 200 ? "application/json" : "application/problem+json" } });
