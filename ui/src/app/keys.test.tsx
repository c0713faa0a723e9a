import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { KeysProvider, useKey, useKeys } from "./keys";

const pressed = vi.fn();

function Room() {
  useKey("A", "add a layer", () => pressed("a"));
  useKey("B", "bench view", () => pressed("b"));
  const { list, setOn } = useKeys();
  return (
    <>
      <input aria-label="weight" />
      <button type="button" onClick={() => setOn(false)}>
        off
      </button>
      <p>
        {list()
          .map(([k, l]) => `${k} ${l}`)
          .join(", ")}
      </p>
    </>
  );
}

const strike = (key: string, more: KeyboardEventInit = {}) =>
  act(() => {
    (document.activeElement ?? document.body).dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, ...more }));
  });
const wait = (ms: number) => act(() => new Promise((go) => setTimeout(go, ms)));

beforeEach(() => {
  localStorage.clear();
  pressed.mockReset();
  render(
    <KeysProvider>
      <Room />
    </KeysProvider>,
  );
});
afterEach(cleanup);

test("a single key acts, in either case", async () => {
  await strike("a");
  await wait(80);
  await strike("B");
  await wait(80);
  expect(pressed.mock.calls).toEqual([["a"], ["b"]]);
});

test("a burst, as a scanner sends it, does nothing", async () => {
  await act(() => {
    for (const key of ["a", "b", "a", "b"]) document.body.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
  });
  await wait(120);
  expect(pressed).not.toHaveBeenCalled();
});

test("a hand that types into a field sets off nothing", async () => {
  screen.getByLabelText("weight").focus();
  await strike("a");
  await wait(80);
  expect(pressed).not.toHaveBeenCalled();
});

test("keys with Control or a held key are left to the browser", async () => {
  await strike("a", { ctrlKey: true });
  await wait(80);
  await strike("a", { repeat: true });
  await wait(80);
  expect(pressed).not.toHaveBeenCalled();
});

test("switched off they stay off, after a reload too", async () => {
  await act(() => screen.getByText("off").click());
  (document.activeElement as HTMLElement | null)?.blur();
  await strike("a");
  await wait(80);
  expect(pressed).not.toHaveBeenCalled();
  expect(localStorage.getItem("yewmoor.keys")).toBe("off");
});

test("what the keys do can be read", () => {
  cleanup();
  const { rerender } = render(
    <KeysProvider>
      <Room />
    </KeysProvider>,
  );
  rerender(
    <KeysProvider>
      <Room />
    </KeysProvider>,
  );
  expect(screen.getByText(/A add a layer, B bench view/)).toBeTruthy();
});
