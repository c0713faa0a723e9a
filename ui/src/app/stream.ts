type Listeners = Record<string, (e: MessageEvent<string>) => void>;

/**
 * Server-sent events for as long as this screen is looked at. A browser keeps
 * six connections to one address for all its tabs together, so a tab that is
 * hidden, or kept aside for going back, gives its own up: otherwise the sixth
 * tab would wait for ever. It opens again when the tab is looked at, and the
 * listener of `open` reads what was missed. Returns how to stop.
 */
export function openStream(address: string, on: Listeners): () => void {
  let source: EventSource | undefined;
  const open = () => {
    if (source) return;
    source = new EventSource(address);
    for (const [name, listener] of Object.entries(on)) source.addEventListener(name, listener as EventListener);
  };
  const close = () => {
    source?.close();
    source = undefined;
  };
  const look = () => (document.visibilityState === "visible" ? open() : close());
  look();
  document.addEventListener("visibilitychange", look);
  window.addEventListener("pagehide", close);
  window.addEventListener("pageshow", look);
  return () => {
    document.removeEventListener("visibilitychange", look);
    window.removeEventListener("pagehide", close);
    window.removeEventListener("pageshow", look);
    close();
  };
}
