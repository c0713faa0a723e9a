import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aPiece, showAt } from "../../testing";
import Finish from "./Finish";

vi.mock("../../app/Shell", () => ({ useInHand: () => {} }));

type View = Schemas["FinishPlanView"];
const zone: Schemas["CraftPlanZone"] = {
  id: "h1",
  name: "bristle",
  way: "punched",
  outline: [
    [0, 0],
    [30, 0],
    [30, 20],
  ],
  fade_edges: [],
  density: 25,
  edge_density: 6,
  fade_mm: 5,
  guides: [],
  jitter_deg: 8,
  seed: 1,
  fibre: "yak",
  colours: [],
  visible_mm: 12,
  curl_radius_mm: 0,
  curl_pitch_mm: 20,
  trim_mm: 0,
  root_mm: 5,
  waste: 0.25,
  hairs_per_stroke: 1,
  prepared: [],
};
const counted = { count: 120, area_cm2: 3, cut_mm: 17, curl_ratio: 1, order_g: 0.004, minutes: 12, left_min: 12, pace_s: 6 };
const empty: View["doc"] = { hair: [], inserts: [], worn: [], parts: [], weights: [], closures: [], borders: [] };

const view = (doc: Partial<View["doc"]>, more: Partial<View> = {}): View =>
  ({
    doc: { ...empty, ...doc },
    state: { latest: 0, base: 0, step: 0, last: 0, drafted: false, others: [] },
    of: "AL-01",
    name: "Brow of bark",
    outline: [
      [0, 0],
      [60, 0],
      [60, 40],
    ],
    from: "its texture §1",
    done: {},
    batches: {},
    borders: [],
    others: ["AL-02"],
    result: {
      hair: (doc.hair ?? []).map((h) => ({ id: h.id, counted, punched: { points: [[5, 5]], deg: [90], gap_min: 0.8 } })),
      inserts: [],
      weights: [],
      joints: [],
      minutes: 12,
      don_min: 0,
      doff_min: 0,
      findings: [],
      work: [],
    },
    ...more,
  }) as unknown as View;

let server: FakeServer;
let stands: View;

