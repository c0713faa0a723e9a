import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Problem, type Schemas } from "../../app/api";
import { CameAgain, CameOut } from "../../piece/CameOut";
import { around, freshClient, show } from "../../testing";
import { DryingPlot, OvenAnswer, WeighIn } from "./Drying";
import { MouldPage } from "./MouldPage";
import { Life, Moulds } from "./Moulds";
import { PlanDesk } from "./PlanDesk";

type Detail = Schemas["MouldDetail"];

// A server that writes down what it is asked, and can say no.
const server = {
  asked: [] as [string, unknown][],
  no: undefined as Problem | undefined,
  mould: undefined as Detail | undefined,
  moulds: [] as Schemas["Mould"][],
  plan: {} as object,
  sheet: {} as object,
  found: { scan: 0, places: [], profile_mm: [] } as object,
};

async function serve(method: string, path: string, options: { body?: unknown } = {}) {
  if (path === "/api/mould-sheets") {
    server.asked.push([path, options.body]);
    if (server.no) throw server.no;
    return server.sheet;
  }
  if (method === "GET") {
    if (path === "/api/moulds/one") return server.mould;
    if (path === "/api/moulds") return server.moulds;
    if (path === "/api/pieces/{code}") return { code: "AL-02", name: "Cheeks of bark" };
    if (path === "/api/pieces/{code}/mould-plan") return server.plan;
    if (path === "/api/pieces/{code}/measured") return server.found;
    return [];
  }
  server.asked.push([path, options.body]);
  if (server.no) throw server.no;
  return {};
}

