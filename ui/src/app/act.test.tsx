import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { useAct } from "./act";
import { Problem } from "./api";

afterEach(cleanup);

function Room({ call }: { call: () => Promise<unknown> }) {
  const it = useAct(call);
  return (
    <button type="button" disabled={it.busy} onClick={() => void it.run()}>
      {it.problem ? `${it.problem.field}: ${it.problem.message}` : it.busy ? "busy" : "ready"}
    </button>
  );
}

const show = (call: () => Promise<unknown>, client = new QueryClient()) =>
  render(
    <QueryClientProvider client={client}>
      <Room call={call} />
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

test("an act does not wait for ever for what cannot be read again", async () => {
  vi.useFakeTimers();
  const client = new QueryClient();
  vi.spyOn(client, "invalidateQueries").mockReturnValue(new Promise(() => {}));
  show(() => Promise.resolve("done"), client);
  await click();
  expect(screen.getByRole("button").textContent).toBe("busy");
  await act(() => vi.advanceTimersByTimeAsync(2_000));
  expect(screen.getByRole("button").textContent).toBe("ready");
  vi.useRealTimers();
});
