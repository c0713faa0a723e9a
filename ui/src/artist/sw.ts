/// <reference lib="webworker" />
import { ExpirationPlugin } from "workbox-expiration";
import { cleanupOutdatedCaches, createHandlerBoundToURL, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { CacheFirst, NetworkFirst } from "workbox-strategies";

// The worker of the artist's page: its own files are kept when it is first opened, its kit with every answer, its pictures and
// maps when they are first shown. What is written waits in the page's own store, not here.
declare const self: ServiceWorkerGlobalScope & { __WB_MANIFEST: { url: string; revision: string | null }[] };

const KIT = "yewmoor-kit";
const SHOWN = "yewmoor-shown";

precacheAndRoute(self.__WB_MANIFEST);
cleanupOutdatedCaches();
registerRoute(new NavigationRoute(createHandlerBoundToURL("/artist.html"), { allowlist: [/^\/artist\//] }));
registerRoute(({ url }) => /^\/api\/artist\/[^/]+$/.test(url.pathname), new NetworkFirst({ cacheName: KIT, networkTimeoutSeconds: 5 }));
registerRoute(
  ({ url }) => /^\/api\/artist\/[^/]+\/(pictures|maps)\//.test(url.pathname),
  new CacheFirst({ cacheName: SHOWN, plugins: [new ExpirationPlugin({ maxEntries: 120, maxAgeSeconds: 30 * 24 * 3600 })] }),
);

self.addEventListener("install", () => void self.skipWaiting());
self.addEventListener("activate", (e) => e.waitUntil(self.clients.claim()));
// A link that has ended leaves nothing behind.
self.addEventListener("message", (e) => {
  if (e.data === "forget") e.waitUntil(Promise.all([caches.delete(KIT), caches.delete(SHOWN)]));
});
