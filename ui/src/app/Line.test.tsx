import { ChakraProvider } from "@chakra-ui/react";
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Line } from "./Line";
import { lineIs } from "./line";
import { outbox } from "./outbox";
import { system } from "./theme";

const show = () =>
  render(
    <ChakraProvider value={system}>
      <Line person={1} />
    </ChakraProvider>,
  );
const entry = (key: string, person = 1) => ({
  key,
  person,
  path: "/api/mixes/X-1/weigh",
  body: {},
  words: `9 g of part ${key} into X-1`,
  about: "X-1/1",
});

beforeEach(() => {
  vi.stubGlobal("fetch", () => Promise.reject(new TypeError("down")));
});
afterEach(() => {
  cleanup();
  for (const w of outbox.list()) outbox.drop(w.key);
  lineIs(true);
  vi.unstubAllGlobals();
});

test("nothing is said while the server answers", () => {
  show();
  expect(screen.queryByRole("status")).toBeNull();
});

test("a line that is down says since when, and what waits in whose name", async () => {
  show();
  await act(async () => {
    await outbox.add(entry("A"));
    await outbox.add(entry("B", 2));
  });
  const said = screen.getByRole("status").textContent ?? "";
  expect(said).toMatch(/cannot answer since \d\d:\d\d/);
  expect(said).toContain("9 g of part A into X-1");
  expect(said).not.toContain("part B");
  act(() => lineIs(true));
  expect(screen.getByRole("status").textContent).toContain("kept on this device");
});

test("what was refused after waiting stays until it was seen", async () => {
  show();
  await act(async () => void (await outbox.add(entry("A"))));
  vi.stubGlobal("fetch", () =>
    Promise.resolve(new Response(JSON.stringify({ status: 409, code: "ended", detail: "X-1 is poured already." }), { status: 409 })),
  );
  await act(() => outbox.flush(1));
  expect(screen.getByRole("status").textContent).toContain("was not taken: X-1 is poured already.");
  await act(async () => screen.getByText("I have seen it").click());
  expect(screen.queryByRole("status")).toBeNull();
});
