import react from "@vitejs/plugin-react";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [
    react(),
    // The artist's page works without a connection: its worker keeps that page's own files, and none of the shop's.
    VitePWA({
      strategies: "injectManifest",
      srcDir: "src/artist",
      filename: "sw.ts",
      injectRegister: false,
      manifest: false,
      injectManifest: {
        globPatterns: [
          "artist.html",
          "assets/artist-*.{js,css}",
          "assets/react-*.js",
          "assets/rolldown-runtime-*.js",
          "assets/latin-{400,700}-*.{js,css}",
          "assets/atkinson*-latin-{400,700}-normal-*.woff2",
          "icon-*.png",
          "yew.svg",
        ],
        rollupFormat: "iife",
      },
    }),
  ],
  build: {
    outDir: "dist",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    rollupOptions: {
      input: ["index.html", "artist.html"],
      output: {
        // React is shared by both pages and kept by the artist's.
        manualChunks: (id) => (/node_modules\/(react|react-dom|scheduler)\//.test(id) ? "react" : undefined),
      },
    },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8480" } },
  // A busy machine renders slowly; no test is about how fast it is.
  test: {
    environment: "jsdom",
    testTimeout: 60_000,
    pool: "threads",
    deps: {
      optimizer: { client: { enabled: true, include: ["@chakra-ui/react", "@testing-library/react", "@tanstack/react-query", "react-router"] } },
    },
  },
});
