import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Problem } from "../../app/api";
import { heed } from "../../app/changes";
import { KeysProvider } from "../../app/keys";
import { system } from "../../app/theme";
import { Method } from "./Method";

const score = (criterion: string) => ({ criterion, entry: "camera", score: 0.8, weight: 2, text: `why ${criterion}` });
const method = (slug: string, name: string, rank: number, bars: object[] = []) => ({
  slug,
  name,
  text: `${name} in a sentence.`,
  family: "wax",
  rank,
  score: 90 - rank,
  bars,
  scores: [score("edge"), score("weight")],
  mass_g: 5,
  hands_s: 600,
  wait_s: 300,
  cost_minor: 40,
  layers: 1,
});

// A server that ranks two methods, and turns them round when it is hot.
const server = { role: "lead", sent: [] as { path: string; body: Record<string, unknown> }[], choices: [] as object[] };
async function serve(path: string, body: Record<string, unknown> = {}) {
  server.sent.push({ path, body });
  if (path === "/api/me") return { person: { role: server.role } };
  if (path === "/api/equipment") return [];
  if (path.endsWith("/choice")) {
    if (body.method === "b" && !body.reason) throw new Problem(422, "missing", "reason", "Say why it is to be Bees.");
    heed("POST", new Response("{}", { headers: { Changes: "brief" } }));
    server.choices = [{ method: body.method, advised: "a", place: 1, score: 89, reason: body.reason, by: "Maud Tarn", at: "2026-01-12T09:00:00Z" }];
  }
  if (Number(body.hottest_c) > 60) throw new Problem(422, "out_of_range", "hottest_c", "At most 60 °C.");
  const hot = Number(body.hottest_c) > 30;
  return {
    asked: {
      region: "cheek",
      area_cm2: 34,
      height_mm: 4,
      wear_hours: 5,
      hottest_c: body.hottest_c ?? 20,
      days: 3,
      lead_days: 9,
      camera: "close",
      water: "none",
      exertion: "acting",
    },
    methods: [
      method(hot ? "b" : "a", hot ? "Bees" : "Amber", 1),
      method(hot ? "a" : "b", hot ? "Amber" : "Bees", 2),
      method("c", "Candle", 3, [{ severity: "never", id: "SAF-1", entry: "the wearer", text: "Refused for this wearer." }]),
    ],
    turns: [{ condition: "heat", from: "20 °C", at: "31 °C", value: 31, was: "Amber", becomes: "Bees", text: "At heat 31 °C or more Bees leads." }],
    choices: server.choices,
    trials: [],
  };
}

vi.mock("../../app/api", async (original) => ({
  ...(await original<typeof import("../../app/api")>()),
  ask: (call: Promise<unknown>) => call,
  api: Object.fromEntries(["GET", "PUT", "POST"].map((m) => [m, (path: string, o: { body?: Record<string, unknown> }) => serve(path, o?.body)])),
}));

beforeEach(() => {
  Object.assign(server, { role: "lead", sent: [], choices: [] });
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={client}>
        <MemoryRouter>
          <KeysProvider>
            <Method piece={{ code: "BF-03", region: "cheek" } as never} />
          </KeysProvider>
        </MemoryRouter>
      </QueryClientProvider>
    </ChakraProvider>,
  );
});
afterEach(cleanup);

const order = () => [...document.querySelectorAll("[data-method]")].map((e) => (e as HTMLElement).dataset.method);

test("ranks, says what bars a method beside its score, and what would turn it round", async () => {
  await screen.findByText("Amber");
  expect(order()).toEqual(["a", "b", "c"]);
  expect(screen.getByText(/never: Refused for this wearer/)).toBeTruthy();
  expect(screen.getByText(/At heat 31 °C or more Bees leads/)).toBeTruthy();
});

test("opens to every criterion, with why and from where", async () => {
  fireEvent.click(await screen.findByText("Amber"));
  expect(screen.getByText(/why edge/).textContent).toContain("(camera)");
  expect(screen.getByText("Choose amber")).toBeTruthy();
});

test("what is never cannot be chosen", async () => {
  fireEvent.click(await screen.findByText("Candle"));
  expect(screen.queryByText("Choose candle")).toBeNull();
  expect(screen.getByText(/only the facts could change/)).toBeTruthy();
});

test("asks for the reason at its field, keeps what was typed, and shows the choice", async () => {
  fireEvent.click(await screen.findByText("Bees"));
  fireEvent.click(screen.getByText("Choose bees"));
  await screen.findByText("Say why it is to be Bees.");
  fireEvent.change(screen.getByLabelText("Why this and not amber"), { target: { value: "we have bees" } });
  fireEvent.click(screen.getByText("Choose bees"));
  await waitFor(() => expect(screen.getByTestId("chosen-method").textContent).toContain("Bees was chosen by Maud Tarn"));
  expect(screen.getByTestId("chosen-method").textContent).toContain("we have bees");
});

test("a condition is tried without the brief, and a refused one leaves what was there", async () => {
  await screen.findByText("Amber");
  const heat = screen.getByLabelText("hottest, °C");
  fireEvent.change(heat, { target: { value: "35" } });
  await waitFor(() => expect(order()).toEqual(["b", "a", "c"]));
  expect(screen.getByText("as tried, not as the brief says")).toBeTruthy();
  fireEvent.change(heat, { target: { value: "350" } });
  await screen.findByText("At most 60 °C.");
  expect(order()).toEqual(["b", "a", "c"]);
  expect((heat as HTMLInputElement).value).toBe("350");
  fireEvent.click(screen.getByText("as the brief says"));
  await waitFor(() => expect(order()).toEqual(["a", "b", "c"]));
  expect(server.sent.every((s) => !s.path.endsWith("/brief"))).toBe(true);
});
