import { createSystem, defaultConfig, defineConfig, defineRecipe } from "@chakra-ui/react";

// The shop's colours: warm plaster ground and peat ink; by night, an oven room
// with the lights down. Yew is go, gorse wants attention, rust is stop,
// heather is chosen. The names are what they mean, not what they look like.
const pair = (light: string, dark: string) => ({ value: { base: light, _dark: dark } });

/** A sentence that wants to be seen: it can be done, look first, or it cannot. */
export const notice = defineRecipe({
  className: "notice",
  base: { borderWidth: "1.5px", borderRadius: "3px 16px 16px 3px", px: "16px", py: "10px" },
  variants: {
    tone: {
      good: { bg: "yewSoft", borderColor: "yew" },
      look: { bg: "gorseSoft", borderColor: "gorse" },
      stop: { bg: "rustSoft", borderColor: "rust" },
    },
  },
  defaultVariants: { tone: "look" },
});

const config = defineConfig({
  globalCss: {
    "html, body, #root": { height: "100%" },
    body: { background: "ground", color: "ink", fontFamily: "body", fontSize: "15px", lineHeight: 1.45, fontVariantNumeric: "tabular-nums" },
    "*:focus-visible": { outline: "3px solid var(--chakra-colors-heather)", outlineOffset: "2px" },
    "nav, .no-print": { "@media print": { display: "none !important" } },
    "*": { "@media (prefers-reduced-motion: reduce)": { animation: "none !important", transition: "none !important" } },
  },
  theme: {
    // What is said beside the thing itself, in two sizes.
    layerStyles: {
      note: { value: { color: "muted", fontSize: "14px" } },
      small: { value: { color: "muted", fontSize: "13.5px" } },
    },
    recipes: { notice },
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next', sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next', sans-serif" },
      },
    },
    semanticTokens: {
      colors: {
        ground: pair("#f4efe6", "#1d1a17"),
        deep: pair("#e9e3d7", "#27231f"),
        sheet: pair("#fffdf8", "#2c2824"),
        line: pair("#cbc2ae", "#4b443c"),
        ink: pair("#2a2420", "#efe8dc"),
        muted: pair("#675d51", "#b5a999"),
        yew: pair("#2d5f4e", "#6fb598"),
        onYew: pair("#ffffff", "#10201a"),
        yewSoft: pair("#d2e2d8", "#22382f"),
        gorse: pair("#765300", "#e7bd4c"),
        gorseDot: pair("#d9960f", "#e7bd4c"),
        gorseSoft: pair("#f6e7bd", "#43371a"),
        rust: pair("#a23521", "#ef8a72"),
        rustSoft: pair("#f3d8cf", "#4a251d"),
        heather: pair("#78417a", "#cf9fd2"),
        heatherSoft: pair("#eadcea", "#3a2a3b"),
        contour: pair("#7a5c4a", "#b39d84"),
        wood: pair("#7a5c4a", "#5c4436"),
        glass: pair("#fbfaf6", "#35302b"),
        silicone: pair("#e6c3b0", "#b78d78"),
        siliconeGlint: pair("#f9ece4", "#dfbca9"),
        latex: pair("#f1e2aa", "#a9985c"),
        latexMark: pair("#8c7a2d", "#efe0a4"),
        foam: pair("#efdcc4", "#9c8567"),
        gelatin: pair("#f4cfa4", "#b07f4d"),
        waxy: pair("#ecdfc8", "#94866d"),
        gypsum: pair("#e9e9e4", "#7b7b76"),
        film: pair("#bcd3cd", "#5d7f78"),
        glue: pair("#ead58e", "#8f7a36"),
        paint: pair("#86a796", "#557566"),
        powdery: pair("#f3efe6", "#8c867b"),
        // Water that is still in a layer.
        tide: pair("#6e98a3", "#4f7f8d"),
        skin: pair("#8d5a43", "#7a4c37"),
        skinMark: pair("#6f422e", "#a0705a"),
      },
    },
  },
});

export const system = createSystem(defaultConfig, config);
