import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { FakeServer } from "../fakeServer";
import { showAt } from "../testing";
import { RoomAir } from "./RoomAir";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const shelf = { pots: [], room: { temp_c: 21, rh: 0.5 }, room_measured: false, room_typed: false };

test("a shop without a sensor types what its thermometer shows", async () => {
  const server = new FakeServer()
    .get("/api/me", { demo: false, devices: [] })
    .post("/api/room", () => ({ ok: true }))
    .install();
  showAt("/", <RoomAir shelf={shelf} />);
  fireEvent.click(await screen.findByText("nobody has read it: type it"));
  const keep = screen.getByText("Keep it") as HTMLButtonElement;
  fireEvent.change(screen.getByLabelText("°C"), { target: { value: "18,5" } });
  fireEvent.change(screen.getByLabelText("% RH"), { target: { value: "many" } });
  expect(keep.disabled).toBe(true);
  fireEvent.change(screen.getByLabelText("% RH"), { target: { value: "62" } });
  fireEvent.click(keep);
  await waitFor(() => expect(screen.queryByText("Keep it")).toBeNull());
  expect(server.posted("/api/room")).toEqual([{ temp_c: 18.5, rh: 0.62 }]);
});

test("a shop with a sensor does not", async () => {
  new FakeServer().get("/api/me", { demo: true, devices: ["room"] }).install();
  showAt("/", <RoomAir shelf={{ ...shelf, room_measured: true }} />);
  expect(await screen.findByText("room 21.0 °C · 50 % RH")).toBeTruthy();
  expect(screen.queryByText(/type/)).toBeNull();
});
