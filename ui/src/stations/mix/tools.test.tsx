import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { showAt } from "../../testing";
import { Tools } from "./Tools";

const brush: Schemas["MixTool"] = { id: 3, name: "Chip brush", kind: "brush", state: "good", held: 5, place: "drawer 2", cost_minor: 80 };
const towel: Schemas["MixTool"] = {
  id: 4,
  name: "White towel",
  kind: "towel",
  state: "messy",
  held: 2,
  place: "",
  cost_minor: 450,
  dirty: "blood and dye",
  clean: {
    medium: "blood and dye",
    families: ["blood"],
    with: "cold water",
    tool: "a cheap brush",
    cloth: "cold water at once",
    minutes: 4,
    ruins: "towels",
  },
};
const view: Schemas["MixTools"] = {
  list: [towel, brush],
  thrown: [{ name: "Chip brush", n: 2, why: "dried over lunch", cost_minor: 160, at: "2026-01-09T16:30:00Z", by: "Pip Sallow" }],
  thrown_minor: 160,
  mediums: ["latex, wet", "blood and dye"],
};

let server: FakeServer;
beforeEach(() => {
  server = new FakeServer()
    .get("/api/tools", view)
    .post("/api/tools", () => view)
    .post("/api/tools/{id}", () => view)
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const row = async (name: string) =>
  within((await screen.findByText(name, { exact: false, selector: "[data-tool] *" })).closest("[data-tool]") as HTMLElement);

describe("tools and cloth", () => {
  it("say how a cloth comes clean as a cloth, and what was thrown away cost", async () => {
    showAt("/hands", <Tools />);
    const dirty = await row("White towel");
    expect(dirty.getByText(/cold water; cold water at once. 4 min. It spoils towels/)).toBeTruthy();
    expect(dirty.getByText(/for messy work/)).toBeTruthy();
    expect(screen.getByText("1.60 in ninety days")).toBeTruthy();
    expect(screen.getByText(/dried over lunch/)).toBeTruthy();
  });

  it("are thrown away so many at a time, with what spoiled them", async () => {
    showAt("/hands", <Tools />);
    const five = await row("Chip brush");
    fireEvent.click(five.getByText("What became of it"));
    fireEvent.change(five.getByLabelText("It"), { target: { value: "thrown" } });
    fireEvent.change(five.getByLabelText("How many of 5"), { target: { value: "2" } });
    fireEvent.change(five.getByLabelText("Why"), { target: { value: "stiff" } });
    fireEvent.click(five.getByText("Write it down"));
    await waitFor(() => expect(server.posted("/api/tools/{id}")).toEqual([{ act: "thrown", n: 2, why: "stiff" }]));
    expect(server.asked.find((a) => a.method === "POST")?.params.id).toBe("3");
    await waitFor(() => expect(five.queryByLabelText("It")).toBeNull());
  });

  it("are written down as they come, a bowl with what it holds", async () => {
    server.get("/api/tools", { ...view, list: [{ ...brush, id: 9, name: "Mixing bowl", kind: "bowl", holds_ml: 5000 }] });
    showAt("/hands", <Tools />);
    (await row("Mixing bowl")).getByText(/5 l/);
    expect(screen.queryByLabelText("Holds, ml")).toBeNull();
    fireEvent.change(screen.getByLabelText("What"), { target: { value: "Small bowl" } });
    fireEvent.change(screen.getByLabelText("Kind"), { target: { value: "bowl" } });
    fireEvent.change(screen.getByLabelText("Holds, ml"), { target: { value: "600" } });
    fireEvent.click(screen.getByText("Write it down"));
    await waitFor(() => expect(server.posted("/api/tools")).toEqual([{ name: "Small bowl", kind: "bowl", n: 1, holds_ml: 600 }]));
  });

  it("keep what was typed when the server says no", async () => {
    server.post("/api/tools/{id}", () => new No(422, "missing", "why", "Say what spoiled it."));
    showAt("/hands", <Tools />);
    const five = await row("Chip brush");
    fireEvent.click(five.getByText("What became of it"));
    fireEvent.change(five.getByLabelText("It"), { target: { value: "thrown" } });
    fireEvent.change(five.getByLabelText("How many of 5"), { target: { value: "3" } });
    fireEvent.click(five.getByText("Write it down"));
    expect(await five.findByText("Say what spoiled it.")).toBeTruthy();
    expect((five.getByLabelText("How many of 5") as HTMLInputElement).value).toBe("3");
  });

  it("come with a price in whole money", async () => {
    showAt("/hands", <Tools />);
    await row("Chip brush");
    fireEvent.change(screen.getByLabelText("What"), { target: { value: "Soft brush" } });
    fireEvent.change(screen.getByLabelText("How many"), { target: { value: "3" } });
    fireEvent.change(screen.getByLabelText("Each costs"), { target: { value: "9,20" } });
    fireEvent.click(screen.getByText("Write it down"));
    await waitFor(() => expect(server.posted("/api/tools")).toEqual([{ name: "Soft brush", kind: "brush", n: 3, cost_minor: 920 }]));
  });
});
