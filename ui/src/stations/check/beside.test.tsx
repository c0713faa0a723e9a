import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { showAt } from "../../testing";
import { Beside } from "./Beside";
import { Trials } from "./Trials";
import { Yields } from "./Yields";

type Shot = Schemas["CheckShot"];
const mine = "a".repeat(64);
const study = "b".repeat(64);
const shot = (more: Partial<Shot>): Shot =>
  ({
    sha256: mine,
    of: "copy",
    code: "AL-01-a",
    view: "front",
    caption: "",
    width: 800,
    height: 600,
    about: { marks: [], fields: [], version: 2 },
    at: "2026-01-09T10:00:00Z",
    ...more,
  }) as Shot;
const measured = {
  picture: mine,
  with: study,
  mode: "reference",
  move: [
    [1, 0, 0],
    [0, 1, 0],
  ],
  diffs_mm: { brow: 0.2, chin: 1.4 },
  rms_mm: 0.8,
  max_mm: 1.4,
  worst: "chin",
  axis_deg: null,
  de_mean: 2.1,
  de_p95: 4,
  de_max: 5.6,
  fails: ["de_max"],
  passes_as: "plain",
  verdict: "repair",
  grade: "good",
  cells: 190,
  said: ["No card is marked in the other picture: its colour is compared as the camera saw it."],
  at: "2026-01-09T10:00:00Z",
  who: "Pip Sallow",
} as unknown as Schemas["CheckMeasured"];

let server: FakeServer;
let beside: Schemas["CheckBeside"];

