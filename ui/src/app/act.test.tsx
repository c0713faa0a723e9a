import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { useAct, useEach } from "./act";
import { Problem } from "./api";
import { heed } from "./changes";

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

const answer = (changes?: string, status = 200) => new Response("{}", { status, headers: changes === undefined ? {} : { Changes: changes } });

test("it is busy only while it runs, and reads again what the answer names", async () => {
  const client = new QueryClient();
  const again = vi.spyOn(client, "invalidateQueries").mockReturnValue(new Promise(() => {}));
  heed("POST", answer("kits"));
  show(async () => heed("POST", answer("lots/L-0042,section/BF-03")), client);
  await click();
  expect(screen.getByRole("button").textContent).toBe("ready");
  const predicate = again.mock.calls[0]?.[0]?.predicate;
  const read = (...key: string[]) => predicate?.({ queryKey: key } as never);
  expect([read("lots"), read("today"), read("lot", "L-0042"), read("section", "BF-03")]).toEqual([true, true, true, true]);
  // What was told before it, what another act changed, and another one's page.
  expect([read("artists"), read("forms"), read("lot", "L-0007"), read("section", "PK-01")]).toEqual([false, false, false, false]);
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

test("an act that only worked something out has nothing read again", async () => {
  const client = new QueryClient();
  const again = vi.spyOn(client, "invalidateQueries");
  show(async () => heed("POST", answer("")), client);
  await click();
  expect(again).not.toHaveBeenCalled();
});

test("an answer that names nothing has everything read again, and so has somebody who was first", async () => {
  const client = new QueryClient();
  const again = vi.spyOn(client, "invalidateQueries").mockResolvedValue();
  const all = () => again.mock.calls.at(-1)?.[0]?.predicate?.({ queryKey: ["forms"] } as never);
  show(async () => heed("POST", answer()), client);
  await click();
  expect(all()).toBe(true);
  cleanup();
  again.mockClear();
  show(() => Promise.reject(new Problem(409, "moved_on", "", "Somebody was first.")), client);
  await click();
  expect(all()).toBe(true);
});

function List({ use, slow }: { use: typeof useAct; slow: (n: number) => Promise<void> }) {
  const it = use(slow);
  return [1, 2, 3].map((n) => (
    <button key={n} type="button" onClick={() => void it.run(n)}>
      {n}
    </button>
  ));
}

test("what is given in each is done in turn, none lost and none at once; an act that runs once drops the second press", async () => {
  const begun: number[] = [];
  let free: (() => void)[] = [];
  const slow = (n: number) => {
    begun.push(n);
    return new Promise<void>((done) => free.push(done));
  };
  const inShop = (use: typeof useAct) =>
    render(
      <QueryClientProvider client={new QueryClient()}>
        <List use={use} slow={slow} />
      </QueryClientProvider>,
    );
  const all = () => act(async () => [1, 2, 3].forEach((n) => void screen.getByText(String(n)).click()));
  inShop(useEach);
  await all();
  expect(begun).toEqual([1]);
  for (const want of [
    [1, 2],
    [1, 2, 3],
    [1, 2, 3],
  ]) {
    await act(async () => free.shift()?.());
    expect(begun).toEqual(want);
  }
  cleanup();
  begun.length = 0;
  free = [];
  inShop(useAct);
  await all();
  await act(async () => free.shift()?.());
  expect(begun).toEqual([1]);
});
