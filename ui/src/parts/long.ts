/** Minutes as people say them: 20 min, 4 h, 3 d 7 h. */
export function long(minutes: number): string {
  const m = Math.round(minutes);
  if (m < 60) return `${m} min`;
  if (m < 24 * 60) return m % 60 === 0 ? `${m / 60} h` : `${Math.floor(m / 60)} h ${m % 60} min`;
  const h = Math.round((m % 1440) / 60);
  return h === 0 ? `${Math.floor(m / 1440)} d` : `${Math.floor(m / 1440)} d ${h} h`;
}
