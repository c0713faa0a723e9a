import "fake-indexeddb/auto";
import { cleanup, configure, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { FakeServer, No } from "../fakeServer";
import type { Step, View } from "./api";
import { clock, left, nowMin, stands } from "./clock";
import { newKey } from "./key";
import { Page } from "./Page";
import { forget, markOf, type Waiting, waiting } from "./waiting";

configure({ asyncUtilTimeout: 8000 });

const step = (id: string, kind: Step["kind"], start: number, minutes: number, more: Partial<Step> = {}): Step => ({
  id,
  kind,
  text: id,
  how: "",
  why: "",
  piece: "BF-01",
  minutes,
  keep: {},
  marks: [],
  cautions: [],
  start_min: start,
  slack_min: 0,
  who: ["Jun Abbot"],
  ...more,
});
const grips = { adhesive: "Acrylic", state: "clear" as const, from_min: 4, until_min: 30, move_s: 5, press_s: 20, warnings: [] };
const steps = [
  step("skin", "skin", 420, 9),
  step("glue", "glue", 429, 4, { window: grips }),
  step("place", "place", 437, 6, { window: grips, glue: "glue", marks: ["left brow in"] }),
];

const view = (more: Partial<View> = {}): View =>
  ({
    kit: "K-001",
    production: "The Tallow Court",
    artist: "Jun Abbot",
    wearer: "Oren Thale",
    scene: "",
    day: "2026-01-23T00:00:00Z",
    days: [],
    place: "quayside",
    note: "",
    call: [{ name: "Maud Tarn", phone: "01632 960117", what: "workshop" }],
    stop: ["Say stop."],
    cautions: ["Must not be used on this wearer: natural rubber in any form."],
    recalls: [],
    copies: [],
    items: [],
    parcels: [],
    run: {
      steps,
      after: { skin: [], glue: ["skin"], place: ["glue"] },
      ready_min: 480,
      begin_min: 420,
      call_min: 420,
      chance: 0.9,
      chair: {} as never,
    },
    live: {
      steps: steps.map((s) => ({ id: s.id, state: "waits" as const, start_min: s.start_min, end_min: s.start_min + s.minutes })),
      ready_min: 480,
      late_min: 0,
      chance: 0.9,
      begun: false,
    },
    bar: "",
    told: [],
    ask_min: 30,
    wear: { hours: 6, lasts: [], media: [], kit: { adhesive_g: 0, colour_g: 0, powder_g: 0 } } as never,
    off: { steps: [], again: [], after: [], never: "Never pull a piece dry.", total_min: 9, rest_h: 8 } as never,
    pictures: [],
    signed_name: "",
    reports: [],
    expires_at: "2026-02-01T00:00:00Z",
    asked_at: new Date().toISOString(),
    now_min: 430,
    today: true,
    mark: "",
    ...more,
  }) as View;

const token = "a-link-of-a-test";
const at = "/api/artist/{token}" as const;
let server: FakeServer;

beforeEach(() => {
  location.hash = "";
  localStorage.clear();
  server = new FakeServer().get(at, view({ received_at: "2026-01-09T11:20:00Z", signed_name: "Jun Abbot" })).install();
  server.get(`${at}/heard`, { recalls: [], answers: 0, ticks: 0, asked_at: new Date().toISOString() });
});
afterEach(async () => {
  cleanup();
  await forget(markOf(token));
  vi.unstubAllGlobals();
});
const away = () => vi.stubGlobal("fetch", () => Promise.reject(new TypeError("no line")));
const leaf = (name: string) => fireEvent.click(screen.getByRole("button", { name: new RegExp(`^${name}`) }));

describe("the artist's page", () => {
  it("says first what must not be used, then asks for a signature, and sends it once", async () => {
    server.get(at, view());
    const names: string[] = [];
    server.post(`${at}/receipt`, (body) => {
      names.push(body.name);
      return view({ received_at: "2026-01-09T11:20:00Z", signed_name: body.name });
    });
    render(<Page token={token} />);
    const cautions = await screen.findByTestId("cautions");
    const sign = screen.getByText("Is it all there? Sign for it");
    expect(cautions.compareDocumentPosition(sign) & Node.DOCUMENT_POSITION_FOLLOWING).toBeTruthy();
    fireEvent.click(screen.getByText("Received"));
    await screen.findByText("Sign with your name.");
    fireEvent.change(screen.getByLabelText("Your name"), { target: { value: "Jun Abbot" } });
    fireEvent.click(screen.getByText("Received"));
    expect((await screen.findByTestId("received")).textContent).toContain("Jun Abbot");
    expect(names).toEqual(["Jun Abbot"]);
  });

  it("keeps a reaction of skin that has not gone out above everything, with whom to ring, and sends it once", async () => {
    server.get(
      at,
      view({
        received_at: "x",
        copies: [
          {
            code: "BF-01-a",
            name: "Brow",
            where: "",
            parts: [],
            layers: [],
            lots: [],
            order: [],
            removal: [],
            signed: [],
            touch_ups: [],
            adhesive: "",
            remover: "",
          },
        ],
      }),
    );
    render(<Page token={token} />);
    await screen.findByTestId("cautions");
    leaf("Tell us");
    away();
    fireEvent.click(screen.getByLabelText("Skin reacted"));
    fireEvent.change(screen.getByLabelText("In your words"), { target: { value: "hot under the edge" } });
    fireEvent.click(screen.getByText("Send it to the workshop"));
    const shout = await screen.findByTestId("not-sent");
    expect(shout.textContent).toContain("NOT SENT");
    expect(shout.textContent).toContain("01632 960117");
    const [kept] = await waiting(markOf(token));
    expect(kept).toMatchObject({ kind: "report", report: { kind: "reaction", words: "hot under the edge", copy: "BF-01-a" } });
    const keys: string[] = [];
    server.install();
    server.post(`${at}/reports`, (body) => {
      keys.push(body.key);
      return view({ received_at: "x" });
    });
    fireEvent.click(screen.getByText("Try again"));
    await waitFor(() => expect(screen.queryByTestId("not-sent")).toBeNull());
    expect(keys).toEqual([kept?.key]);
    expect(await waiting(markOf(token))).toEqual([]);
  });

  it("keeps what the workshop says no to, with its reason, and what waits behind it still goes", async () => {
    render(<Page token={token} />);
    await screen.findByTestId("cautions");
    leaf("Tell us");
    server.post(`${at}/reports`, () => new No(422, "unknown_value", "copy", "BF-09-a is not in this kit."));
    fireEvent.change(screen.getByLabelText("In your words"), { target: { value: "all there" } });
    fireEvent.click(screen.getByText("Send it to the workshop"));
    await screen.findByText(/not taken: BF-09-a is not in this kit/);
  });

  it("asks for what is missing at its field and keeps what was typed through a reload", async () => {
    const first = render(<Page token={token} />);
    await screen.findByTestId("cautions");
    leaf("Tell us");
    fireEvent.click(screen.getByText("Send it to the workshop"));
    await screen.findByText("Say what happened, or add a picture.");
    fireEvent.change(screen.getByLabelText("In your words"), { target: { value: "half a sente" } });
    first.unmount();
    render(<Page token={token} />);
    await screen.findByTestId("line");
    expect((await screen.findByLabelText<HTMLTextAreaElement>("In your words")).value).toBe("half a sente");
  });

  it("opens from what the device kept when there is no connection, and says how old it is", async () => {
    const first = render(<Page token={token} />);
    await screen.findByTestId("received");
    first.unmount();
    away();
    render(<Page token={token} />);
    await screen.findByTestId("received");
    await waitFor(() => expect(screen.getByTestId("line").textContent).toContain("No connection"));
  });

  it("shows a recall above everything until it is answered", async () => {
    const recall = {
      recall: "C-0001",
      lot: "24-140",
      what: "Setting powder, lot 24-140",
      reason: "damp in the drum",
      at: "2026-01-12T09:00:00Z",
      copies: "BF-01-a",
    };
    server.get(at, view({ received_at: "x", recalls: [recall] }));
    server.get(`${at}/heard`, { recalls: [recall], answers: 0, ticks: 0, asked_at: new Date().toISOString() });
    const said: unknown[] = [];
    server.post(`${at}/recalls/{recall}`, (body, asked) => {
      said.push([asked.params.recall, body.words]);
      return view({ received_at: "x" });
    });
    render(<Page token={token} />);
    const box = await screen.findByTestId("recall");
    expect(box.textContent).toContain("It is in BF-01-a");
    fireEvent.change(screen.getByLabelText("What you did"), { target: { value: "thrown away" } });
    fireEvent.click(screen.getByText("I know"));
    await waitFor(() => expect(screen.queryByTestId("recall")).toBeNull());
    await waitFor(() => expect(said).toEqual([["C-0001", "thrown away"]]));
  });

  it("leaves nothing on the device of a link that has ended", async () => {
    const first = render(<Page token={token} />);
    await screen.findByTestId("received");
    first.unmount();
    server.get(at, new No(404, "link_ended", "", "This link does not work any more."));
    render(<Page token={token} />);
    await screen.findByText("This link does not work any more.");
    expect(screen.queryByTestId("received")).toBeNull();
    expect(await waiting(markOf(token))).toEqual([]);
  });

  it("ticks without a connection and counts the glue's window from there", async () => {
    render(<Page token={token} />);
    await screen.findByTestId("received");
    leaf("Morning");
    await screen.findByTestId("step");
    away();
    fireEvent.click(screen.getByText("Done"));
    await screen.findByRole("heading", { name: "glue" });
    fireEvent.click(screen.getByText("Done"));
    await screen.findByRole("heading", { name: "place" });
    expect(screen.getByTestId("window").textContent).toContain("until it grips");
    expect(screen.getByText<HTMLButtonElement>("It is on").disabled).toBe(true);
    expect((await waiting(markOf(token))).map((w) => w.kind)).toEqual(["tick", "tick"]);
  });
});

describe("its clocks", () => {
  const v = view();
  const tick = (step: string, act: "done" | "missed", minute: number): Waiting => ({
    key: newKey(),
    link: "x",
    kind: "tick",
    tick: { step, act },
    at: 1e9 + (minute - 430) * 60000,
  });

  it("counts on from the shop's own minute, whatever the device's clock says", () => {
    expect(nowMin(v, 5e12, 5e12 + 90_000)).toBeCloseTo(431.5);
    expect([clock(322), clock(-10), clock(1440), left(1.5), left(-0.5), left(125)]).toEqual(["05:22", "23:50", "00:00", "1:30", "0:30", "2 h 05"]);
  });

  it("opens and closes a window by what was ticked here, and lets a new coat begin it again", () => {
    const at = (minute: number, waits: Waiting[]) => stands(v, waits, 1e9, 1e9 + (minute - 430) * 60000).map((s) => s.state);
    const glued = [tick("skin", "done", 431), tick("glue", "done", 435)];
    expect(at(436, glued)).toEqual(["done", "done", "next"]);
    expect(at(466, glued)).toEqual(["done", "done", "missed"]);
    expect(at(466, [...glued, tick("place", "missed", 466)])).toEqual(["done", "next", "waits"]);
    const place = stands(v, [...glued, tick("place", "missed", 466), tick("glue", "done", 470)], 1e9, 1e9 + 41 * 60000)[2];
    expect([place?.state, Math.round(place?.from ?? 0), Math.round(place?.until ?? 0)]).toEqual(["next", 474, 500]);
  });

  it("makes keys that the server takes", () => {
    expect(newKey()).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
    expect(newKey()).not.toBe(newKey());
    expect(markOf("abc")).not.toContain("abc");
  });
});
