// Acts that got no answer, by what was asked: whoever does the same again sends
// the same key, and the server counts it once. An answer ends the matter, and
// the next act of the same words is another one.
const MOST = 40;
const unanswered = new Map<string, string>();

/** The key of an act: that of the same one when it got no answer. */
export function keyOf(act: string): string {
  const key = unanswered.get(act) ?? crypto.randomUUID();
  unanswered.delete(act); // and to the end: the oldest go first
  unanswered.set(act, key);
  for (const oldest of unanswered.keys()) {
    if (unanswered.size <= MOST) break;
    unanswered.delete(oldest);
  }
  return key;
}

/** Notes how an act ended: answered with a yes or a no, or it is not known. */
export function ended(act: string, status: number | undefined): void {
  if (status !== undefined && status < 500) unanswered.delete(act);
}

/** The words of a form that is sent as one: its texts, and which file it carries. */
export function wordsOf(form: FormData): string {
  return [...form].map(([name, value]) => `${name}=${value instanceof File ? `${value.name} ${value.size} ${value.lastModified}` : value}`).join("&");
}