beforeEach(() => {
  beside = {
    shots: [
      shot({ about: { marks: [{ name: "brow", x: 0.2, y: 0.2 }], fields: [], version: 2 } }),
      shot({ sha256: study, of: "reference", code: "", caption: "the study" }),
      shot({ sha256: "c".repeat(64), of: "earlier", code: "AL-01-b" }),
    ],
    grade: "good",
    wanting: ["left", "pose"],
  };
  server = new FakeServer()
    .get("/api/copies/{code}/beside", () => beside)
    .get("/api/copies/{code}/features", [])
    .get("/api/copies/{code}/faults", [])
    .get("/api/lights", [{ name: "lamps", tint: [1.2, 1, 0.7] }] as never)
    .post("/api/copies/{code}/compare", () => {
      beside = { ...beside, newest: measured };
      return measured;
    })
    .put("/api/pictures/{sha}/about", (body) => ({ ...body, version: body.version + 1 }))
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("a copy beside what was asked", () => {
  it("says what to do where there is no picture yet, and which nobody took", async () => {
    beside = { ...beside, shots: [] };
    showAt("/", <Beside code="AL-01-a" />);
    await screen.findByText(/No picture of this copy yet/);
    expect(screen.getByText("nobody took it yet from: left, pose")).toBeTruthy();
  });

  it("is measured, and the figures are told with what they mean at this finish", async () => {
    showAt("/", <Beside code="AL-01-a" />);
    fireEvent.click(await screen.findByText("Measure"));
    const told = await screen.findByTestId("measured");
    expect(server.posted("/api/copies/{code}/compare")).toEqual([{ picture: mine, with: study, mode: "reference" }]);
    expect(told.textContent).toContain("0.8 mm apart on the whole, 1.4 mm at most at chin; ΔE 2.1 on the whole, 5.6 at most, on 190 places.");
    expect(told.textContent).toContain("it fails by its colour at one place; it passes as plain");
    expect(told.textContent).toContain("No card is marked in the other picture");
    fireEvent.click(screen.getByText("Left against right"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/compare")[1]).toEqual({ picture: mine, mode: "mirror" }));
  });

  it("says the server's no and measures nothing then", async () => {
    server.post("/api/copies/{code}/compare", () => new No(422, "not_enough_data", "marks", "1 landmarks stand on both pictures."));
    showAt("/", <Beside code="AL-01-a" />);
    fireEvent.click(await screen.findByText("Measure"));
    await screen.findByText(/1 landmarks stand on both pictures/);
    expect(screen.queryByTestId("measured")).toBeNull();
  });

  it("says when figures are of another pair of pictures", async () => {
    beside = { ...beside, newest: measured };
    showAt("/", <Beside code="AL-01-a" />);
    await screen.findByText("Measured");
    fireEvent.change(screen.getByLabelText("Laid over"), { target: { value: "c".repeat(64) } });
    await screen.findByText("Measured, of another pair of pictures");
  });

  it("has a slider, blink, difference and the lights of the sets", async () => {
    showAt("/", <Beside code="AL-01-a" />);
    const slider = (await screen.findByLabelText(/How far the copy lies/)) as HTMLInputElement;
    fireEvent.change(slider, { target: { value: "20" } });
    expect(slider.value).toBe("20");
    fireEvent.click(screen.getByText("difference × 3"));
    expect(screen.queryByLabelText(/How far the copy lies/)).toBeNull();
    expect((screen.getByText("corrected") as HTMLButtonElement).disabled).toBe(true);
    fireEvent.click(screen.getByText("lamps"));
    expect(screen.getByText("lamps").getAttribute("aria-pressed")).toBe("true");
    expect(document.querySelectorAll("feColorMatrix").length).toBeGreaterThan(0);
  });

  it("moves a landmark by the keys and takes it away", async () => {
    showAt("/", <Beside code="AL-01-a" />);
    fireEvent.click(await screen.findByText("Set landmarks"));
    const brow = await screen.findByLabelText(/^brow: arrow keys/);
    fireEvent.keyDown(brow, { key: "ArrowRight" });
    const puts = () => server.asked.filter((a) => a.method === "PUT").map((a) => a.body as Schemas["CheckAbout"]);
    await waitFor(() => expect(puts()).toHaveLength(1));
    expect(puts()[0].marks[0].x).toBeCloseTo(0.2 + 2 / 800, 9);
    expect(puts()[0].version).toBe(2);
    // Two more, faster than the server: each on top of the one before.
    fireEvent.keyDown(brow, { key: "ArrowRight" });
    fireEvent.keyDown(brow, { key: "ArrowDown" });
    await waitFor(() => expect(puts()).toHaveLength(3));
    expect(puts()[2].marks[0].x).toBeCloseTo(0.2 + 4 / 800, 9);
    expect(puts()[2].marks[0].y).toBeCloseTo(0.2 + 2 / 600, 9);
    expect(puts()[2].version).toBe(4);
    fireEvent.keyDown(brow, { key: "d" });
    await waitFor(() => expect(puts()).toHaveLength(4));
    expect(puts()[3].marks[0].differs).toBe(true);
    fireEvent.keyDown(brow, { key: "Delete" });
    await waitFor(() => expect(puts()[4]?.marks).toEqual([]));
  });
});

describe("a card's fields", () => {
  it("are greys by name, or a colour by its values; a tap with none of them sets nothing", async () => {
    Object.assign(SVGElement.prototype, { getScreenCTM: () => ({ a: 1, d: 1, e: 0, f: 0 }) });
    beside = { ...beside, shots: beside.shots.slice(0, 1) };
    showAt("/", <Beside code="AL-01-a" />);
    fireEvent.click(await screen.findByText("Set landmarks"));
    fireEvent.click(await screen.findByText("its card"));
    fireEvent.change(screen.getByLabelText("Field of the card"), { target: { value: "a field of colour" } });
    const picture = screen.getByRole("application");
    fireEvent.click(picture, { clientX: 400, clientY: 300 });
    expect(server.asked.filter((a) => a.method === "PUT")).toHaveLength(0);
    fireEvent.change(screen.getByLabelText("It is, sRGB r g b"), { target: { value: "175 54 60" } });
    fireEvent.click(picture, { clientX: 400, clientY: 300 });
    await waitFor(() => expect(server.asked.filter((a) => a.method === "PUT")).toHaveLength(1));
    const sent = server.asked.find((a) => a.method === "PUT")?.body as Schemas["CheckAbout"];
    expect(sent.fields).toEqual([{ x: 0.5, y: 0.5, is: [175, 54, 60], seen: [0, 0, 0] }]);
  });
});

describe("what is tried and how copies come out", () => {
  it("keeps a movement by one tap, a measurement by its figure, beside what was planned", async () => {
    const trials = [
      { what: "smile", kind: "movement", ask: "Smile wide", times: 0 },
      {
        what: "mass",
        kind: "measure",
        ask: "Weigh it.",
        unit: "g",
        planned: 40,
        times: 1,
        last: { id: 1, what: "mass", result: "good", value: 43.5, place: "", note: "", at: "2026-01-09T10:00:00Z", who: "Pip Sallow" },
      },
    ] as Schemas["CheckTrial"][];
    server.get("/api/copies/{code}/trials", trials).post("/api/copies/{code}/trials", () => trials);
    showAt("/", <Trials copy={{ code: "AL-01-a" } as Schemas["FinishCopy"]} />);
    fireEvent.click(await screen.findByText("bad"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/trials")[0]).toMatchObject({ what: "smile", result: "bad" }));
    const mass = document.querySelector("[data-trial=mass]") as HTMLElement;
    expect(mass.textContent).toContain("43.5 g, +3.50");
    fireEvent.change(within(mass).getByLabelText("g"), { target: { value: "41,2" } });
    fireEvent.click(within(mass).getByText("Write it down"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/trials")[1]).toMatchObject({ what: "mass", value: 41.2 }));
  });

  it("tells yields with how far so few can be believed, and how many to look at", async () => {
    server
      .get("/api/yields", [
        {
          of: "gelatin",
          by: "material",
          made: 2,
          good: 1,
          repaired: 1,
          less: 0,
          scrapped: 1,
          mean: 0.5,
          low: 0.16,
          high: 0.84,
          faults: [{ fault: "F-PIN", name: "pinholes", times: 1, cause: "mould damp" }],
        },
      ] as never)
      .get("/api/samples", { check: 21, p_find: 0.96, bad: 4 } as never);
    showAt("/", <Yields />);
    await screen.findByText("gelatin");
    expect(document.body.textContent).toContain("50 %, 16 to 84 %; seen most: pinholes 1 × (mould damp)");
    await screen.findByText("21");
  });
});
