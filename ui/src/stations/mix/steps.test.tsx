import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { FakeServer, No } from "../../fakeServer";
import { show } from "../../testing";
import { StepNow } from "./StepNow";
import { says } from "./steps";
import { TagCheck } from "./TagCheck";
import type { Line, Mix, StepView } from "./useBench";

const mix = { code: "X-0014", state: "weighing", ready: false } as Mix;
const step = (more: Partial<StepView>): StepView => ({ seq: 5, act: "whisk", left_s: 300, ...more }) as StepView;

let server: FakeServer;
beforeEach(() => {
  server = new FakeServer().install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("a step that is no weighing", () => {
  it("has a clock that is begun, and goes on where it was after a reload", async () => {
    server.post("/api/mixes/{code}/steps/{seq}/begin", () => ({}) as never);
    show(<StepNow mix={mix} step={step({ seconds: 300, speed: "high", text: "Until it stands." })} reading={undefined} />);
    expect(screen.getByTestId("step-clock").textContent).toBe("5 min");
    fireEvent.click(screen.getByText("Start the clock"));
    await waitFor(() => expect(server.posted("/api/mixes/{code}/steps/{seq}/begin")).toHaveLength(1));
    cleanup();
    show(<StepNow mix={mix} step={step({ seconds: 300, left_s: 226, begun_at: "2026-01-12T09:08:40Z" })} reading={undefined} />);
    expect(screen.getByTestId("step-clock").textContent).toBe("3:46");
    screen.getByText("It is done");
  });

  it("asks why where it is cut short, and sends what was measured", async () => {
    let n = 0;
    server.post("/api/mixes/{code}/steps/{seq}/done", () => (n++ === 0 ? new No(409, "too_early", "", "4 min are missing.") : ({} as never)));
    show(<StepNow mix={mix} step={step({ act: "measure_volume", seconds: 0 })} reading={undefined} />);
    fireEvent.change(screen.getByLabelText("It stands at"), { target: { value: "1.9 l" } });
    fireEvent.click(screen.getByText("It is done"));
    await screen.findByText("4 min are missing.");
    fireEvent.change(screen.getByLabelText("Why it is cut short"), { target: { value: "it stands already" } });
    fireEvent.click(screen.getByText("It is done"));
    await waitFor(() => expect(server.posted("/api/mixes/{code}/steps/{seq}/done")).toHaveLength(2));
    expect(server.posted("/api/mixes/{code}/steps/{seq}/done")[1]).toEqual({ typed: "1.9 l", reason: "it stands already" });
  });

  it("says itself in few words", () => {
    expect(says({ act: "whisk", speed: "high", seconds: 300 })).toBe("whisk, high 5 min");
    expect(says({ act: "warm", temp_c: 62 })).toBe("warm it to 62 °C");
  });
});

describe("the tag of a pot", () => {
  const line = { seq: 1, lot: "K-old", lot_seen: false } as Line;

  it("is checked as it is typed or scanned, and another lot wants a reason", async () => {
    let n = 0;
    server.post("/api/mixes/{code}/tag", () =>
      n++ === 0 ? new No(422, "other_lot", "tag", "That is lot K-new; the sheet says K-old.") : ({} as never),
    );
    show(<TagCheck mix={mix} line={line} />);
    const tag = screen.getByLabelText("Tag of the pot");
    fireEvent.change(tag, { target: { value: "https://shop.test/stores/K-new" } });
    fireEvent.keyDown(tag, { key: "Enter" });
    await screen.findByText("That is lot K-new; the sheet says K-old.");
    fireEvent.change(screen.getByLabelText("Why this lot"), { target: { value: "the old can is gummed up" } });
    fireEvent.click(screen.getByText("Take it instead"));
    await waitFor(() => expect(server.posted("/api/mixes/{code}/tag")).toHaveLength(2));
    expect(server.posted("/api/mixes/{code}/tag")[1]).toEqual({
      seq: 1,
      tag: "https://shop.test/stores/K-new",
      take: true,
      why: "the old can is gummed up",
    });
  });

  it("says so where a browser gives no camera, and when it was seen", () => {
    vi.stubGlobal("isSecureContext", false);
    show(<TagCheck mix={mix} line={line} />);
    screen.getByText(/only over HTTPS/);
    cleanup();
    show(<TagCheck mix={mix} line={{ ...line, lot_seen: true }} />);
    screen.getByText(/that is the one/);
  });
});
