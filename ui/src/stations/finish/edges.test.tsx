import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aPiece, showAt } from "../../testing";
import { Edges } from "./Edges";

type Rim = Schemas["FinishRim"];
const look = (step_mm: number, more = {}) =>
  ({
    id: 1,
    step_mm,
    ramp_mm: 1.5,
    de00: 0,
    blend_mm: 0,
    how: "measured",
    coats: 0,
    note: "",
    at: "2026-01-09T10:00:00Z",
    who: "Pip Sallow",
    ...more,
  }) as Rim["looks"][number];
const rim = (more: Partial<Rim>): Rim =>
  ({
    id: 1,
    kind: "edge",
    name: "all round",
    length_mm: 160,
    intent: "vanish",
    near_eye: false,
    moving: false,
    looks: [],
    does: false,
    ways: { ways: ["melt_acetone", "stipple_latex"], refused: { paste_acrylic: "moving" }, eyes_shut: ["melt_acetone"] },
    ...more,
  }) as Rim;
const visible = { visibility: 1.8, class: "seen", shade_vanish_m: 3.2 } as Rim["visible"];

let server: FakeServer;
let rims: Rim[];
const edges = (): Schemas["FinishEdges"] =>
  ({
    copy: "AL-01-a",
    material: "encapsulated_acetone",
    grade: "full",
    distance_m: 0.8,
    limit: 0.5,
    latex_ok: true,
    rims,
    methods: [
      { id: "melt_acetone", how: "a damp brush, outward", note: "flammable" },
      { id: "stipple_latex", how: "thin coats", note: "" },
    ],
  }) as unknown as Schemas["FinishEdges"];

beforeEach(() => {
  rims = [rim({}), rim({ id: 2, kind: "seam", name: "where the mould parts" })];
  server = new FakeServer()
    .get("/api/copies/{code}/edges", edges)
    .get("/api/pieces", [aPiece({ code: "AL-01" })])
    .get("/api/pieces/{code}", aPiece({ code: "AL-01" }) as never)
    .get("/api/pieces/{code}/brief", { doc: { marks: [] } } as never)
    .get("/api/map/kinds", [])
    .get("/api/materials", [])
    .post("/api/copies/{code}/edges", edges)
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("a stretch of edge", () => {
  it("says that nobody looked, and which ways are allowed and which not", async () => {
    showAt("/", <Edges code="AL-01-a" piece="AL-01" />);
    const all = (await screen.findAllByText("not looked at yet"))[0].closest("[data-rim]") as HTMLElement;
    expect(all.textContent).toContain("melt acetone, eyes shut until dry: a damp brush, outward");
    expect(all.textContent).toContain("Not here: paste acrylic (does not hold where skin moves)");
    expect((within(all).getByText("Write it down").closest("button") as HTMLButtonElement).disabled).toBe(true);
  });

  it("is written down as found, then as repaired, each with a key of its own", async () => {
    showAt("/", <Edges code="AL-01-a" piece="AL-01" />);
    fireEvent.change((await screen.findAllByLabelText("Step, mm"))[0], { target: { value: "0,4" } });
    fireEvent.click(screen.getAllByText("Write it down")[0]);
    await waitFor(() => expect((screen.getAllByLabelText("Step, mm")[0] as HTMLInputElement).value).toBe(""));
    fireEvent.change(screen.getAllByLabelText("Step, mm")[0], { target: { value: "0.03" } });
    fireEvent.change(screen.getByLabelText("Done to it before"), { target: { value: "melt_acetone" } });
    fireEvent.change(screen.getByLabelText("passes or coats"), { target: { value: "3" } });
    fireEvent.click(screen.getByText("Repaired so"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/edges")).toHaveLength(2));
    const [found, repaired] = server.posted("/api/copies/{code}/edges") as Schemas["FinishNewLook"][];
    expect(found).toMatchObject({ kind: "edge", name: "all round", step_mm: 0.4, how: "measured" });
    expect(repaired).toMatchObject({ step_mm: 0.03, way: "melt_acetone", coats: 3 });
    expect(repaired.key).not.toBe(found.key);
  });

  it("keeps what was typed and its key when the server says no", async () => {
    server.post("/api/copies/{code}/edges", () => new No(422, "contradiction", "way", "Not here: it holds latex, which this wearer does not take."));
    showAt("/", <Edges code="AL-01-a" piece="AL-01" />);
    fireEvent.change((await screen.findAllByLabelText("Step, mm"))[0], { target: { value: "0.1" } });
    fireEvent.change(screen.getByLabelText("Done to it before"), { target: { value: "stipple_latex" } });
    fireEvent.click(screen.getByText("Repaired so"));
    await screen.findByText(/which this wearer does not take/);
    expect((screen.getAllByLabelText("Step, mm")[0] as HTMLInputElement).value).toBe("0.1");
    fireEvent.click(screen.getByText("Repaired so"));
    await waitFor(() => expect(server.posted("/api/copies/{code}/edges")).toHaveLength(2));
    const [one, two] = server.posted("/api/copies/{code}/edges") as Schemas["FinishNewLook"][];
    expect(two.key).toBe(one.key);
  });

  it("says what is seen of it on the day, and puts the ways away once it does what it should", async () => {
    rims = [rim({ looks: [look(1.2)], visible, light: "lamps" })];
    showAt("/", <Edges code="AL-01-a" piece="AL-01" />);
    const all = (await screen.findByText("1.2 mm measured")).closest("[data-rim]") as HTMLElement;
    expect(all.textContent).toContain("seen in lamps, 1.80 of what is just seen (0.5 is allowed); its shade is gone from 3.2 m on");
    expect(all.textContent).toContain("To be repaired.");
    expect(all.querySelector("details")?.open).toBe(true);
    cleanup();
    rims = [
      rim({
        does: true,
        looks: [look(1.2), look(0.02, { id: 2, way: "melt_acetone", coats: 3 })],
        visible: { ...visible, visibility: 0.2, class: "gone" } as Rim["visible"],
        light: "lamps",
      }),
    ];
    showAt("/", <Edges code="AL-01-a" piece="AL-01" />);
    await screen.findByText("0.02 mm measured");
    expect(document.querySelector("[data-rim] details")?.hasAttribute("open")).toBe(false);
    expect(screen.getByLabelText("How all round was found").textContent).toContain("melt acetone × 3, then 0.02 mm");
  });

  it("of its own is added by name", async () => {
    showAt("/", <Edges code="AL-01-a" piece="AL-01" />);
    const own = (await screen.findByText("A stretch of its own")).closest("details") as HTMLElement;
    const entries = within(own).getAllByRole("textbox", { hidden: true }) as HTMLInputElement[];
    expect(entries).toHaveLength(3);
    for (const [i, value] of ["behind the ear", "40", "0.3"].entries()) fireEvent.change(entries[i], { target: { value } });
    fireEvent.click(within(own).getByRole("button", { hidden: true }));
    await waitFor(() =>
      expect(server.posted("/api/copies/{code}/edges")[0]).toMatchObject({ kind: "edge", name: "behind the ear", length_mm: 40, step_mm: 0.3 }),
    );
  });
});
