import { useEffect, useState } from "react";

interface Prompt extends Event {
  prompt(): Promise<void>;
}

/** Sets the page's worker up, so that it opens without a connection, and offers to put it on the phone. */
export function useInstall(at = "", wants: string[] = []) {
  const can = "serviceWorker" in navigator && window.isSecureContext;
  const [works, setWorks] = useState(false);
  const [failed, setFailed] = useState("");
  const [offer, setOffer] = useState<Prompt>();
  useEffect(() => {
    if (!can) return;
    navigator.serviceWorker
      .register("/sw.js", { scope: "/artist/" })
      .then(() => navigator.serviceWorker.ready)
      .then(() => setWorks(true))
      .catch(() => setFailed("This browser would not keep the page: it opens only with a connection."));
    const token = location.pathname.split("/")[2];
    const manifest = document.createElement("link");
    manifest.rel = "manifest";
    manifest.href = `/api/artist/${token}/app.webmanifest`;
    document.head.append(manifest);
    const asked = (e: Event) => {
      e.preventDefault();
      setOffer(e as Prompt);
    };
    window.addEventListener("beforeinstallprompt", asked);
    return () => window.removeEventListener("beforeinstallprompt", asked);
  }, [can]);
  // What it shows is kept at once, not only when it is first looked at.
  const list = wants.join();
  useEffect(() => {
    if (!works || !navigator.serviceWorker.controller) return;
    for (const path of list.split(",")) if (path) void fetch(at + path).catch(() => undefined);
  }, [works, at, list]);
  return {
    works,
    why: can
      ? failed || "Getting ready to open without a connection…"
      : "This page came over plain HTTP, so the browser will not keep it: it cannot open without a connection. What you write waits here all the same. Ask the workshop for a link that begins with https.",
    offer: offer !== undefined,
    install: () => void offer?.prompt(),
  };
}
