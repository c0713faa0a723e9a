import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer } from "../../fakeServer";
import { aCopy, showAt } from "../../testing";
import Finish from "./Finish";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

type Item = Schemas["FinishTick"]["item"];
const tick = (item: Item): Schemas["FinishTick"] => ({ item, who: "Ivo Brack", at: "2026-01-12T10:00:00Z", note: "", skipped: false });

const copy = (items: Item[], done: Item[]): Schemas["FinishCopy"] => ({
  code: "NM-01-L-a",
  piece: "NM-01-L",
  piece_name: "Salt-cracked hand",
  run: "R-0009",
  mixes: "",
  reason: "",
  section_number: 1,
  state: "made",
  items,
  missing: items.filter((i) => !done.includes(i)),
  ticks: done.map(tick),
  verdicts: [],
  journal: [],
});

let server: FakeServer;
let list: Item[];
let done: Item[];

beforeEach(() => {
  list = ["edge", "colour_reading", "photograph"];
  done = [];
  server = new FakeServer()
    .get("/api/copies", [aCopy({ code: "NM-01-L-a", piece: "NM-01-L", way: "coats", state: "made" })])
    .get("/api/copies/{code}", () => copy(list, done))
    .post("/api/copies/{code}/ticks", (body) => {
      done = [...done, body.item];
      return copy(list, done);
    })
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const room = () =>
  showAt(
    "/finish",
    <Routes>
      <Route path="/finish/:code?" element={<Finish />} />
      <Route path="/check/:code" element={<b>the check</b>} />
    </Routes>,
  );

describe("the finishing bench", () => {
  it("asks of a copy only what is on its list: what had no mould has no seam", async () => {
    room();
    await screen.findByText("Edge");
    expect(screen.queryByText("Seam")).toBeNull();
    expect(screen.queryByText("Trim")).toBeNull();
    screen.getByText("Edge is done");
  });

  it("says what is still to come once nothing of it is a plain tick", async () => {
    done = ["edge"];
    room();
    await screen.findByText("Still to come: colour reading, photograph.");
  });

  it("does not keep a reading of which a value is missing", async () => {
    room();
    fireEvent.change(await screen.findByLabelText("L"), { target: { value: "61" } });
    fireEvent.click(screen.getByText("Keep"));
    await screen.findByText("Type a.");
    fireEvent.change(screen.getByLabelText("a"), { target: { value: "9" } });
    fireEvent.change(screen.getByLabelText("b"), { target: { value: "14" } });
    fireEvent.click(screen.getByText("Keep"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/ticks")).toEqual([{ item: "colour_reading", reading: { l: 61, a: 9, b: 14 } }]));
  });

  it("passes a step over with a word where the instrument is not there", async () => {
    done = ["edge"];
    room();
    fireEvent.click(await screen.findByText("No colour reader here?"));
    const why = screen.getAllByLabelText("Why it is passed over")[0];
    expect((screen.getAllByText("Pass it over")[0] as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(why, { target: { value: "lent out" } });
    fireEvent.click(screen.getAllByText("Pass it over")[0]);
    await waitFor(() => expect(server.posted("/api/copies/{code}/ticks")).toEqual([{ item: "colour_reading", note: "lent out", skip: true }]));
  });

  it("sends to the check when nothing is missing", async () => {
    done = list;
    room();
    fireEvent.click(await screen.findByText("To the check"));
    await screen.findByText("the check");
  });

  it("says what an empty bench is for", async () => {
    server.get("/api/copies", []);
    room();
    await screen.findByText(/When a copy is made it stands here/);
  });
});
