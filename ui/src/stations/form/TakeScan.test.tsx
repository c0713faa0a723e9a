import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../../app/api";
import { show } from "../../testing";
import { TakeScan } from "./ScanList";

// A line that the test holds in its hand: it says how far the file is, and ends
// when the test lets it.
const line = { say: (_: number, __: string) => {}, end: (_: string) => {}, lose: (_: unknown) => {}, stopped: false };
const server = { asked: [] as unknown[], no: undefined as Problem | undefined };

vi.mock("../../app/bigUpload", () => ({
  sendFile: (_: File, say: typeof line.say, signal: AbortSignal) =>
    new Promise<string>((end, lose) => {
      Object.assign(line, { say, end, lose });
      signal.addEventListener("abort", () => {
        line.stopped = true;
        lose(new DOMException("stopped", "AbortError"));
      });
    }),
}));
vi.mock("../../app/api", async (original) => ({
  ...(await original<typeof import("../../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: {
    POST: async (_: string, options: { body: unknown }) => {
      server.asked.push(options.body);
      if (server.no) throw server.no;
      return { scans: [{ id: 12 }], cores: [] };
    },
  },
}));

beforeEach(() => {
  Object.assign(server, { asked: [], no: undefined });
  line.stopped = false;
});
afterEach(cleanup);

const file = new File([new Uint8Array(100)], "brow.stl");
const choose = () => fireEvent.change(screen.getByLabelText("Scan"), { target: { files: [file] } });

describe("taking a scan", () => {
  it("shows how far it is, and keeps it as what it is", async () => {
    const done = vi.fn();
    show(<TakeScan of={{ piece: "AL-01" }} core={3} stages done={done} />);
    fireEvent.change(screen.getByLabelText("Stage of the piece"), { target: { value: "blocked out" } });
    choose();
    await screen.findByText("brow.stl, 0 %");
    act(() => line.say(0.42, "the line was lost; going on"));
    expect(screen.getByText(/brow.stl, 42 %/)).toBeTruthy();
    expect(screen.getByText(/the line was lost; going on/)).toBeTruthy();
    expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("42");
    act(() => line.end("u-7"));
    await waitFor(() => expect(done).toHaveBeenCalledWith(12));
    expect(server.asked).toEqual([{ upload: "u-7", piece: "AL-01", stage: "blocked out", core: 3 }]);
    expect(screen.getByText("Choose a scan")).toBeTruthy();
  });
  it("is stopped without a word of blame", async () => {
    show(<TakeScan of={{ form: "F-005" }} />);
    choose();
    fireEvent.click(await screen.findByText("Stop"));
    expect(line.stopped).toBe(true);
    expect(await screen.findByText("Choose a scan")).toBeTruthy();
    expect(screen.queryByRole("alert")).toBeNull();
    expect(server.asked).toEqual([]);
  });
  it("takes one that is dropped on it", async () => {
    show(<TakeScan of={{ form: "F-005" }} />);
    fireEvent.drop(screen.getByTestId("take-scan"), { dataTransfer: { files: [file] } });
    await screen.findByText("brow.stl, 0 %");
    act(() => line.end("u-8"));
    await waitFor(() => expect(server.asked).toEqual([{ upload: "u-8", form: "F-005", stage: undefined, core: undefined }]));
  });
  it("says what the server said no to", async () => {
    server.no = new Problem(422, "too_large", "file", "Files of up to 600 MB are taken.");
    show(<TakeScan of={{ form: "F-005" }} />);
    choose();
    await screen.findByText("brow.stl, 0 %");
    act(() => line.end("u-9"));
    expect(await screen.findByText("Files of up to 600 MB are taken.")).toBeTruthy();
  });
});
