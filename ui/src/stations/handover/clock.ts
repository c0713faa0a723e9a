/** A minute of the day as a clock shows it; those below zero are the evening before. */
export function clockOf(minute: number): string {
  const m = ((Math.floor(minute + 1e-6) % 1440) + 1440) % 1440;
  return `${String(Math.floor(m / 60)).padStart(2, "0")}:${String(m % 60).padStart(2, "0")}`;
}

/** "08:30" as a minute of the day; undefined where it is none. */
export function minuteOf(text: string): number | undefined {
  const m = /^\s*(\d{1,2})[:.](\d{2})\s*$/.exec(text);
  if (!m) return undefined;
  const [h, min] = [Number(m[1]), Number(m[2])];
  return h < 24 && min < 60 ? 60 * h + min : undefined;
}
