/** Numbers and times as people in a workshop read them. Units always shown. */

export function grams(g: number): string {
  const a = Math.abs(g);
  if (a >= 1000) return `${trim((g / 1000).toFixed(2))} kg`;
  return `${g.toFixed(a >= 1 || a === 0 ? 1 : 2)} g`;
}

export function millimetres(mm: number): string {
  if (mm === 0) return "0 mm";
  return `${trim(mm.toFixed(mm < 0.0995 ? 3 : mm < 1 ? 2 : 1))} mm`;
}

const trim = (s: string) => (s.includes(".") ? s.replace(/0+$/, "").replace(/\.$/, "") : s);

export function duration(seconds: number): string {
  const s = Math.round(Math.abs(seconds));
  if (s < 90) return `${s} s`;
  const min = Math.round(s / 60);
  if (min < 60) return `${min} min`;
  if (min < 48 * 60) return `${Math.floor(min / 60)} h${min % 60 ? ` ${String(min % 60).padStart(2, "0")}` : ""}`;
  return `${Math.floor(min / 1440)} d ${Math.round((min % 1440) / 60)} h`;
}

/** A countdown to the second: 16:04. */
export function countdown(seconds: number): string {
  const s = Math.max(0, Math.round(seconds));
  const h = Math.floor(s / 3600);
  const mm = String(Math.floor((s % 3600) / 60)).padStart(h ? 2 : 1, "0");
  return `${h ? `${h}:` : ""}${mm}:${String(s % 60).padStart(2, "0")}`;
}

export const clockTime = (iso: string) => new Date(iso).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
/** The day, with its year when it is not this one. */
export function day(iso: string): string {
  const d = new Date(iso);
  const year = d.getFullYear() === new Date().getFullYear() ? undefined : "numeric";
  return d.toLocaleDateString("en-GB", { weekday: "short", day: "numeric", month: "short", year });
}
export const dayTime = (iso: string) => `${day(iso)} ${clockTime(iso)}`;
export const isoDay = (d: Date) => d.toISOString().slice(0, 10);
export const words = (code: string) => code.replaceAll("_", " ");

/** Money of the shop from its hundredths: 12.50. */
export const money = (minor: number) => (minor / 100).toFixed(2);
