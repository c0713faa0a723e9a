import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "dist", emptyOutDir: true, assetsInlineLimit: 0 },
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
