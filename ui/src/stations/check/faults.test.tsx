import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { Proposals } from "../../piece/Proposals";
import { aCopy, showAt } from "../../testing";
import Check from "./Check";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

type Traced = Schemas["CheckTraced"];

const traced = (more: Partial<Traced> = {}): Traced =>
  ({
    id: 4,
    copy: "AL-01-a",
    piece: "AL-01",
    fault: "F-BUBBLE",
    name: "bubbles in the body",
    material: "silicone",
    place: "by the ear",
    words: "two pinheads",
    version: 3,
    at: "2026-01-09T10:17:00Z",
    who: "Pip Sallow",
    settled: false,
    mend: { repair: "open, fill, film", reuse: "below the surface", scrap: "over 5 on a close face" },
    known: [
      { evidence: "pour_share", state: "in_time", words: "poured after 33 % of its pot life", source: "record", link: "/mix?mix=X-0003" },
      { evidence: "vents", state: "no", words: "Has every high point a vent?", source: "answered" },
    ],
    causes: [
      {
        id: "C-AIRMIX",
        p: 0.62,
        prior: 0.4,
        score: -1,
        name: "air stirred in",
        change_in: "mix",
        prevent: "Degas, stir flat",
        times: 2,
        for: [],
        against: [{ evidence: "pour_share", weight: -0.1 }],
      },
      {
        id: "C-TRAPAIR",
        p: 0.38,
        prior: 0.3,
        score: -2,
        name: "air had no way out",
        change_in: "mould",
        prevent: "Vent it",
        times: 0,
        for: [{ evidence: "vents", weight: 1 }],
        against: [],
      },
    ],
    decided: false,
    entropy_bits: 0.9,
    looks: [{ evidence: "degassed", ask: "Was it degassed?", gain_bits: 0.3, minutes: 1, kind: "word", states: ["yes", "no"], where: "mix" }],
    sharers: [{ code: "AL-01-b", state: "made", where: "on the bench", why: "the same pour" }],
    proposals: [],
    ...more,
  }) as Traced;

const copy = {
  code: "AL-01-a",
  piece: "AL-01",
  piece_name: "Brow of bark",
  run: "R-0009",
  mixes: "X-0011",
  reason: "",
  section_number: 2,
  state: "made",
  items: [],
  work: [],
  missing: [],
  left: [],
  ticks: [],
  verdicts: [],
  journal: [],
} as Schemas["FinishCopy"];

let server: FakeServer;
let stands: Traced;

