import { useEffect } from "react";
import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";
import { labToHex, onScreen } from "../../parts/lab";

export type Lab = Schemas["CraftColourLab"];
export type Room = Schemas["ColourRoom"];
export type Matched = Schemas["ColourMatched"];
export type Proposal = Schemas["ColourProposal"];

export const hex = (c: Lab) => labToHex(c.l, c.a, c.b);
/** A colour in figures, for who cannot or should not judge it by the screen. */
export const figures = (c: Lab) => `L ${c.l.toFixed(1)} a ${c.a.toFixed(1)} b ${c.b.toFixed(1)}`;
export const shows = (c: Lab) => onScreen(c.l, c.a, c.b);

// Where colour is judged everything around it is grey, by day and by night: the
// theme's own names, each without its hue.
const grey: Record<string, string> = {
  ground: "#8e8e8e",
  deep: "#878787",
  sheet: "#a6a6a6",
  line: "#5f5f5f",
  ink: "#111111",
  muted: "#191919",
  yew: "#1a1a1a",
  "on-yew": "#f2f2f2",
  "yew-soft": "#a6a6a6",
  gorse: "#111111",
  "gorse-dot": "#111111",
  "gorse-soft": "#b4b4b4",
  rust: "#111111",
  "rust-soft": "#b4b4b4",
  heather: "#111111",
  "heather-soft": "#c2c2c2",
  wood: "#6a6a6a",
};

/** Takes the hue out of everything around while the room is open. */
export function useGreySurround() {
  useEffect(() => {
    const { style } = document.documentElement;
    for (const [name, value] of Object.entries(grey)) style.setProperty(`--chakra-colors-${name}`, value);
    return () => {
      for (const name of Object.keys(grey)) style.removeProperty(`--chakra-colors-${name}`);
    };
  }, []);
}

export const useColourRoom = (code: string) =>
  useRead({
    queryKey: ["colour room", code],
    queryFn: () => ask(api.GET("/api/pieces/{code}/colour", { params: { path: { code } } })),
    placeholderData: (before) => before,
  });

export const usePigments = () => useRead({ queryKey: ["pigments"], queryFn: () => ask(api.GET("/api/pigments")) });

/** How far two colours are from one another, in words. */
export function apart(de: number): string {
  if (de <= 1) return "not seen";
  if (de <= 2) return "near";
  return de <= 5 ? "seen side by side" : "plainly another colour";
}

export const nanometres = Array.from({ length: 36 }, (_, i) => 380 + 10 * i);
