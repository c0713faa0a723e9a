import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { FakeServer, No } from "../fakeServer";
import { show } from "../testing";
import type { Schemas } from "./api";
import { TriedBefore, Verdicts } from "./TriedBefore";

const trial: Schemas["BriefTrial"] = {
  id: 7,
  method: "",
  what: "Silicone thickener",
  material: "silicone-thickener",
  job: "a brush coat",
  region: "",
  result: "partly",
  reason: "it ran off",
  drying: "",
  skin: "",
  by: "Ivo",
  at: "2026-01-09T16:30:00Z",
};

let server: FakeServer;
beforeEach(() => {
  server = new FakeServer().get("/api/trials", [trial]).install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("what was tried before", () => {
  it("stands where one of the products is chosen, and is asked for once", async () => {
    show(<TriedBefore materials={["softener", "silicone-thickener", "softener", ""]} />);
    expect(await screen.findByText(/it ran off/)).toBeTruthy();
    expect(server.asked).toHaveLength(1);
    expect(server.asked[0].query.getAll("materials").join(",")).toBe("silicone-thickener,softener");
  });

  it("takes no room and asks nothing where no product is chosen", async () => {
    const { container } = show(<TriedBefore materials={["", ""]} />);
    await new Promise((done) => setTimeout(done, 50));
    expect(server.asked).toHaveLength(0);
    expect(container.querySelector("[data-testid=tried]")).toBeNull();
  });

  it("is written down with the product, and what was typed stays when the server says no", async () => {
    server.post("/api/trials", () => new No(422, "missing", "reason", "Say why it went as it did."));
    show(<Verdicts material="silicone-thickener" />);
    fireEvent.change(await screen.findByLabelText("For which job"), { target: { value: "a cheek" } });
    fireEvent.change(screen.getByLabelText("It"), { target: { value: "failed" } });
    fireEvent.click(screen.getByText("Write it down"));
    expect(await screen.findByText("Say why it went as it did.")).toBeTruthy();
    expect((screen.getByLabelText("For which job") as HTMLInputElement).value).toBe("a cheek");
    server.post("/api/trials", () => [trial]);
    fireEvent.change(screen.getByLabelText("Why it went so"), { target: { value: "it tore" } });
    fireEvent.click(screen.getByText("Write it down"));
    await waitFor(() => expect((screen.getByLabelText("For which job") as HTMLInputElement).value).toBe(""));
    expect(server.posted("/api/trials").at(-1)).toEqual({ material: "silicone-thickener", job: "a cheek", result: "failed", reason: "it tore" });
  });
});