beforeEach(() => {
  stands = view({});
  server = new FakeServer()
    .get("/api/me", { person: { id: 2, login: "ivo", name: "Ivo Brack", role: "fabricator" }, devices: [] } as never)
    .get("/api/pieces", [aPiece({ code: "AL-01", name: "Brow of bark" })])
    .get("/api/copies", [])
    .get("/api/materials", [])
    .get("/api/finish-plans/{of}", () => stands)
    .get("/api/pieces/{code}/texture-marks", [])
    .put("/api/finish-plans/{of}", (body) => {
      stands = view(body.doc, { state: { ...stands.state, drafted: true, step: 1, last: 1 } as View["state"] });
      return stands;
    })
    .post("/api/finish-plans/{of}/agree", () => {
      stands = { ...stands, state: { ...stands.state, latest: 1, drafted: false } };
      return stands;
    })
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const saved = () => server.asked.filter((a) => a.method === "PUT").map((a) => (a.body as { doc: View["doc"] }).doc);

const plan = (leaf: string, of = "piece=AL-01") =>
  showAt(
    `/finish?${of}&leaf=${encodeURIComponent(leaf)}`,
    <Routes>
      <Route path="/finish/:code?" element={<Finish />} />
    </Routes>,
  );

describe("the plan of hair", () => {
  it("says whose it is, and what to do where there is none", async () => {
    plan("Hair");
    await screen.findByText(/No hair yet/);
    expect(screen.getAllByText("Brow of bark").length).toBeGreaterThan(0);
  });

  it("puts hair all over the outline, and says how many that are", async () => {
    plan("Hair");
    fireEvent.click(await screen.findByText("Hair all over it"));
    await waitFor(() => expect(saved()).toHaveLength(1));
    expect(saved()[0].hair[0]).toMatchObject({ id: "h1", way: "punched", outline: stands.outline });
    expect((await screen.findByTestId("hair-came")).textContent).toContain("120 hairs on 3.0 cm²");
    expect(screen.getByTestId("hair-came").textContent).toContain("order 0.0040 g");
  });

  it("takes corners that are typed, and keeps what stands when they are none", async () => {
    stands = view({ hair: [zone] });
    plan("Hair");
    const corners = await screen.findByLabelText("Corners, one after another");
    expect((corners as HTMLInputElement).value).toBe("0 0, 30 0, 30 20");
    fireEvent.change(corners, { target: { value: "0 0, 30 x" } });
    fireEvent.blur(corners);
    await screen.findByText(/what stands is kept/);
    expect(saved()).toHaveLength(0);
    fireEvent.change(corners, { target: { value: "0 0, 40 0, 40 25, 0 25" } });
    fireEvent.blur(corners);
    await waitFor(() => expect(saved()).toHaveLength(1));
    expect(saved()[0].hair[0].outline).toEqual([
      [0, 0],
      [40, 0],
      [40, 25],
      [0, 25],
    ]);
  });

  it("reads a mix of colours from the words", async () => {
    stands = view({ hair: [zone] });
    plan("Hair");
    const colours = await screen.findByLabelText("Colours, in per cent");
    fireEvent.change(colours, { target: { value: "70 grey-brown lot 25-210, 30 white" } });
    fireEvent.blur(colours);
    await waitFor(() => expect(saved()).toHaveLength(1));
    expect(saved()[0].hair[0].colours).toEqual([
      { name: "grey-brown", share: 0.7, lot: "25-210" },
      { name: "white", share: 0.3, lot: "" },
    ]);
  });

  it("is agreed, and shows the stop that holds it back", async () => {
    stands = view({ hair: [zone] });
    server.post("/api/finish-plans/{of}/agree", () => new No(409, "rule", "", "FIN-8: a lens is never shared. Nobody can sign this away."));
    plan("Hair");
    fireEvent.click(await screen.findByText("Agree the finish plan"));
    await screen.findByText(/a lens is never shared/);
  });

  it("of a look is what is done on the wearer's own", async () => {
    stands = view({ hair: [zone] }, { of: "look-7", name: "at the desk" });
    plan("Hair", "look=7");
    await screen.findByText("at the desk");
    expect(screen.getByText("what is done on the wearer's own, without a piece")).toBeTruthy();
    expect(screen.getByTestId("counter").textContent).toContain("of 120");
    expect(screen.queryByText("print it at true scale")).toBeNull();
  });
});

describe("what else a plan holds", () => {
  it("adds inserts and what is worn", async () => {
    plan("Inserts and worn");
    fireEvent.click(await screen.findByText("Another sort"));
    await waitFor(() => expect(saved().at(-1)?.inserts).toHaveLength(1));
  });

  it("shows what is shared with another piece, to be changed there", async () => {
    const shells = {
      id: "i1",
      name: "shells from the strand",
      sort: "shells",
      need: 12,
      places: [],
      fixing: "hard_glue",
      motion: "still",
      when: "on the stand",
    };
    stands = view({ follows: "AL-02" }, { shared: { ...empty, inserts: [shells], weights: [{ name: "low in the belly" }] } as never });
    plan("Inserts and worn");
    await screen.findByText(/shared with AL-02/);
    expect(screen.queryByText("take this sort out")).toBeNull();
    cleanup();
    plan("Weights and closures");
    await screen.findByText("Shared with AL-02: low in the belly.");
  });

  it("adds weights and closures, and says how long it takes to get out", async () => {
    plan("Weights and closures");
    fireEvent.click(await screen.findByText("Add weights"));
    await waitFor(() => expect(saved().at(-1)?.weights).toHaveLength(1));
  });

  it("shows why a plan cannot be worked out, and does not agree it", async () => {
    stands = view(
      { hair: [zone] },
      {
        result: undefined,
        wrong: { status: 422, code: "contradiction", field: "hair[0].colours", detail: "The shares come to 40 %, not to 100." } as never,
      },
    );
    plan("Hair");
    await screen.findByText("The shares come to 40 %, not to 100.");
    expect((screen.getByText("Agree the finish plan").closest("button") as HTMLButtonElement).disabled).toBe(true);
  });
});
