import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { FakeServer } from "../fakeServer";
import { show } from "../testing";
import { Amounts } from "./Amounts";
import { PutRight } from "./PutRight";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const voices = {
  voices: [
    { name: "section", volume_ml: 7.3, sd_ml: 1.8 },
    { name: "scan", volume_ml: 17.7, sd_ml: 0.5 },
  ],
  believed: "scan",
  chosen: false,
  volume_ml: 17.7,
  sd_ml: 0.5,
  disagree: ["section"],
  areas: {
    areas: [
      { name: "section", cm2: 48.9, sd_cm2: 2.4 },
      { name: "map", cm2: 50.1, sd_cm2: 2.5 },
    ],
    believed: "map",
    chosen: false,
    cm2: 50.1,
    sd_cm2: 2.5,
    disagree: [],
  },
};

test("the voices stand side by side, and one is believed with a reason", async () => {
  const server = new FakeServer()
    .get("/api/me", { demo: true, devices: [], person: { id: 1, name: "Ivo", login: "ivo", role: "fabricator" } })
    .get("/api/pieces/{code}/amounts", voices)
    .put("/api/pieces/{code}/amounts", () => ({ ...voices, believed: "section", chosen: true }))
    .install();
  show(<Amounts code="BF-03" />);
  expect(await screen.findByText("they contradict each other")).toBeTruthy();
  expect(screen.getByText("17.7 ml ± 1.0")).toBeTruthy();
  expect(screen.getByText("50.1 cm² ± 5.0")).toBeTruthy();
  fireEvent.click((await screen.findAllByText("believe it"))[0]);
  fireEvent.change(screen.getByLabelText("Why this one is right"), { target: { value: "the scan took the stand in" } });
  fireEvent.click(screen.getByText("Go by it"));
  await waitFor(() =>
    expect(server.asked.filter((a) => a.method === "PUT").map((a) => a.body)).toEqual([
      { what: "volume", route: "section", reason: "the scan took the stand in" },
    ]),
  );
});

test("something is put right only with a reason, and the server says what depends on it", async () => {
  const run = vi.fn(async (_: string) => {});
  show(<PutRight label="take the verdict back" act="Take it back" run={run} />);
  fireEvent.click(screen.getByText("take the verdict back"));
  expect((screen.getByText("Take it back") as HTMLButtonElement).disabled).toBe(true);
  fireEvent.change(screen.getByLabelText("What was wrong"), { target: { value: "the other one" } });
  fireEvent.click(screen.getByText("Take it back"));
  await waitFor(() => expect(run).toHaveBeenCalledWith("the other one"));
});
