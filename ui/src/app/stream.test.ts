import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { openStream } from "./stream";

class Source extends EventTarget {
  static open: Source[] = [];
  constructor(public address: string) {
    super();
    Source.open.push(this);
  }
  close() {
    Source.open = Source.open.filter((s) => s !== this);
  }
}

let visible: DocumentVisibilityState = "visible";
const look = (state: DocumentVisibilityState) => {
  visible = state;
  document.dispatchEvent(new Event("visibilitychange"));
};

beforeEach(() => {
  Source.open = [];
  visible = "visible";
  vi.stubGlobal("EventSource", Source);
  vi.spyOn(document, "visibilityState", "get").mockImplementation(() => visible);
});
afterEach(() => vi.restoreAllMocks());

test("a hidden tab gives its connection up and takes it again when looked at", () => {
  const read = vi.fn();
  const stop = openStream("/api/events", { open: read });
  expect(Source.open).toHaveLength(1);
  look("hidden");
  expect(Source.open).toHaveLength(0);
  look("visible");
  expect(Source.open).toHaveLength(1);
  Source.open[0]?.dispatchEvent(new Event("open"));
  expect(read).toHaveBeenCalledTimes(1);
  stop();
  expect(Source.open).toHaveLength(0);
  look("visible");
  expect(Source.open).toHaveLength(0);
});

test("a page that is left gives its connection up, and opens one only", () => {
  const stop = openStream("/api/events", {});
  window.dispatchEvent(new Event("pagehide"));
  expect(Source.open).toHaveLength(0);
  window.dispatchEvent(new Event("pageshow"));
  window.dispatchEvent(new Event("pageshow"));
  expect(Source.open).toHaveLength(1);
  stop();
});
