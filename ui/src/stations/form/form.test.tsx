import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Problem, type Schemas } from "../../app/api";
import { show } from "../../testing";
import { LifeCasts } from "./LifeCasts";
import { Pull } from "./Pull";
import { Computing, ScanList } from "./ScanList";
import { Sides } from "./Sides";
import { Thickness } from "./Thickness";
import { type Measured, type Scan, seenOn, sizeOf, unitOf } from "./useScans";
import { Weights } from "./Weights";

// A server that writes down what it is asked, and can say no.
const server = { asked: [] as [string, string, unknown][], no: undefined as Problem | undefined, casts: [] as Schemas["FormLifeCast"][] };

async function serve(method: string, path: string, options: { body?: unknown } = {}) {
  if (method === "GET") {
    if (path === "/api/life-casts") return server.casts;
    if (path === "/api/clock") return { now: "2026-01-12T09:12:00Z" };
    return [];
  }
  server.asked.push([method, path, options.body]);
  if (server.no) throw server.no;
  return {};
}

vi.mock("../../app/api", async (original) => ({
  ...(await original<typeof import("../../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: Object.fromEntries(
    ["GET", "PUT", "POST", "DELETE"].map((method) => [method, (path: string, options: object) => serve(method, path, options)]),
  ),
}));

beforeEach(() => void Object.assign(server, { asked: [], no: undefined, casts: [] }));
afterEach(cleanup);

const looked = (more: Partial<Schemas["FormLooked"]> = {}) =>
  ({
    triangles: 2146,
    watertight: false,
    unit_name: "mm",
    ambiguous: false,
    area: 38,
    volume: 4,
    box_min: [0, 0, 0],
    box_max: [4, 8, 5],
    diagonal: 10.2,
    warnings: [],
    degenerate: 0,
    duplicate_faces: 0,
    holes: 0,
    nonmanifold_edges: 0,
    flipped_faces: 0,
    ...more,
  }) as unknown as Schemas["FormLooked"];
const job = (state: string, more: object = {}) =>
  ({ id: 3, state, share: 0.4, words: "measuring the thickness", detail: "", ...more }) as Scan["look"];
const scan = (more: Partial<Scan> = {}): Scan =>
  ({
    id: 7,
    name: "brow.ply",
    stage: "finished sculpt",
    part: "brow",
    noise_mm: 0.15,
    size: 214_000,
    sha256: "ab",
    added_at: "2026-01-09T15:00:00Z",
    who: "Ivo Brack",
    version: 2,
    look: job("done"),
    looked: looked(),
    ...more,
  }) as Scan;

describe("what is known of a file", () => {
  it("is scaled by the unit that somebody said, else by the guess", () => {
    expect(unitOf(scan())).toBe("mm");
    expect(unitOf(scan({ unit: "cm" }))).toBe("cm");
    expect(unitOf(scan({ looked: looked({ unit_name: "unknown" }) }))).toBeUndefined();
    expect(sizeOf(scan({ unit: "cm" }))).toEqual({ cm2: 38, ml: 4, mm: [40, 80, 50] });
    expect(sizeOf(scan({ looked: looked({ unit_name: "unknown" }) }))).toBeUndefined();
    expect(sizeOf(scan({ looked: undefined }))).toBeUndefined();
  });
  it("is said in words of the shop", () => {
    expect(seenOn(scan())).toEqual([]);
    expect(seenOn(scan({ looked: looked({ warnings: ["HOLES", "INSIDE_OUT", "DEGENERATE_TRIANGLES"], holes: 2, degenerate: 5 }) }))).toEqual([
      "2 open edges",
      "inside out",
      "5 triangles without a third corner, left out",
    ]);
    expect(seenOn(scan({ looked: looked({ warnings: ["HOLES"], holes: 1 }) }))).toEqual(["one open edge"]);
  });
});

describe("a scan in the list", () => {
  const cores = [scan({ id: 2, form: "F-005", name: "bare.ply", piece: undefined })];
  it("asks for a unit that is not plainly millimetres", () => {
    show(<ScanList scans={[scan({ looked: looked({ unit_name: "cm" }) })]} cores={cores} hold={() => {}} />);
    expect(screen.getByText("It looks like cm for a brow. Is that so?")).toBeTruthy();
    cleanup();
    show(<ScanList scans={[scan({ looked: looked({ unit_name: "unknown" }) })]} cores={cores} hold={() => {}} />);
    expect(screen.getByText(/fits no unit for a brow/)).toBeTruthy();
    cleanup();
    show(<ScanList scans={[scan({ unit: "mm", looked: looked({ unit_name: "cm" }) })]} cores={cores} hold={() => {}} />);
    expect(screen.queryByText(/Is that so/)).toBeNull();
  });
  it("tells the server all that it knows with what is changed, and one thing at a time", async () => {
    show(<ScanList scans={[scan({ unit: "cm", core: 2 })]} cores={cores} hold={() => {}} />);
    const noise = screen.getByLabelText("Noise of brow.ply") as HTMLSelectElement;
    fireEvent.change(noise, { target: { value: "0.5" } });
    expect(noise.disabled).toBe(true);
    await waitFor(() => expect(noise.disabled).toBe(false));
    expect(server.asked).toEqual([["PUT", "/api/scans/{id}", { unit: "cm", core: 2, noise_mm: 0.5, stage: "finished sculpt", version: 2 }]]);
  });
  it("says what was wrong with what is asked", async () => {
    server.no = new Problem(409, "moved_on", "", "Somebody else changed what is said of this scan meanwhile; look again.");
    show(<ScanList scans={[scan()]} cores={cores} hold={() => {}} />);
    fireEvent.change(screen.getByLabelText("Core under brow.ply"), { target: { value: "2" } });
    expect(await screen.findByText(/look again/)).toBeTruthy();
  });
  it("can always be had back as it came", () => {
    show(<ScanList scans={[scan()]} hold={() => {}} />);
    expect(screen.getByText("original").getAttribute("href")).toBe("/api/scans/7/file");
    expect(screen.queryByLabelText("Core under brow.ply")).toBeNull();
  });
});

describe("what is being computed", () => {
  it("shows how far it is, and can be stopped", async () => {
    show(<Computing scan={scan({ measuring: job("running") })} />);
    expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("40");
    expect(screen.getByText("measuring the thickness")).toBeTruthy();
    fireEvent.click(screen.getByText("Stop"));
    await waitFor(() => expect(server.asked[0]?.[1]).toBe("/api/scans/{id}/stop"));
  });
  it("says why it was not, and that the file is kept", () => {
    show(<Computing scan={scan({ look: job("failed", { detail: "It ends in the middle of triangle 8." }) })} />);
    expect(screen.getByRole("alert").textContent).toBe("It ends in the middle of triangle 8. The file is kept as it came.");
  });
  it("can be begun again when it was stopped", async () => {
    show(<Computing scan={scan({ core: 2, measuring: job("stopped") })} />);
    fireEvent.click(screen.getByText("Measure it again"));
    await waitFor(() => expect(server.asked[0]).toEqual(["POST", "/api/scans/{id}/measure", {}]));
  });
  it("is nothing when all is done", () => {
    show(<Computing scan={scan({ measuring: job("done") })} />);
    expect(screen.queryByRole("progressbar")).toBeNull();
  });
});

const measured = (more: object = {}, thickness: object = {}): Measured =>
  ({
    thickness: {
      cavity_volume: 20_990,
      appliance_area: 5_750,
      area_x_mean: 19_900,
      mean: 3.46,
      p5: 0.33,
      p50: 3.8,
      p95: 5.9,
      max: 6.3,
      interior_min: 0.35,
      thick_area: 0,
      core_contacts: [{ area_mm2: 54.7, depth_mm: 0.2, at: [1, 2, 3] }],
      scan_hole_area: 0,
      hanging_area: 0,
      edge_mode: "contour",
      edge_length: 326.1,
      edge_slope_mean: 0.31,
      edge_width_to_1mm: 3.2,
      edge_thickness_mean: 0.34,
      edge_thickness_max: 0.9,
      edge_over_limit: 1,
      ...thickness,
    },
    limits: { edge_mm: 0.1, thick_mm: 15, thin_mm: 0.8 },
    thin: [{ area_mm2: 45, depth_mm: 0.35, at: [4, 5, 6] }],
    thin_under_mm: 0.8,
    pull: {
      mode: "one",
      direction: [0.1, 0, 0.995],
      undercut_area: 310,
      undercut_fraction: 0.03,
      low_draft_area: 4,
      draft_mean: 46.2,
      draft_p50: 47,
      parting_length: 99.6,
      parting_loops: 4,
      vertical_wall_area: 0,
      projected_area: 7100,
    },
    best: true,
    undercuts: [
      { at: [0, 0, 0], value: 190 },
      { at: [0, 0, 1], value: 3 },
    ],
    vents: [{ at: [1, 1, 1], value: 40 }],
    masses: [
      { name: "oil clay", grams: 69.6, range_g: [52.2, 82.7], order_g: 80, enlarge_pc: 0 },
      { name: "foam latex, cured", grams: 7.4, range_g: [5.2, 10.9], order_g: 8.5, enlarge_pc: 4.17 },
    ],
    ...more,
  }) as unknown as Measured;

describe("the thickness", () => {
  it("numbers what is to be mended, core contacts first, and rings what is chosen", () => {
    const hold = vi.fn();
    show(<Thickness m={measured()} hold={hold} />);
    expect(screen.getByText("To mend before it is moulded")).toBeTruthy();
    const places = screen.getAllByRole("button").map((b) => b.textContent);
    expect(places).toEqual(["1core contact, 0.5 cm²", "2thin, 0.35 mm over 0.5 cm²"]);
    fireEvent.click(screen.getByText("thin, 0.35 mm over 0.5 cm²"));
    expect(hold).toHaveBeenCalledWith("thin 0");
  });
  it("says so when there is nothing", () => {
    show(<Thickness m={measured({ thin: [] }, { core_contacts: [] })} hold={() => {}} />);
    expect(screen.getByText("Nothing comes down to the core, nothing is too thin")).toBeTruthy();
  });
  it("speaks of the edge as it was found: run out on the core, or cut off", () => {
    show(<Thickness m={measured()} hold={() => {}} />);
    expect(screen.getByText("Rises, a mm")).toBeTruthy();
    cleanup();
    show(<Thickness m={measured({}, { edge_mode: "boundary" })} hold={() => {}} />);
    expect(screen.getByText("100 % of it")).toBeTruthy();
    expect(screen.queryByText("Rises, a mm")).toBeNull();
  });
  it("says what the figures lack", () => {
    show(<Thickness m={measured({}, { scan_hole_area: 120, hanging_area: 300 })} hold={() => {}} />);
    expect(screen.getByText(/has a hole of 1.2 cm²/)).toBeTruthy();
    expect(screen.getByText(/3.0 cm² hang over/)).toBeTruthy();
  });
});

describe("the pull", () => {
  it("lists what locks and where air is caught, and leaves specks out", () => {
    show(<Pull m={measured()} scan={scan()} hold={() => {}} />);
    expect(screen.getByText("locks, 1.9 cm²")).toBeTruthy();
    expect(screen.getByText("air is caught: vent")).toBeTruthy();
    expect(screen.queryByText("locks, 0.0 cm²")).toBeNull();
    expect(screen.getByText(/MLD-4/)).toBeTruthy();
  });
  it("is tried another way, or looked for", async () => {
    show(<Pull m={measured()} scan={scan()} hold={() => {}} />);
    fireEvent.change(screen.getByLabelText("Direction x y z"), { target: { value: "0, 1; 0" } });
    fireEvent.click(screen.getByText("Try it"));
    await waitFor(() => expect(server.asked).toHaveLength(1));
    expect(server.asked[0][2]).toEqual({ mode: "one", dir: [0, 1, 0] });
    await waitFor(() => expect((screen.getByText("Find the best") as HTMLButtonElement).disabled).toBe(false));
    fireEvent.click(screen.getByText("Find the best"));
    await waitFor(() => expect(server.asked).toHaveLength(2));
    expect(server.asked[1][2]).toEqual({ mode: "", dir: undefined });
  });
  it("that is no direction is refused where it is typed, and stays there", async () => {
    server.no = new Problem(422, "BAD_DIRECTION", "dir", "The direction of pull must not be zero.");
    show(<Pull m={measured()} scan={scan()} hold={() => {}} />);
    const field = screen.getByLabelText("Direction x y z") as HTMLInputElement;
    fireEvent.change(field, { target: { value: "up" } });
    fireEvent.click(screen.getByText("Try it"));
    expect(await screen.findByText("The direction of pull must not be zero.")).toBeTruthy();
    expect(field.value).toBe("up");
  });
  it("without undercuts says so", () => {
    const m = measured({ undercuts: [], vents: [] });
    m.pull.undercut_area = 0;
    show(<Pull m={m} scan={scan()} hold={() => {}} />);
    expect(screen.getByText("Nothing locks in this pull")).toBeTruthy();
  });
});

describe("left and right, and the weights", () => {
  it("say why they were not compared", () => {
    show(<Sides m={measured({ sides_not: "Left and right were not compared: the sculpt lies on one side." })} />);
    expect(screen.getByText(/lies on one side/)).toBeTruthy();
  });
  it("say how far they differ, the sign too", () => {
    show(<Sides m={measured({ sides: { mean_abs: 0.4, mean_signed: -0.2, p95: 1.1, max: 2 } })} />);
    expect(screen.getByText("−0.2 mm")).toBeTruthy();
  });
  it("are counted for the piece in millilitres; closed scans know it best", async () => {
    show(<Weights code="AL-01" m={measured({}, { difference_volume: 21_500 })} />);
    expect(screen.getByText("21.5 ml")).toBeTruthy();
    expect(screen.getByText("4.2 %")).toBeTruthy();
    fireEvent.click(screen.getByText("Count this volume for AL-01"));
    await waitFor(() => expect(server.asked[0]).toEqual(["POST", "/api/pieces/{code}/volumes", { route: "scan", scan_ml: 21.5 }]));
  });
});

const cast = (more: Partial<Schemas["FormLifeCast"]> = {}): Schemas["FormLifeCast"] =>
  ({
    id: 4,
    performer: "Nessa Quill",
    region: "hand_back",
    planned_at: "2026-01-09T12:00:00Z",
    plan: {
      way: "alginate",
      area_cm2: 420,
      thickness_mm: 10,
      working_low_s: 180,
      working_s: 300,
      set_s: 480,
      on_body_s: 1380,
      lines: [{ what: "alginate", order_g: 99, rule: "1 : 4.5" }],
      stack: [{ what: "alginate", role: "takes the detail" }],
      checks: [
        { key: "patch", text: "Its patch test is clear", why: "SAF-15" },
        { key: "signal", text: "The hand signal was tried", why: "SAF-14" },
      ],
      cautions: ["Never round a limb."],
    },
    ticks: [{ item: "patch", at: "2026-01-12T09:00:00Z", who: "Maud Tarn" }],
    missing: ["The hand signal was tried"],
    events: [],
    verdict: "",
    ...more,
  }) as unknown as Schemas["FormLifeCast"];

describe("a life cast", () => {
  it("starts its clock only when everything was seen", async () => {
    server.casts = [cast()];
    show(<LifeCasts />);
    expect(await screen.findByText("1 of 2 left")).toBeTruthy();
    expect(screen.queryByText("Start the clock")).toBeNull();
    fireEvent.click(screen.getByText("Seen"));
    await waitFor(() => expect(server.asked[0]).toEqual(["POST", "/api/life-casts/{id}/ticks", { item: "signal" }]));
  });
  it("is begun when it was", async () => {
    const all = [...cast().ticks, { item: "signal", at: "2026-01-12T09:05:00Z", who: "Maud Tarn" }];
    server.casts = [cast({ ticks: all as never, missing: [] })];
    show(<LifeCasts />);
    fireEvent.click(await screen.findByText("Start the clock"));
    await waitFor(() => expect(server.asked[0][1]).toBe("/api/life-casts/{id}/begin"));
  });
  it("that runs counts down, and writes down what happens once", async () => {
    server.casts = [cast({ began_at: "2026-01-12T09:10:00Z" })];
    show(<LifeCasts />);
    expect((await screen.findByRole("timer")).textContent).toMatch(/^(5:00|3:0\d|2:5\d)$/);
    fireEvent.change(screen.getByLabelText("In a few words"), { target: { value: "left of the thumb" } });
    server.no = new Problem(0, "offline", "", "The server does not answer.");
    fireEvent.click(screen.getByText("air trapped"));
    await waitFor(() => expect(server.asked).toHaveLength(1));
    expect(await screen.findByText("The server does not answer.")).toBeTruthy();
    expect((screen.getByLabelText("In a few words") as HTMLInputElement).value).toBe("left of the thumb");
    server.no = undefined;
    fireEvent.click(screen.getByText("air trapped"));
    await waitFor(() => expect(server.asked).toHaveLength(2));
    const keys = server.asked.map(([, , body]) => (body as { key: string }).key);
    expect(keys[0]).toBe(keys[1]);
    await waitFor(() => expect((screen.getByLabelText("In a few words") as HTMLInputElement).value).toBe(""));
  });
  it("is planned from its fields", async () => {
    show(<LifeCasts />);
    expect(await screen.findByText("None yet.")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Area, cm²"), { target: { value: "420" } });
    fireEvent.change(screen.getByLabelText("Taken with"), { target: { value: "skin silicone" } });
    expect(screen.queryByLabelText("Water, °C")).toBeNull();
    fireEvent.click(screen.getByText("Plan it"));
    await waitFor(() => expect(server.asked[0]?.[1]).toBe("/api/life-casts"));
    expect(server.asked[0][2]).toMatchObject({ region: "face", plan: { way: "skin silicone", area_cm2: 420 } });
  });
});
