import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../../app/api";
import { show } from "../../testing";
import { Gate } from "./Gate";
import { Split } from "./Split";
import type { Doc, Judged, Step, TextureDraft, View } from "./useTexture";
import { Volume } from "./Volume";
import { Work } from "./Work";

// A server that writes down what it is asked, and can say no.
const server = { asked: [] as [string, unknown, unknown][], no: undefined as Problem | undefined, volumes: {} as object };

async function serve(method: string, path: string, options: { body?: unknown; params?: { path?: unknown } } = {}) {
  if (method === "GET") {
    if (path === "/api/textures/choices")
      return {
        softenings: [
          { tool: "stiff brush", words: "rounds what stands up", leaves: "crumbs", clears: "brush off", fire: false },
          { tool: "alcohol on a soft brush", words: "melts fine lines", leaves: "alcohol", clears: "let it dry", fire: true },
        ],
      };
    if (path.endsWith("/amounts")) return { voices: [], disagree: [] };
    if (path === "/api/me") return { person: { role: "fabricator" } };
    return server.volumes;
  }
  server.asked.push([path, options.body, options.params?.path]);
  if (server.no) throw server.no;
  return {};
}

vi.mock("../../app/api", async (original) => ({
  ...(await original<typeof import("../../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: Object.fromEntries(["GET", "PUT", "POST"].map((method) => [method, (path: string, options: object) => serve(method, path, options)])),
}));
vi.mock("./Bench", () => ({ Bench: () => null }));

beforeEach(() => void Object.assign(server, { asked: [], no: undefined, volumes: {} }));
afterEach(cleanup);

const seen = { at: "2026-01-10T09:00:00Z", who: "Maud Tarn" };
const surface = (more: object = {}): View =>
  ({
    surface: {
      findings: [],
      residues: [],
      passes: [],
      trials: [],
      schemes: [],
      passed: false,
      holds: ["Nobody has ticked: gaps are filled.", "A thin spot is open."],
      gate: [
        { id: "gaps", text: "Gaps are filled", how: "raking light from both sides", ...seen },
        { id: "dry", text: "It is dry", how: "overnight" },
      ],
      ...more,
    },
  }) as unknown as View;

describe("the gate to the mould", () => {
  it("names who looked, and lets nothing through that is held", async () => {
    show(<Gate code="PK-01" view={surface()} />);
    expect(screen.getByText("1 of 2")).toBeTruthy();
    expect(screen.getByText(/^Maud Tarn, /)).toBeTruthy();
    expect(screen.getByText("Nobody has ticked: gaps are filled. And 1 more.")).toBeTruthy();
    expect((screen.getByText("Send it to the mould").closest("button") as HTMLButtonElement).disabled).toBe(true);
    fireEvent.click(screen.getByLabelText(/It is dry/));
    await waitFor(() => expect(server.asked[0]).toEqual(["/api/pieces/{code}/sculpt/looks", { item: "dry" }, { code: "PK-01" }]));
    await waitFor(() => expect((screen.getByLabelText(/Gaps are filled/) as HTMLInputElement).disabled).toBe(false));
    fireEvent.click(screen.getByLabelText(/Gaps are filled/));
    await waitFor(() => expect(server.asked[1]).toEqual(["/api/pieces/{code}/sculpt/looks/back", { item: "gaps" }, { code: "PK-01" }]));
  });
  it("opens when nothing holds it, and says what was held back all the same", async () => {
    server.no = new Problem(409, "held_back", "", "Somebody marked a gap meanwhile. Nothing was sent.");
    show(<Gate code="PK-01" view={surface({ holds: [] })} />);
    fireEvent.click(screen.getByText("Send it to the mould"));
    expect(await screen.findByText("Somebody marked a gap meanwhile. Nothing was sent.")).toBeTruthy();
  });
  it("stays shut behind a sculpt that is through", () => {
    show(<Gate code="PK-01" view={surface({ passed: true, holds: [] })} />);
    expect(screen.getByText("gone to its mould")).toBeTruthy();
    expect(screen.queryByText("Send it to the mould")).toBeNull();
    expect((screen.getByLabelText(/It is dry/) as HTMLInputElement).disabled).toBe(true);
  });
});

describe("softening", () => {
  it("is written down with how often, and warns of fire where there is some", async () => {
    show(<Gate code="PK-01" view={surface()} />);
    expect(await screen.findByText(/rounds what stands up; then: brush off/)).toBeTruthy();
    expect(screen.queryByText(/no flame within reach/)).toBeNull();
    fireEvent.change(screen.getByLabelText("Softened with"), { target: { value: "alcohol on a soft brush" } });
    expect(screen.getByText(/no flame within reach/)).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Passes"), { target: { value: "3" } });
    fireEvent.click(screen.getByText("Write it down"));
    await waitFor(() => expect(server.asked[0]?.[1]).toEqual({ tool: "alcohol on a soft brush", times: 3 }));
  });
  it("leaves what has to be taken off", async () => {
    const passes = [
      { id: 1, tool: "alcohol on a soft brush", times: 2, leaves: "alcohol", ...seen },
      { id: 2, tool: "stiff brush", times: 1, leaves: "crumbs", cleared_at: "2026-01-10T10:00:00Z", ...seen },
    ];
    show(<Gate code="PK-01" view={surface({ residues: ["alcohol"], passes })} />);
    expect(screen.getByText("on the surface: alcohol")).toBeTruthy();
    expect(screen.getByText("alcohol on a soft brush, 2 times")).toBeTruthy();
    expect(screen.getByText("crumbs taken off")).toBeTruthy();
    fireEvent.click(screen.getByText("The alcohol is off"));
    await waitFor(() => expect(server.asked[0]).toEqual(["/api/pieces/{code}/sculpt/clear", { residue: "alcohol" }, { code: "PK-01" }]));
  });
});

const trial = (more: object = {}) => ({ id: 9, scheme: { layers: [{}, {}] }, who: "Ivo Brack", began_at: "2026-01-09T09:00:00Z", ...more });

describe("a trial paint", () => {
  it("goes step by step: what is done is asked no more", async () => {
    show(<Gate code="PK-01" view={surface({ trials: [trial({ released_at: "x" })] })} />);
    expect(screen.getByText(/2 layers of colour: released/)).toBeTruthy();
    expect(screen.queryByText("Release is on")).toBeNull();
    expect(screen.queryByText("Peeled, surface clean")).toBeNull();
    fireEvent.click(screen.getByText("Film is on and dry"));
    await waitFor(() => expect(server.asked[0]).toEqual(["/api/pieces/{code}/sculpt/trials/{id}", { did: "filmed" }, { code: "PK-01", id: 9 }]));
  });
  it("is peeled clean or not, with what it changes on the sculpt", async () => {
    show(<Gate code="PK-01" view={surface({ trials: [trial({ filmed_at: "x", painted_at: "x" })] })} />);
    fireEvent.change(screen.getByLabelText("What the trial changes on the sculpt"), { target: { value: "deeper lines at the jaw" } });
    fireEvent.click(screen.getByText("Peeled, not clean"));
    await waitFor(() => expect(server.asked[0]?.[1]).toEqual({ did: "peeled", clean: false, corrections: "deeper lines at the jaw" }));
  });
  it("that was judged makes room for another", async () => {
    show(<Gate code="PK-01" view={surface({ trials: [trial({ peeled_at: "x", clean: true, verdict: "keep" })], schemes: [{}] })} />);
    expect(screen.getByText("1 kept for the real piece")).toBeTruthy();
    expect(screen.getByText(/peeled clean, kept/)).toBeTruthy();
    fireEvent.click(screen.getByText("Begin a trial with the scheme"));
    await waitFor(() => expect(server.asked[0]?.[0]).toBe("/api/pieces/{code}/sculpt/trials"));
  });
});

const step = (key: string, row: number, more: object = {}): Step =>
  ({
    key,
    row,
    stamp: "S1",
    action: row ? "press" : "form",
    layer: 0,
    text: row ? `Row ${row}, 9 mm through film` : "The form is settled",
    detail: "",
    count: 16,
    unit: "presses",
    hands_s: 90,
    wait_s: 0,
    ...more,
  }) as unknown as Step;
const steps = [step("form", 0), step("r1", 1), step("r2", 2), step("leave", 0, { action: "leave", text: "Leave it overnight", wait_s: 43_200 })];
const judged = {
  work: {
    steps,
    cautions: ["Dust mask for tube filings."],
    hours: 2,
    low_hours: 1.5,
    top_hours: 2.5,
    presses: 33,
    strokes: 0,
    spots: 752,
    lines_mm: 0,
    clay_add_g: 2,
    clay_take_g: 1,
    clay_body_g: 25,
  },
  stamps: [],
  findings: [],
  repetition: { score: 18, limit: 50 },
  areas: [],
  pairs: [],
} as unknown as Judged;
const worked = (more: object = {}): View =>
  ({ state: { latest: 1, drafted: false }, ticks: [], log: { done_steps: 0, timed_hours: 0, actual_hours: 0 }, ...more }) as unknown as View;
const still = { waiting: false } as unknown as TextureDraft;

vi.mock("./Eye", () => ({ FoundList: () => null, Made: () => null }));

describe("the steps of the work", () => {
  const work = (view: View, at?: Step, draft = still) => (
    <Work code="PK-01" draft={draft} view={view} judged={judged} found={[]} step={at} hold={() => {}} />
  );
  it("are ticked one by one, with how long they took in minutes or in words", async () => {
    show(work(worked(), steps[1]));
    const took = screen.getByLabelText("How long it took, in minutes");
    fireEvent.change(took, { target: { value: "2,5" } });
    fireEvent.click(screen.getByText("Row 1 pressed"));
    await waitFor(() => expect(server.asked[0]?.[1]).toEqual({ key: "r1", took: "2.5 min" }));
    fireEvent.change(took, { target: { value: "1 h 20" } });
    await waitFor(() => expect((screen.getByText("Row 1 pressed").closest("button") as HTMLButtonElement).disabled).toBe(false));
    fireEvent.click(screen.getByText("Row 1 pressed"));
    await waitFor(() => expect(server.asked[1]?.[1]).toEqual({ key: "r1", took: "1 h 20" }));
  });
  it("keep the time when the line is lost, and are tried again", async () => {
    server.no = new Problem(0, "offline", "", "The server does not answer.");
    show(work(worked(), steps[2]));
    fireEvent.change(screen.getByLabelText("How long it took, in minutes"), { target: { value: "3" } });
    fireEvent.click(screen.getByText("Row 2 pressed"));
    expect(await screen.findByText("The server does not answer.")).toBeTruthy();
    expect((screen.getByLabelText("How long it took, in minutes") as HTMLInputElement).value).toBe("3");
    server.no = undefined;
    fireEvent.click(screen.getByText("Try again"));
    await waitFor(() => expect(server.asked).toHaveLength(2));
    expect(server.asked[1][1]).toEqual({ key: "r2", took: "3 min" });
  });
  it("are not ticked before the plan is agreed", () => {
    show(work(worked({ state: { latest: 1, drafted: true } }), steps[1]));
    expect(screen.getByText("Agree the plan; then its steps can be ticked here.")).toBeTruthy();
    expect(screen.queryByText("Row 1 pressed")).toBeNull();
    cleanup();
    show(work(worked(), steps[1], { waiting: true } as unknown as TextureDraft));
    expect(screen.queryByText("Row 1 pressed")).toBeNull();
  });
  it("are counted, and taken back by whoever sees that they are not done", async () => {
    const ticks = ["form", "r1"].map((key) => ({ key, at: "2026-01-12T08:00:00Z", who: "Pip Sallow" }));
    show(work(worked({ ticks, log: { done_steps: 2, timed_hours: 0.25, actual_hours: 0.2 } }), steps[2]));
    expect(screen.getByText("2 of 4 done")).toBeTruthy();
    expect(screen.getByText("12 min for 15 min planned")).toBeTruthy();
    // What is left: one row of 90 s; the night is waiting, not hands.
    expect(screen.getByText(/^3 min ± /)).toBeTruthy();
    fireEvent.click(screen.getAllByText("back")[0]);
    await waitFor(() => expect(server.asked[0]).toEqual(["/api/pieces/{code}/texture/ticks/back", { key: "form" }, { code: "PK-01" }]));
  });
  it("name the step in hand by what it is", () => {
    show(work(worked(), steps[0]));
    expect(screen.getByText("The form is settled", { selector: ".chakra-button" })).toBeTruthy();
    cleanup();
    show(work(worked(), steps[3]));
    expect(screen.getByText("Rested and looked over")).toBeTruthy();
    cleanup();
    show(work(worked()));
    expect(screen.getByText(/Every step is done/)).toBeTruthy();
  });
});

function OwnSplit({ start, told }: { start: Doc; told: (d: Doc) => void }) {
  const [doc, setDoc] = useState(start);
  return (
    <Split
      doc={doc}
      change={(part) => {
        const next = { ...doc, ...part };
        told(next);
        setDoc(next);
      }}
    />
  );
}

describe("relief or paint", () => {
  const doc: Doc = {
    seed: 1,
    region: { preset: "tile" },
    layers: [],
    areas: [{ id: "jaw", name: "the jaw", polygon: [], by: "relief" }],
    landmarks: [
      { name: "upper lip", at: [0, 0] },
      { name: "lower lip", at: [0, 8] },
    ],
  };
  it("is decided for each area, with a limit of depth", () => {
    const told = vi.fn();
    show(<OwnSplit start={doc} told={told} />);
    fireEvent.change(screen.getByLabelText("What makes the jaw"), { target: { value: "both" } });
    expect(told.mock.lastCall?.[0].areas[0]).toMatchObject({ id: "jaw", by: "both" });
    fireEvent.change(screen.getByLabelText("At most, mm"), { target: { value: "0.8" } });
    expect(told.mock.lastCall?.[0].areas[0]).toMatchObject({ by: "both", depth_mm: 0.8 });
  });
  it("lets lower rims hang, or not", () => {
    const told = vi.fn();
    show(<OwnSplit start={doc} told={told} />);
    expect(screen.queryByLabelText("Thicker below by")).toBeNull();
    fireEvent.click(screen.getByLabelText("lower rims hang"));
    expect(told.mock.lastCall?.[0].gravity).toEqual({ down: 270, sag: 0.4 });
    fireEvent.change(screen.getByLabelText("Thicker below by"), { target: { value: "0.7" } });
    expect(told.mock.lastCall?.[0].gravity.sag).toBe(0.7);
    fireEvent.click(screen.getByLabelText("lower rims hang"));
    expect(told.mock.lastCall?.[0].gravity).toBeUndefined();
  });
  it("pairs sizes that force each other, typed or measured between landmarks", () => {
    const told = vi.fn();
    show(<OwnSplit start={doc} told={told} />);
    fireEvent.click(screen.getByText("add a pair"));
    expect(told.mock.lastCall?.[0].pairs).toHaveLength(1);
    fireEvent.change(screen.getByLabelText("Name of pair 1"), { target: { value: "lips" } });
    fireEvent.change(screen.getByLabelText("How the first is measured"), { target: { value: "upper lip|lower lip" } });
    expect(told.mock.lastCall?.[0].pairs[0]).toMatchObject({ name: "lips", a: { name: "the first", from: "upper lip", to: "lower lip" } });
    expect(screen.queryByLabelText("the first, mm")).toBeNull();
    fireEvent.change(screen.getByLabelText("How the first is measured"), { target: { value: "" } });
    expect(told.mock.lastCall?.[0].pairs[0].a).toEqual({ name: "the first", mm: 20 });
    fireEvent.click(screen.getByText("take away"));
    expect(told.mock.lastCall?.[0].pairs).toEqual([]);
  });
});

describe("the volume", () => {
  const reading = (id: number, route: string, ml: number, measured: object) => ({
    id,
    route,
    volume_ml: ml,
    measured,
    who: "Ivo Brack",
    at: "2026-01-09T09:00:00Z",
  });
  it("is told by what was measured, in the units it was typed in", async () => {
    server.volumes = { readings: [] };
    show(<Volume piece={{ code: "BF-01" }} />);
    expect(await screen.findByText("Nothing yet.")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Clay before"), { target: { value: "1 lb" } });
    fireEvent.change(screen.getByLabelText("Clay left over"), { target: { value: "400 g" } });
    fireEvent.click(screen.getByText("Keep it"));
    await waitFor(() => expect(server.asked[0]?.[1]).toMatchObject({ route: "clay", before: "1 lb", after: "400 g" }));
    fireEvent.change(screen.getByLabelText("From"), { target: { value: "displacement" } });
    expect(screen.queryByLabelText("Clay before")).toBeNull();
    expect(screen.getByLabelText("Hung in water")).toBeTruthy();
  });
  it("says no at the field, and keeps what was typed", async () => {
    server.volumes = { readings: [] };
    server.no = new Problem(422, "out_of_range", "after", "More is left over than there was.");
    show(<Volume piece={{ code: "BF-01" }} />);
    fireEvent.change(await screen.findByLabelText("Clay left over"), { target: { value: "900 g" } });
    fireEvent.click(screen.getByText("Keep it"));
    expect(await screen.findByText("More is left over than there was.")).toBeTruthy();
    expect((screen.getByLabelText("Clay left over") as HTMLInputElement).value).toBe("900 g");
  });
  it("weighs several ways, and says which one disagrees", async () => {
    server.volumes = {
      readings: [reading(1, "clay", 17.5, { before: "500 g", after: "472 g" }), reading(2, "scan", 21, {})],
      together: { mean_ml: 20.4, sd_ml: 0.8, routes: ["clay", "scan"], disagree: ["clay"] },
    };
    show(<Volume piece={{ code: "BF-01" }} />);
    expect(await screen.findByText("20.4 ml")).toBeTruthy();
    expect(screen.getByText(/2 ways weighed by their usual error/)).toBeTruthy();
    expect(screen.getByText(/clay used disagrees: check it/)).toBeTruthy();
    expect(screen.getByText("500 g → 472 g")).toBeTruthy();
    expect(screen.getByText("between scans")).toBeTruthy();
  });
});