beforeEach(() => {
  stands = traced();
  server = new FakeServer()
    .get("/api/me", { person: { id: 2, login: "ivo", name: "Ivo Brack", role: "fabricator" }, devices: [] } as never)
    .get("/api/copies", [aCopy({ code: "AL-01-a", piece: "AL-01", state: "made", left_to_do: 0 })])
    .get("/api/copies/{code}", copy)
    .get("/api/copies/{code}/faults", () => [stands])
    .get("/api/copies/{code}/beside", { shots: [], grade: "full", wanting: ["front"] })
    .get("/api/copies/{code}/fault-kinds", [
      { id: "F-BUBBLE", name: "bubbles in the body", room: "build", moment: "at the demould", mend: stands.mend },
      { id: "F-TACK", name: "surface stays sticky", room: "check", moment: "later", mend: stands.mend },
    ])
    .get("/api/faults/{id}", () => stands)
    .post("/api/faults/{id}/answers", () => stands)
    .post("/api/faults/{id}/cause", (body) => {
      stands = traced({ cause: body.cause, version: 4 });
      return stands;
    })
    .post("/api/faults/{id}/remedy", () => stands)
    .post("/api/faults/{id}/proposals", () => stands)
    .post("/api/copies/{code}/faults", () => stands)
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const room = () =>
  showAt(
    "/check/AL-01-a?leaf=Faults",
    <Routes>
      <Route path="/check/:code" element={<Check />} />
    </Routes>,
  );

describe("a fault and its causes", () => {
  it("shows shares, what speaks for and against with the way to the record, and how often it was that here", async () => {
    room();
    await screen.findByText("air stirred in");
    const first = document.querySelector("[data-cause=C-AIRMIX]")?.textContent;
    expect(first).toContain("62 %");
    expect(first).toContain("it was this 2 times here");
    expect(screen.getByText("poured after 33 % of its pot life").getAttribute("href")).toBe("/mix?mix=X-0003");
    expect(screen.getByText(/the same pour; on the bench/)).toBeTruthy();
  });

  it("sends an answer with the version that was seen, and takes one back", async () => {
    room();
    await screen.findByText(/Was it degassed\?/);
    fireEvent.click(screen.getByText("no", { selector: "button" }));
    await waitFor(() => expect(server.posted("/api/faults/{id}/answers")).toEqual([{ evidence: "degassed", state: "no", version: 3 }]));
    fireEvent.click(screen.getByText("not so"));
    await waitFor(() => expect(server.posted("/api/faults/{id}/answers")).toHaveLength(2));
    expect(server.posted("/api/faults/{id}/answers")[1]).toEqual({ evidence: "vents", version: 3 });
  });

  it("asks what is done only once somebody said what it was, and proposes where that is changed", async () => {
    room();
    await screen.findByText("air stirred in");
    expect(screen.queryByText("Next time")).toBeNull();
    fireEvent.click((document.querySelector("[data-cause=C-AIRMIX] button") as HTMLElement) ?? document.body);
    await screen.findByText("Next time");
    expect((screen.getByLabelText("in") as HTMLSelectElement).value).toBe("recipe");
    expect((screen.getByLabelText("To be changed") as HTMLInputElement).value).toBe("Degas, stir flat");
    fireEvent.click(screen.getByText("Propose it"));
    await waitFor(() => expect(server.posted("/api/faults/{id}/proposals")).toEqual([{ goes_to: "recipe", text: "Degas, stir flat", version: 4 }]));
    fireEvent.click(screen.getByText("Repair it"));
    await waitFor(() => expect(server.posted("/api/faults/{id}/remedy")[0]).toMatchObject({ remedy: "repair", version: 4 }));
  });

  it("says what kept it when somebody answered meanwhile", async () => {
    server.post("/api/faults/{id}/answers", () => new No(409, "changed", "", "Somebody changed this fault meanwhile. Yours was not recorded."));
    room();
    await screen.findByText(/Was it degassed\?/);
    fireEvent.click(screen.getByText("yes", { selector: "button" }));
    await screen.findByText(/Yours was not recorded/);
  });

  it("finds what is seen by a word, and is not traced before one is chosen", async () => {
    room();
    fireEvent.click(await screen.findByText("Something else is wrong"));
    const go = (await screen.findByText("Choose what is seen")).closest("button") as HTMLButtonElement;
    expect(go.disabled).toBe(true);
    fireEvent.change(screen.getByLabelText(/faults/), { target: { value: "sticky" } });
    await waitFor(() => expect(screen.queryByText("bubbles in the body", { selector: "button" })).toBeNull());
    fireEvent.click(screen.getByText("surface stays sticky", { selector: "button" }));
    fireEvent.click(screen.getByText("Trace “surface stays sticky”"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/faults")[0]).toMatchObject({ fault: "F-TACK", place: "", words: "" }));
  });
});

describe("what faults ask", () => {
  const asked = [
    {
      id: 9,
      fault: 4,
      copy: "AL-01-a",
      name: "bubbles in the body",
      goes_to: "plan",
      code: "AL-01",
      text: "two pairs of hands",
      state: "proposed",
      reason: "",
      at: "2026-01-09T10:17:00Z",
      who: "Pip Sallow",
    },
  ] as Schemas["CheckProposal"][];
  it("is agreed or declined with a word", async () => {
    server.get("/api/fault-proposals", asked).post("/api/fault-proposals/{id}/settle", () => asked);
    showAt("/", <Proposals code="AL-01" />);
    await screen.findByText("two pairs of hands");
    expect(screen.getByTestId("proposals").textContent).toContain("for the plan, after bubbles in the body on AL-01-a");
    expect((screen.getByText("Decline").closest("button") as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Why not"), { target: { value: "too dear" } });
    fireEvent.click(screen.getByText("Decline"));
    await waitFor(() => expect(server.posted("/api/fault-proposals/{id}/settle")).toEqual([{ agree: false, reason: "too dear" }]));
  });
});
