import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-500.css";
import "@fontsource/atkinson-hyperlegible-next/latin-600.css";
import "@fontsource/atkinson-hyperlegible-next/latin-700.css";
import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app/App";

// Styles are inserted at run time; the page's nonce lets them, and nothing
// else, past the content policy.
const nonce = document.querySelector<HTMLMetaElement>("meta[name=csp-nonce]")?.content;
const cache = createCache({ key: "y", nonce });
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <CacheProvider value={cache}>
        <App />
      </CacheProvider>
    </StrictMode>,
  );
}