vi.mock("../../app/api", async (original) => ({
  ...(await original<typeof import("../../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: Object.fromEntries(["GET", "PUT", "POST"].map((method) => [method, (path: string, options: object) => serve(method, path, options)])),
}));

vi.mock("../../app/useScale", () => ({ useScale: () => ({ reading: { unit: "g", value: 3519, stable: true } }) }));

beforeEach(
  () => void Object.assign(server, { asked: [], no: undefined, moulds: [], plan: {}, sheet: {}, found: { scan: 0, places: [], profile_mm: [] } }),
);
afterEach(cleanup);

const weighing = (id: number, day: number, kg: number, more: object = {}) => ({
  id,
  kg,
  at: new Date(Date.UTC(2026, 0, 7 + day, 9)).toISOString(),
  who: "Pip Sallow",
  place: "laths by the door",
  source: "typed",
  counts: true,
  wrong: false,
  ...more,
});
const detail = (more: object = {}, drying: object = {}): Detail =>
  ({
    code: "AL-03/M1",
    piece: "AL-03",
    piece_name: "Chin of bark",
    kind: "block",
    material: "hard stone",
    state: "drying",
    place: "laths by the door",
    release_agent: "wax paste",
    separator: "soap",
    note: "",
    casts: 2,
    life: 30,
    version: 1,
    last_kg: 3.583,
    dries: true,
    made: [{ code: "AL-03-a", run: "R-0009", state: "made", made_at: "2026-01-11T09:00:00Z" }],
    marks: [],
    repeats: [],
    photos: [],
    findings: [],
    drying: {
      weighings: [weighing(1, 0, 3.861), weighing(2, 1, 3.742), weighing(3, 2, 3.651), weighing(4, 3, 3.583)],
      from: "2026-01-07T09:00:00Z",
      says: "Drying towards 3.350 kg.",
      curve: { m_inf_kg: 3.35, state: "drying" },
      line: [
        [0, 3.86],
        [72, 3.58],
        [200, 3.4],
      ],
      dry_at: "2026-01-21T09:00:00Z",
      dry_low: "2026-01-19T09:00:00Z",
      dry_high: "2026-01-24T09:00:00Z",
      oven: { may: "gently", reason: "Not to bake (MLD-1)." },
      ...drying,
    },
    ...more,
  }) as unknown as Detail;

describe("the course of drying", () => {
  it("is said in words, and every weighing that counts is a point", () => {
    const { container } = show(<DryingPlot d={detail().drying} />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toMatch(/^4 weighings from 3\.861 to 3\.583 kg; dry at 3\.350 kg, about /);
    expect(container.querySelectorAll("circle")).toHaveLength(4);
    expect(screen.getByText("comes to 3.350 kg")).toBeTruthy();
    const heights = [...container.querySelectorAll("circle")].map((c) => Number(c.getAttribute("cy")));
    expect([...heights].sort((a, b) => a - b)).toEqual(heights);
  });
  it("leaves out what does not count", () => {
    const list = [weighing(1, 0, 4.2, { counts: false }), weighing(2, 1, 3.742), weighing(3, 2, 3.651)];
    const { container } = show(<DryingPlot d={detail({}, { weighings: list }).drying} />);
    expect(container.querySelectorAll("circle")).toHaveLength(2);
  });
  it("has an empty sheet before the first weighing, without invented kilograms", () => {
    show(<DryingPlot d={detail({}, { weighings: [], curve: undefined, dry_at: undefined, dry_low: undefined, dry_high: undefined }).drying} />);
    expect(screen.getByText("The first weighing stands here.")).toBeTruthy();
    expect(screen.queryByText(/0\.00 kg/)).toBeNull();
  });
  it("answers for the oven with the reason", () => {
    show(<OvenAnswer m={detail()} />);
    expect(screen.getByText("Not into the oven; dry it gently")).toBeTruthy();
    expect(screen.getByText("Not to bake (MLD-1).")).toBeTruthy();
    cleanup();
    show(<OvenAnswer m={detail({}, { oven: { may: "yes", reason: "Dry by the scale." } })} />);
    expect(screen.getByText("It may go into the oven")).toBeTruthy();
  });
});

describe("a weighing", () => {
  it("is written down in kilograms, a comma too, and nothing else", async () => {
    show(<WeighIn m={detail()} />);
    const field = screen.getByLabelText("Weight, kg") as HTMLInputElement;
    const go = screen.getByText("Write it down").closest("button") as HTMLButtonElement;
    expect(go.disabled).toBe(true);
    fireEvent.change(field, { target: { value: "heavy" } });
    expect(go.disabled).toBe(true);
    fireEvent.change(field, { target: { value: "3,527 kg" } });
    fireEvent.click(go);
    await waitFor(() => expect(server.asked).toHaveLength(1));
    expect(server.asked[0][1]).toMatchObject({ code: "AL-03/M1", kg: 3.527, source: "typed", place: "laths by the door", corrects: undefined });
    await waitFor(() => expect(field.value).toBe(""));
  });
  it("that was lost on the way keeps its figure and its key", async () => {
    server.no = new Problem(0, "offline", "", "The server does not answer.");
    show(<WeighIn m={detail()} />);
    fireEvent.change(screen.getByLabelText("Weight, kg"), { target: { value: "3.5" } });
    fireEvent.click(screen.getByText("Write it down"));
    expect(await screen.findByText("The server does not answer.")).toBeTruthy();
    expect((screen.getByLabelText("Weight, kg") as HTMLInputElement).value).toBe("3.5");
    server.no = undefined;
    fireEvent.click(screen.getByText("Write it down"));
    await waitFor(() => expect(server.asked).toHaveLength(2));
    const [a, b] = server.asked.map(([, body]) => (body as { key: string }).key);
    expect(a).toBe(b);
  });
  it("is taken from the bench scale as it reads", async () => {
    show(<WeighIn m={detail()} />);
    fireEvent.click(screen.getByText("Take 3.519 kg from the scale"));
    await waitFor(() => expect(server.asked[0]?.[1]).toMatchObject({ kg: 3.519, source: "scale" }));
  });
  it("that was wrong is put right, the old one named", async () => {
    show(<WeighIn m={detail()} />);
    fireEvent.click(screen.getByLabelText("3.651 kg was wrong"));
    expect(screen.getByText("Put a weighing right")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Weight, kg"), { target: { value: "3.661" } });
    fireEvent.click(screen.getByText("Write it down"));
    await waitFor(() => expect(server.asked[0]?.[1]).toMatchObject({ kg: 3.661, corrects: 3 }));
  });
});

describe("how a copy came out", () => {
  it("asks where, and keeps what was typed when the server says so", async () => {
    server.no = new Problem(422, "missing", "place", "Where? In a few words, the same each time.");
    show(<CameOut mould={detail()} of="AL-03-a" />);
    fireEvent.change(screen.getByLabelText("It was"), { target: { value: "tear" } });
    fireEvent.change(screen.getByLabelText("In a few words"), { target: { value: "pulled too fast" } });
    fireEvent.click(screen.getByText("Write it down"));
    expect(await screen.findByText(/Where\? In a few words/)).toBeTruthy();
    expect((screen.getByLabelText("In a few words") as HTMLInputElement).value).toBe("pulled too fast");
    server.no = undefined;
    fireEvent.change(screen.getByLabelText("Where"), { target: { value: "lower edge" } });
    fireEvent.click(screen.getByText("Write it down"));
    await waitFor(() => expect(server.asked).toHaveLength(2));
    expect(server.asked[1][1]).toMatchObject({ code: "AL-03/M1", copy: "AL-03-a", kind: "tear", place: "lower edge", words: "pulled too fast" });
  });
  it("is chosen among the mould's copies where none is in hand", () => {
    show(<CameOut mould={detail()} />);
    expect([...(screen.getByLabelText("The copy") as HTMLSelectElement).options].map((o) => o.text)).toEqual(["the mould itself", "AL-03-a"]);
  });
  it("is told when it comes again", () => {
    show(<CameAgain mould={detail({ repeats: [{ kind: "bubble", place: "left nostril", times: 3, likely: "air is caught" }] })} />);
    expect(screen.getByText("bubble, left nostril")).toBeTruthy();
    expect(screen.getByText("Likely: air is caught.")).toBeTruthy();
  });
});

describe("a mould's page", () => {
  it("opens on the scale while it dries, on its casts once it is in use", async () => {
    server.mould = detail();
    show(<MouldPage code="AL-03/M1" />);
    expect((await screen.findByRole("tab", { name: "Weigh" })).getAttribute("aria-selected")).toBe("true");
    cleanup();
    server.mould = detail({ state: "in_use" }, { weighings: [] });
    show(<MouldPage code="AL-03/M1" />);
    expect((await screen.findByRole("tab", { name: "Casts" })).getAttribute("aria-selected")).toBe("true");
    expect(screen.queryByText("The first weighing stands here.")).toBeNull();
  });
  it("has no scale for what does not dry", async () => {
    server.mould = detail({ dries: false, material: "mould silicone, condensation", state: "resting" });
    show(<MouldPage code="PK-01/M1" />);
    await screen.findByRole("tab", { name: "Casts" });
    expect(screen.queryByRole("tab", { name: "Weigh" })).toBeNull();
  });
});

describe("the moulds", () => {
  it("stand by their state, and change it", async () => {
    server.moulds = [detail(), detail({ code: "BF-01/M1", state: "resting", casts: 29 })] as unknown as Schemas["Mould"][];
    show(<Moulds />);
    expect((await screen.findAllByRole("heading", { level: 2 })).map((h) => h.textContent).slice(0, 2)).toEqual(["drying", "resting"]);
    fireEvent.change(screen.getByLabelText("State of AL-03/M1"), { target: { value: "dry" } });
    await waitFor(() => expect(server.asked[0]).toEqual(["/api/moulds/state", { code: "AL-03/M1", state: "dry" }]));
  });
  it("teach what to do when there is none", async () => {
    show(<Moulds />);
    expect(await screen.findByText(/No mould yet/)).toBeTruthy();
  });
  it("count their casts against their life", () => {
    show(<Life casts={1} life={30} />);
    expect(screen.getByText("1 cast of 30")).toBeTruthy();
    cleanup();
    show(<Life casts={4} />);
    expect(screen.getByText("4 casts")).toBeTruthy();
  });
});

const body = (scanned: boolean) => ({ area_mm2: 17_300, volume_mm3: 131_000, size_mm: [134, 86, 97], scanned });
const plan = (more: object = {}) => ({
  ticks: [],
  scanned: { known: true, name: "AL-02-finished.ply", body: body(true), locks_mm2: 2547, cavity_mm3: 28_000 },
  usual: body(false),
  kinds: ["flat plate", "block", "glove in a jacket"],
  stuffs: [
    { name: "hard stone", gypsum: true, gives: false, wall_mm: 30, wall_range: [25, 45], water_per_100: 30, water_range: [22, 40] },
    { name: "mould silicone, condensation", gypsum: false, gives: true, wall_mm: 10, wall_range: [6, 20], water_range: [0, 0] },
  ],
  family: "foam_latex",
  ...more,
});
const sheet = {
  lines: [{ what: "hard stone", need_g: 1770, order_g: 1860, rule: "box less the body", price_minor: 460 }],
  price_minor: 480,
  wet_kg: 2.3,
  dry_kg: 2.08,
  casts: 30,
  findings: [],
  cautions: [],
  items: [],
  steps: [],
  hands_s: 4800,
  waits_s: 5040,
};

describe("laying out a build sheet", () => {
  it("takes the scanned body unless sizes are typed", async () => {
    Object.assign(server, { plan: plan(), sheet });
    show(<PlanDesk code="AL-02" />);
    expect(await screen.findByText("by the scan AL-02-finished.ply")).toBeTruthy();
    await waitFor(() => expect(server.asked.at(-1)?.[1]).toMatchObject({ kind: "block", cast: "foam_latex", baked: true, body: { scanned: true } }));
    fireEvent.click(screen.getByLabelText(/as it was scanned/));
    fireEvent.change(screen.getByLabelText("Wide × high × deep, mm"), { target: { value: "100 x 80 x 60" } });
    await waitFor(() => expect(server.asked.at(-1)?.[1]).toHaveProperty("body", { area_mm2: 17_300, volume_mm3: 131_000, size_mm: [100, 80, 60] }));
  });
  it("takes a scan that is measured while it is open", async () => {
    Object.assign(server, { plan: plan({ scanned: { known: false } }), sheet });
    const client = freshClient();
    render(around(<PlanDesk code="AL-02" />, client));
    expect(await screen.findByText("usual for the region; type your own")).toBeTruthy();
    server.plan = plan();
    await client.invalidateQueries();
    expect(await screen.findByText("by the scan AL-02-finished.ply")).toBeTruthy();
  });
  it("does not let a word pass for the usual figure", async () => {
    Object.assign(server, { plan: plan(), sheet });
    show(<PlanDesk code="AL-02" />);
    fireEvent.change(await screen.findByLabelText("Wall, mm"), { target: { value: "thick" } });
    expect(await screen.findByText("“thick” is no number.")).toBeTruthy();
    expect((screen.getByText("Keep this build sheet").closest("button") as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Wall, mm"), { target: { value: "32,5" } });
    await waitFor(() => expect(server.asked.at(-1)?.[1]).toMatchObject({ wall_mm: 32.5 }));
    expect(screen.queryByText("“thick” is no number.")).toBeNull();
  });
  it("shows what the server says at the field", async () => {
    Object.assign(server, { plan: plan(), sheet, no: new Problem(422, "BAD_WALL", "wall_mm", "The wall lies above 0 and under 300 mm.") });
    show(<PlanDesk code="AL-02" />);
    expect(await screen.findByText("The wall lies above 0 and under 300 mm.")).toBeTruthy();
  });
  it("that could not be kept may be kept after all, as it was typed", async () => {
    Object.assign(server, { plan: plan(), sheet });
    show(<PlanDesk code="AL-02" />);
    fireEvent.change(await screen.findByLabelText("Wall, mm"), { target: { value: "33" } });
    await waitFor(() => expect(server.asked.at(-1)?.[1]).toMatchObject({ wall_mm: 33 }));
    server.no = new Problem(0, "offline", "", "The server does not answer.");
    fireEvent.click(screen.getByText("Keep this build sheet"));
    expect(await screen.findByText("The server does not answer.")).toBeTruthy();
    server.no = undefined;
    const keep = screen.getByText("Keep this build sheet").closest("button") as HTMLButtonElement;
    await waitFor(() => expect(keep.disabled).toBe(false));
    fireEvent.click(keep);
    await waitFor(() => expect(server.asked.filter(([path]) => path === "/api/pieces/{code}/mould-plan")).toHaveLength(2));
    expect(server.asked.at(-1)?.[1]).toMatchObject({ wall_mm: 33 });
  });
  it("says what is to be mended on the sculpt first, and what holds it back", async () => {
    Object.assign(server, {
      plan: plan({ held: "Nobody has ticked: gaps are filled." }),
      sheet,
      found: { scan: 7, profile_mm: [], places: [{ kind: "core_contact", words: "core contact, 0.5 cm²: would cast as a hole" }] },
    });
    show(<PlanDesk code="AL-02" />);
    expect(await screen.findByText(/To mend on the sculpt first: core contact/)).toBeTruthy();
    expect(screen.getByText("To its gate").getAttribute("href")).toBe("/sculpt/AL-02?leaf=Gate");
  });
});
