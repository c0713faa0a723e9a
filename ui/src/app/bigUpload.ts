import { api, ask, Problem } from "./api";

/** Bytes that are sent at once: a lost line costs no more. */
const PIECE = 2 << 20;
/** How often a piece is tried again, waiting longer each time. */
const TRIES = 6;

interface Sent {
  id: string;
  received: number;
}

/** What sending needs of the world. */
export interface Means {
  begin: (body: { name: string; size: number; mark: string }) => Promise<Sent>;
  read: (id: string) => Promise<Sent>;
  put: (id: string, at: number, piece: Blob, signal: AbortSignal) => Promise<Sent>;
  wait: (ms: number) => Promise<void>;
}

const means: Means = {
  begin: (body) => ask(api.POST("/api/uploads", { body })),
  read: (id) => ask(api.GET("/api/uploads/{id}", { params: { path: { id } } })),
  put: async (id, at, piece, signal) => {
    const answer = await fetch(`/api/uploads/${id}?at=${at}`, {
      method: "PUT",
      body: piece,
      signal,
      headers: { "Content-Type": "application/octet-stream" },
    });
    const body = await answer.json().catch(() => undefined);
    if (!answer.ok) throw new Problem(answer.status, body?.code ?? "failed", body?.field ?? "", body?.detail ?? "The file could not be sent.");
    return body as Sent;
  },
  wait: (ms) => new Promise((go) => window.setTimeout(go, ms)),
};

/**
 * Sends a large file in pieces and gives its number at the server. A file that
 * was begun before goes on where it was; a lost line is tried again.
 */
export async function sendFile(
  file: Pick<File, "name" | "size" | "lastModified" | "slice">,
  progress: (share: number, words: string) => void,
  signal: AbortSignal,
  by: Means = means,
): Promise<string> {
  let now = await by.begin({ name: file.name, size: file.size, mark: `${file.name.slice(-60)}|${file.size}|${file.lastModified}` });
  if (now.received > 0) progress(now.received / file.size, "going on where it was");
  let tries = 0;
  while (now.received < file.size) {
    signal.throwIfAborted();
    try {
      now = await by.put(now.id, now.received, file.slice(now.received, Math.min(file.size, now.received + PIECE)), signal);
      tries = 0;
      progress(now.received / file.size, "");
    } catch (e) {
      signal.throwIfAborted();
      // The server has more or less than we think: it says how much.
      const moved = e instanceof Problem && e.code === "moved_on";
      if (e instanceof Problem && e.status >= 400 && e.status < 500 && !moved) throw e;
      if (++tries > TRIES)
        throw e instanceof Problem
          ? e
          : new Problem(
              0,
              "offline",
              "",
              `The line is lost at ${Math.round((100 * now.received) / file.size)} %. What was sent is kept: choose the same file again to go on.`,
            );
      progress(now.received / file.size, moved ? "" : "the line is lost, trying again");
      if (!moved) await by.wait(400 * 2 ** tries);
      now = await by.read(now.id).catch(() => now);
    }
  }
  return now.id;
}
