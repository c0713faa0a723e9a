// @vitest-environment node
import { describe, expect, it } from "vitest";
import { countdown, duration, grams, millimetres } from "./format";
import { labToHex } from "./lab";
import { levelY } from "./Pot";

describe("figures as people read them", () => {
  it("always carry their unit", () => {
    expect(grams(58.42)).toBe("58.4 g");
    expect(grams(0.351)).toBe("0.35 g");
    expect(grams(1250)).toBe("1.25 kg");
    expect(millimetres(0.006)).toBe("0.006 mm");
    expect(millimetres(0.18)).toBe("0.18 mm");
    expect(millimetres(6.2)).toBe("6.2 mm");
    expect(duration(45)).toBe("45 s");
    expect(duration(3 * 3600 + 50 * 60)).toBe("3 h 50");
    expect(duration(52 * 3600)).toBe("2 d 4 h");
  });
  it("count down to the second and never below zero", () => {
    expect(countdown(964)).toBe("16:04");
    expect(countdown(3_725)).toBe("1:02:05");
    expect(countdown(-3)).toBe("0:00");
  });
});

describe("a reading on the screen", () => {
  it("is the published sRGB of the primaries", () => {
    expect(labToHex(53.2408, 80.0925, 67.2032)).toBe("#ff0000");
    expect(labToHex(100, 0, 0)).toBe("#ffffff");
    expect(labToHex(0, 0, 0)).toBe("#000000");
  });
});

describe("the pot's glass", () => {
  it("fills from the floor up and never spills", () => {
    expect(levelY(0)).toBeGreaterThan(levelY(0.5));
    expect(levelY(0.9)).toBeGreaterThan(levelY(1));
    expect(levelY(1.7)).toBe(levelY(1));
    expect(levelY(-1)).toBe(levelY(0));
  });
});
