import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aMaterial, showAt } from "../../testing";
import Stores from "./Stores";

const lot = (more: Partial<Schemas["StoresLot"]> = {}): Schemas["StoresLot"] => ({
  code: "25-012",
  part: "",
  material: "latex-balloon",
  material_name: "Latex, soft",
  family: "latex",
  supplier: "the counter",
  received_on: "2025-11-02T00:00:00Z",
  expires_on: "2026-11-02T00:00:00Z",
  open_life_days: 180,
  on_hand_g: 812,
  shelf: "cold cupboard",
  status: "ok",
  status_reason: "",
  ...more,
});

let server: FakeServer;

beforeEach(() => {
  server = new FakeServer()
    .get("/api/lots", [
      lot(),
      lot({ code: "25-020", material_name: "Gelatin sheet", family: "gelatin", expires_on: "2026-01-20T00:00:00Z" }),
      lot({ code: "25-001", material_name: "Old wax", family: "wax", refused: "recalled" }),
    ])
    .get("/api/clock", { now: "2026-01-12T08:15:00Z", settable: true })
    .get("/api/materials", [
      aMaterial({ slug: "silicone-gel", name: "Silicone gel", family: "silicone_addition", ratio: { a: 1, b: 1 } }),
      aMaterial({}),
    ])
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("stores", () => {
  it("says what runs out of its time and what may not be used", async () => {
    showAt("/stores", <Stores />);
    await screen.findByText("3 lots");
    screen.getByText("2026-01-20, 8 days");
    screen.getByText("2026-11-02, recalled");
  });

  it("narrows down by what is written on the jar", async () => {
    showAt("/stores", <Stores />);
    fireEvent.change(await screen.findByLabelText("Narrow the lots down"), { target: { value: "gelat" } });
    await waitFor(() => expect(screen.queryByText("25-012")).toBeNull());
    screen.getByText("25-020");
  });

  it("asks a two-part kit for both parts and keeps what was typed when the server says no", async () => {
    server.post("/api/lots", () => new No(422, "taken", "code", "There is a lot of this code already."));
    showAt("/stores", <Stores />);
    fireEvent.change(await screen.findByLabelText("Part A"), { target: { value: "1 kg" } });
    fireEvent.change(screen.getByLabelText("Lot code"), { target: { value: "25-012" } });
    fireEvent.click(screen.getByText("Take it in"));
    await screen.findByText("There is a lot of this code already.");
    expect((screen.getByLabelText("Part A") as HTMLInputElement).value).toBe("1 kg");
    fireEvent.change(screen.getByLabelText("Material"), { target: { value: "latex-balloon" } });
    screen.getByLabelText("Amount");
    expect(screen.queryByLabelText("Part B")).toBeNull();
  });
});
