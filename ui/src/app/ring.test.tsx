import { cleanup, render } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { climb, isQuiet, type Ringing, setSound, useRing } from "./ring";

let volumes: number[];
class Audio {
  currentTime = 0;
  destination = {};
  createOscillator() {
    return { frequency: { value: 0 }, connect: (x: unknown) => x, start: () => {}, stop: () => {}, onended: null };
  }
  createGain() {
    return { gain: { setValueAtTime: (v: number) => volumes.push(v), exponentialRampToValueAtTime: () => {} }, connect: (x: unknown) => x };
  }
  close() {}
}

beforeEach(() => {
  volumes = [];
  vi.useFakeTimers();
  vi.stubGlobal("AudioContext", Audio);
  localStorage.clear();
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const pot: Ringing = { id: 4, label: "BF-03-d", left: "demould now" };
function Shelf({ ringing, hour = 10 }: { ringing: Ringing[]; hour?: number }) {
  useRing(ringing, hour);
  return null;
}

describe("a pot that wants a hand", () => {
  it("rings at once, and climbs until somebody answers", () => {
    const { rerender } = render(<Shelf ringing={[]} />);
    rerender(<Shelf ringing={[pot]} />);
    expect(volumes).toEqual([climb(0).volume]);
    vi.advanceTimersByTime(130_000);
    vi.advanceTimersByTime(100_000);
    expect(volumes.length).toBeGreaterThanOrEqual(3);
    expect(volumes[2]).toBeGreaterThan(volumes[0]);
    const heard = volumes.length;
    rerender(<Shelf ringing={[]} />);
    vi.advanceTimersByTime(600_000);
    expect(volumes.length).toBe(heard);
  });
  it("is not rung for what stood there when the page opened, until it has waited", () => {
    render(<Shelf ringing={[pot]} />);
    expect(volumes).toEqual([]);
    vi.advanceTimersByTime(130_000);
    expect(volumes.length).toBe(1);
  });
  it("is silent by night, and where the sound is off", () => {
    const { rerender } = render(<Shelf ringing={[]} hour={23} />);
    rerender(<Shelf ringing={[pot]} hour={23} />);
    vi.advanceTimersByTime(400_000);
    expect(volumes).toEqual([]);
    setSound(false);
    rerender(<Shelf ringing={[{ ...pot, id: 5 }]} hour={10} />);
    vi.advanceTimersByTime(400_000);
    expect(volumes).toEqual([]);
  });
  it("knows the night by the bench clock", () => {
    expect([21, 23, 0, 6].every(isQuiet)).toBe(true);
    expect([7, 12, 20].some(isQuiet)).toBe(false);
    expect(climb(9).nextS).toBeLessThan(climb(0).nextS);
    expect(climb(50).volume).toBeLessThan(1);
  });
});
