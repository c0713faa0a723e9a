import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { FakeServer, No } from "../../fakeServer";
import { showAt } from "../../testing";
import Artist from "./Artist";

const kept = new Map<string, string>();
beforeEach(() => {
  kept.clear();
  vi.stubGlobal("localStorage", {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => void kept.set(k, v),
    removeItem: (k: string) => void kept.delete(k),
  });
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const page = {
  kit: "K-001",
  production: "The Tallow Court",
  artist: "Jun Abbot",
  day: "2026-01-23T00:00:00Z",
  place: "quayside",
  note: "",
  copies: [],
  cautions: [],
  received_at: "2026-01-22T15:00:00Z",
  signed_name: "Jun Abbot",
  reports: [],
};

async function report(words: string) {
  for (const k of ["edge", "colour", "hold"]) fireEvent.click(await screen.findByLabelText(`${k} 4 of 5`));
  fireEvent.change(screen.getByLabelText("In your words"), { target: { value: words } });
  fireEvent.click(screen.getByText("Send it to the workshop"));
}
const open = () =>
  showAt(
    "/artist/a-long-token",
    <Routes>
      <Route path="/artist/:token" element={<Artist />} />
    </Routes>,
  );

test("a report above the bound waits on the device and is not dropped", async () => {
  let full = true;
  const server = new FakeServer()
    .get("/api/artist/{token}", page)
    .post("/api/artist/{token}/reports", () => (full ? new No(429, "slow_down", "", "12 reports came in the last hour.") : page))
    .install();
  open();
  await report("the edge held");
  await screen.findByTestId("waiting-reports");
  expect((screen.getByLabelText("In your words") as HTMLInputElement).value).toBe("");
  const [[place, words]] = [...kept];
  expect(place).not.toContain("a-long-token");
  expect(words).toContain("the edge held");
  // The page is closed and opened again; then there is room.
  cleanup();
  full = false;
  vi.useFakeTimers({ shouldAdvanceTime: true });
  open();
  await screen.findByTestId("waiting-reports");
  await vi.advanceTimersByTimeAsync(31_000);
  vi.useRealTimers();
  await waitFor(() => expect(screen.queryByTestId("waiting-reports")).toBeNull());
  await waitFor(() => expect(kept.size).toBe(0));
  const [first, second] = server.posted("/api/artist/{token}/reports") as { key: string }[];
  expect(second.key).toBe(first.key);
});

test("when the link has ended nothing of it stays on the device", async () => {
  let ended = false;
  new FakeServer()
    .get("/api/artist/{token}", page)
    .post("/api/artist/{token}/reports", () =>
      ended
        ? new No(404, "link_ended", "", "This link does not work any more.")
        : new No(503, "away", "", "The database cannot be reached just now."),
    )
    .install();
  open();
  await report("it came loose");
  await screen.findByTestId("waiting-reports");
  ended = true;
  await report("once more");
  expect(await screen.findByText("This link does not work any more.")).toBeTruthy();
  await waitFor(() => expect(kept.size).toBe(0));
});

test("a page that is opened after the link has ended wipes what waited", async () => {
  let gone = false;
  new FakeServer()
    .get("/api/artist/{token}", () => (gone ? new No(404, "link_ended", "", "This link does not work any more.") : page))
    .post("/api/artist/{token}/reports", () => new No(503, "away", "", "The database cannot be reached just now."))
    .install();
  open();
  await report("it came loose");
  await screen.findByTestId("waiting-reports");
  expect(kept.size).toBe(1);
  cleanup();
  gone = true;
  open();
  await screen.findByText("This link does not work any more.");
  await waitFor(() => expect(kept.size).toBe(0));
});
