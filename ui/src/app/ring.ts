import { useEffect, useRef } from "react";

/** What of a pot rings: its number, its name, and what it wants. */
export type Ringing = { id: number; label: string; left: string };

const soundKey = "yewmoor.sound";
const tellKey = "yewmoor.notify";

export const soundIsOff = () => localStorage.getItem(soundKey) === "off";
export const setSound = (on: boolean) => localStorage.setItem(soundKey, on ? "on" : "off");

/** Notifications are there only on a secure page, and only where somebody allowed them. */
export const canNotify = () => window.isSecureContext && "Notification" in window;
export const notifies = () => canNotify() && localStorage.getItem(tellKey) === "on" && Notification.permission === "granted";
export async function askToNotify(): Promise<boolean> {
  const given = (await Notification.requestPermission()) === "granted";
  localStorage.setItem(tellKey, given ? "on" : "off");
  return given;
}

/** From when until when no pot makes a sound, hours of the bench clock: what it did stands in the morning list. */
export const QUIET = { from: 21, to: 7 };
export function isQuiet(hour: number): boolean {
  return hour >= QUIET.from || hour < QUIET.to;
}

/** How long after the first ring the next one comes, s: sooner and louder until somebody answers. */
const AGAIN = [120, 90, 60, 45, 30];

/** How loud the ring number n is, 0 to 1, and how long until the next, s. */
export function climb(n: number): { volume: number; nextS: number } {
  return { volume: Math.min(0.6, 0.12 + 0.08 * n), nextS: AGAIN[Math.min(n, AGAIN.length - 1)] };
}

/**
 * Rings for every pot that wants a hand until somebody answers it, climbing; silent by
 * night and where sound is off. What stood there when the page opened rings too, but
 * not at once.
 */
export function useRing(ringing: Ringing[], hour: number) {
  const rung = useRef<Map<number, { times: number; at: number }> | null>(null);
  const now = useRef({ ringing, hour });
  now.current = { ringing, hour };
  useEffect(() => {
    const look = () => {
      const { ringing, hour } = now.current;
      const known = rung.current;
      const at = performance.now() / 1000;
      const next = new Map<number, { times: number; at: number }>();
      let loudest = -1;
      for (const pot of ringing) {
        const before = known?.get(pot.id);
        if (!before) {
          next.set(pot.id, { times: 0, at });
          if (known) {
            loudest = Math.max(loudest, 0);
            notify(pot, hour);
          }
        } else if (at - before.at >= climb(before.times).nextS) {
          next.set(pot.id, { times: before.times + 1, at });
          loudest = Math.max(loudest, before.times + 1);
          notify(pot, hour);
        } else next.set(pot.id, before);
      }
      rung.current = next;
      if (loudest >= 0 && !soundIsOff() && !isQuiet(hour)) sound(climb(loudest).volume);
    };
    look();
    const timer = setInterval(look, 5000);
    return () => clearInterval(timer);
  }, []);
  // A pot that newly rings is heard at once, not at the next look.
  const key = ringing.map((p) => p.id).join();
  const first = useRef(key);
  useEffect(() => {
    if (first.current === key) return;
    first.current = key;
    const known = rung.current;
    const fresh = known ? now.current.ringing.filter((p) => !known.has(p.id)) : [];
    if (!known || fresh.length === 0) return;
    for (const p of fresh) {
      known.set(p.id, { times: 0, at: performance.now() / 1000 });
      notify(p, now.current.hour);
    }
    if (!soundIsOff() && !isQuiet(now.current.hour)) sound(climb(0).volume);
  }, [key]);
}

function notify(pot: Ringing, hour: number) {
  if (!notifies() || isQuiet(hour)) return;
  try {
    new Notification(pot.label, { body: pot.left, tag: `pot-${pot.id}` });
  } catch {
    // This browser shows none from a page: the bell on the pot is drawn all the same.
  }
}

function sound(loud: number) {
  try {
    const audio = new AudioContext();
    const tone = audio.createOscillator();
    const volume = audio.createGain();
    tone.frequency.value = 880;
    volume.gain.setValueAtTime(loud, audio.currentTime);
    volume.gain.exponentialRampToValueAtTime(0.001, audio.currentTime + 1.2);
    tone.connect(volume).connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + 1.2);
    tone.onended = () => void audio.close();
  } catch {
    // No sound on this machine: the bell on the pot is drawn all the same.
  }
}
