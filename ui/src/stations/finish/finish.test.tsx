import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aCopy, aPiece, showAt } from "../../testing";
import Finish from "./Finish";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

type Todo = Schemas["FinishTodo"];
const texts: Record<string, [Todo["kind"], string]> = {
  trim: ["trim", "Flash and rim cut, nothing torn"],
  edge: ["edge", "Edge thin all round, no curl"],
  colour_reading: ["colour_reading", "Read its colour in daylight"],
  photograph: ["photograph", "Photograph it from the front"],
};

const copy = (items: string[], done: string[]): Schemas["FinishCopy"] => {
  const work = items.map(
    (id): Todo => ({
      id,
      kind: texts[id][0],
      text: texts[id][1],
      why: "the test",
      minutes: 4,
      turn: 0,
      done: done.includes(id) ? { item: id, who: "Ivo Brack", at: "2026-01-12T10:00:00Z", note: "", skipped: false } : undefined,
    }),
  );
  return {
    code: "NM-01-L-a",
    piece: "NM-01-L",
    piece_name: "Salt-cracked hand",
    run: "R-0009",
    mixes: "",
    reason: "",
    section_number: 1,
    state: "made",
    items,
    work,
    missing: items.filter((i) => !done.includes(i)),
    left: items.filter((i) => !done.includes(i)).map((i) => texts[i][1]),
    ticks: [],
    verdicts: [],
    journal: [],
  };
};

let server: FakeServer;
let list: string[];
let done: string[];

beforeEach(() => {
  list = ["edge", "colour_reading", "photograph"];
  done = [];
  server = new FakeServer()
    .get("/api/me", { person: { id: 2, login: "ivo", name: "Ivo Brack", role: "fabricator" }, devices: [] } as never)
    .get("/api/pieces", [aPiece({})])
    .get("/api/copies", [aCopy({ code: "NM-01-L-a", piece: "NM-01-L", way: "coats", state: "made", left_to_do: 3 })])
    .get("/api/copies/{code}", () => copy(list, done))
    .post("/api/copies/{code}/ticks", (body) => {
      done = [...done, body.item];
      return copy(list, done);
    })
    .post("/api/copies/{code}/ticks/back", (body) => {
      done = done.filter((i) => i !== body.item);
      return copy(list, done);
    })
    .post("/api/copies/{code}/work", () => copy(list, done))
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

describe("the list of work on a copy", () => {
  it("asks only for what is on its list, and says what space does next", async () => {
    room();
    await screen.findByText("Edge thin all round, no curl");
    expect(screen.queryByText("Flash and rim cut, nothing torn")).toBeNull();
    fireEvent.click(screen.getByText("Edge thin all round is done"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/ticks")).toEqual([{ item: "edge" }]));
  });

  it("is ticked by a finger on the line, and the tick can be taken back", async () => {
    room();
    fireEvent.click(await screen.findByLabelText("Edge thin all round, no curl: tick it"));
    await screen.findByLabelText("Edge thin all round, no curl: done");
    const line = screen.getByText("Edge thin all round, no curl").closest("li") as HTMLElement;
    fireEvent.click(within(line).getByText("more"));
    fireEvent.click(within(line).getByText("Take the tick back"));
    await screen.findByLabelText("Edge thin all round, no curl: tick it");
  });

  it("keeps minutes and a word with a tick", async () => {
    room();
    const line = (await screen.findByText("Edge thin all round, no curl")).closest("li") as HTMLElement;
    fireEvent.click(within(line).getByText("more"));
    fireEvent.change(within(line).getByLabelText("Minutes"), { target: { value: "12" } });
    fireEvent.change(within(line).getByLabelText("A word about it"), { target: { value: "curled at the thumb" } });
    fireEvent.click(within(line).getByText("Tick it so"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/ticks")).toEqual([{ item: "edge", note: "curled at the thumb", minutes: 12 }]));
  });

  it("says what is still to come once nothing of it is a plain tick", async () => {
    done = ["edge"];
    room();
    await screen.findByText("Still to come: Read its colour in daylight; Photograph it from the front.");
  });

  it("does not keep a reading of which a value is missing", async () => {
    room();
    fireEvent.change(await screen.findByLabelText("L"), { target: { value: "61" } });
    fireEvent.click(screen.getByText("Keep"));
    await screen.findByText("Type a.");
    fireEvent.change(screen.getByLabelText("a"), { target: { value: "9" } });
    fireEvent.change(screen.getByLabelText("b"), { target: { value: "14" } });
    fireEvent.click(screen.getByText("Keep"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/ticks")).toHaveLength(1));
    expect(server.posted("/api/copies/{code}/ticks")[0]).toMatchObject({ item: "colour_reading", reading: { l: 61, a: 9, b: 14 } });
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

  it("moves a line, and shows the order of work that forbids it", async () => {
    list = ["trim", "edge", "photograph"];
    server.post(
      "/api/copies/{code}/work",
      () => new No(422, "bad_order", "after", "“Edge” cannot come before “Trim”: an edge is lost once the flash is off."),
    );
    room();
    const line = (await screen.findByText("Edge thin all round, no curl")).closest("li") as HTMLElement;
    fireEvent.click(within(line).getByText("more"));
    fireEvent.click(within(line).getByText("earlier"));
    await screen.findByText(/an edge is lost once the flash is off/);
    expect(server.posted("/api/copies/{code}/work")).toEqual([{ act: "move", item: "edge", after: "" }]);
  });

  it("adds a line to this copy, or to every new copy of the piece", async () => {
    server.post("/api/pieces/{code}/work", () => []);
    room();
    fireEvent.click(await screen.findByText("One more thing to do"));
    fireEvent.change(screen.getByLabelText("What"), { target: { value: "Sew in the ring" } });
    fireEvent.click(screen.getByText("Add it"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/work")).toEqual([{ act: "add", text: "Sew in the ring", kind: "other" }]));
    fireEvent.change(screen.getByLabelText("What"), { target: { value: "Sew in the ring" } });
    fireEvent.change(screen.getByLabelText("On which copies"), { target: { value: "piece" } });
    fireEvent.click(screen.getByText("Add it"));
    await waitFor(() => expect(server.posted("/api/pieces/{code}/work")).toEqual([{ act: "add", text: "Sew in the ring", kind: "other" }]));
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

describe("ticks that are given fast", () => {
  it("are all kept, and two taps on one circle are one", async () => {
    list = ["trim", "edge", "photograph"];
    room();
    const trim = await screen.findByLabelText("Flash and rim cut, nothing torn: tick it");
    fireEvent.click(trim);
    fireEvent.click(trim);
    fireEvent.click(screen.getByLabelText("Edge thin all round, no curl: tick it"));
    await screen.findByLabelText("Edge thin all round, no curl: done");
    expect(server.posted("/api/copies/{code}/ticks")).toEqual([{ item: "trim" }, { item: "edge" }]);
  });
});
