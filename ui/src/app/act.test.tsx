import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { useAct } from "./act";
import { Problem } from "./api";
import type { Topic } from "./topics";

afterEach(cleanup);

function Room({ call, changes = [] }: { call: () => Promise<unknown>; changes?: Topic[] }) {
  const it = useAct(call, ...changes);
  return (
    <button type="button" disabled={it.busy} onClick={() => void it.run()}>
      {it.problem ? `${it.problem.field}: ${it.problem.message}` : it.busy ? "busy" : "ready"}
    </button>
  );
}

const show = (call: () => Promise<unknown>, client = new QueryClient(), ...changes: Topic[]) =>
  render(
    <QueryClientProvider client={client}>
      <Room call={call} changes={changes} />
    </QueryClientProvider>,
  );
const click = () => act(async () => screen.getByRole("button").click());

test("the server's no is kept with its field, and cleared by the next try", async () => {
  const call = vi
    .fn()
    .mockRejectedValueOnce(new Problem(422, "missing", "reason", "Say why."))
    .mockResolvedValueOnce("done");
  show(call);
  await click();
  expect(screen.getByText("reason: Say why.")).toBeTruthy();
  await click();
  expect(await screen.findByText("ready")).toBeTruthy();
});

test("anything else that goes wrong is told as a line that is down, with what is kept", async () => {
  show(() => Promise.reject(new TypeError("Failed to fetch")));
  await click();
  expect(screen.getByRole("button").textContent).toContain("What was recorded is kept");
});

test("it is busy only while it runs, and reads again what it names", async () => {
  const client = new QueryClient();
  const again = vi.spyOn(client, "invalidateQueries").mockReturnValue(new Promise(() => {}));
  show(() => Promise.resolve("done"), client, "lots");
  await click();
  expect(screen.getByRole("button").textContent).toBe("ready");
  const predicate = again.mock.calls[0]?.[0]?.predicate;
  const read = (head: string) => predicate?.({ queryKey: [head] } as never);
  expect([read("lots"), read("today"), read("forms")]).toEqual([true, true, false]);
});

test("a second press while it runs is the same press", async () => {
  let end = (_: string) => {};
  const call = vi.fn(() => new Promise<string>((r) => (end = r)));
  show(call);
  const button = screen.getByRole("button") as HTMLButtonElement;
  await act(async () => {
    // Both before the screen is drawn anew.
    button.click();
    button.click();
  });
  expect(call).toHaveBeenCalledTimes(1);
  await act(async () => end("done"));
  expect(screen.getByRole("button").textContent).toBe("ready");
  await click();
  expect(call).toHaveBeenCalledTimes(2);
});
