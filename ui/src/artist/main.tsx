import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-700.css";
import "./artist.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Page } from "./Page";

const token = location.pathname.split("/")[2] ?? "";
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <Page token={token} />
    </StrictMode>,
  );
}
