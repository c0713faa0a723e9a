import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { show } from "../testing";
import { api, ask, Problem } from "./api";
import { SayWhy } from "./SayWhy";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const against = {
  title: "Conflict",
  status: 409,
  code: "say_why",
  detail: "SEQ-1: Coat 2 was noted 0 s ago. Nothing was recorded yet.",
  data: { id: "SEQ-1", severity: "warn", reason: "", remedy: "" },
};

/** A server that wants to know why. */
function serve() {
  const sent: { because: string | null; key: string | null; body: string }[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const because = request.headers.get("Because");
    sent.push({ because, key: request.headers.get("Idempotency-Key"), body: await request.clone().text() });
    const answer = because ? { code: "R-0001" } : against;
    return new Response(JSON.stringify(answer), {
      status: because ? 200 : 409,
      headers: { "Content-Type": "application/json", Changes: "runs" },
    });
  });
  return sent;
}

const act = () => ask(api.POST("/api/runs/{code}/coats", { params: { path: { code: "R-0001" } } }));

test("an act that something speaks against is sent once more with the reason", async () => {
  const sent = serve();
  show(<SayWhy />);
  const done = act();
  fireEvent.change(await screen.findByLabelText("Why you go on"), { target: { value: "both were on — später" } });
  expect(screen.getByText(/Coat 2 was noted/)).toBeTruthy();
  fireEvent.click(screen.getByText("Go on"));
  expect(await done).toEqual({ code: "R-0001" });
  expect(sent.map((s) => s.because && decodeURIComponent(s.because))).toEqual([null, "both were on — später"]);
  expect(sent[0]?.key).toBe(sent[1]?.key);
  expect(sent[0]?.body).toBe(sent[1]?.body);
  await waitFor(() => expect(screen.queryByTestId("say-why")).toBeNull());
});

test("left, nothing is done and the no is shown where it belongs", async () => {
  const sent = serve();
  show(<SayWhy />);
  const done = act().catch((e) => e);
  fireEvent.click(await screen.findByText("Leave it"));
  const no = await done;
  expect(no).toBeInstanceOf(Problem);
  expect(no.code).toBe("say_why");
  expect(sent).toHaveLength(1);
});

test("where nobody can be asked the act fails at once", async () => {
  serve();
  await expect(act()).rejects.toBeInstanceOf(Problem);
});
