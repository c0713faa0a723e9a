import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../app/api";
import { FakeServer, No } from "../../fakeServer";
import { aMaterial, aPiece, showAt } from "../../testing";
import Count from "./Count";
import Deliveries from "./Deliveries";
import { Holds } from "./Holds";
import { LotPage } from "./LotPage";
import Outlook from "./Outlook";
import Recalls from "./Recalls";

const standing = (more: Partial<Schemas["StoresStanding"]>): Schemas["StoresStanding"] => ({
  material: "softener",
  name: "Silicone softener",
  family: "softener",
  on_hand_g: 812,
  reserved_g: 0,
  value_minor: 1543,
  safety_g: 0,
  projected: [{ day: "2026-01-12", grams: 812 }],
  wants: [],
  short_g: 0,
  late: false,
  order_g: 0,
  lead_days: 0,
  ...more,
});

const letter = (more: Partial<Schemas["StoresLetter"]>): Schemas["StoresLetter"] => ({
  kit: "K-001",
  artist: "Jun Abbot",
  day: "2026-01-23T00:00:00Z",
  handed: true,
  back: false,
  copies: "BF-01-a",
  shelf: false,
  ...more,
});

const recall = (more: Partial<Schemas["StoresRecall"]> = {}): Schemas["StoresRecall"] => ({
  code: "C-0001",
  lot: "24-140",
  name: "Setting powder",
  reason: "damp",
  at: "2026-01-12T08:45:00Z",
  by: "Maud Tarn",
  touched: [{ kind: "kit", code: "K-001", state: "handed over", where: "Jun Abbot", contact: false }],
  letters: [letter({})],
  open: 1,
  ...more,
});

let server: FakeServer;

beforeEach(() => {
  server = new FakeServer()
    .get("/api/pieces", [aPiece({ code: "AL-01", name: "Brow of bark", section_number: 1 })])
    .get("/api/recipes", [])
    .get("/api/materials", [aMaterial({ slug: "glycerin", name: "Glycerin", family: "ingredient" })])
    .get("/api/receipts", [])
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("what is short", () => {
  it("says what is spoken for, by whom, and what to order", async () => {
    server.get("/api/stock", {
      until: "2026-02-26",
      value_minor: 164100,
      items: [
        standing({
          reserved_g: 61.3,
          short_g: 20,
          order_by: "2026-01-14",
          order_g: 2000,
          supplier: "Harrow Rubber Works",
          wants: [{ for: "PK-02, 2 copies", material: "softener", grams: 61.3, on: "2026-01-22T00:00:00Z" }],
        }),
      ],
    });
    showAt("/stock", <Outlook />);
    await screen.findByText(/2 kg by/);
    screen.getByText("Harrow Rubber Works");
    screen.getByText("20.0 g are missing");
    fireEvent.click(screen.getByText("61.3 g"));
    screen.getByText(/PK-02, 2 copies/);
    screen.getByText(/worth 1641.00/);
  });

  it("answers what can still be made, and which part lacks", async () => {
    server.get("/api/stock", { until: "2026-02-26", value_minor: 0, items: [] }).post("/api/stock/can-make", () => ({
      yes: false,
      words: "No: Dried moss lacks 7.2 g.",
      lines: [{ material: "found-moss", name: "Dried moss", need_g: 7.2, lacks_g: 7.2 }],
    }));
    showAt("/stock", <Outlook />);
    await screen.findByText("AL-01 Brow of bark");
    fireEvent.change(screen.getByLabelText("From what is here"), { target: { value: "p:AL-01" } });
    fireEvent.click(screen.getByText("Ask"));
    await screen.findByText("No: Dried moss lacks 7.2 g.");
    expect(server.posted("/api/stock/can-make")).toEqual([{ piece: "AL-01", copies: 6 }]);
  });
});

describe("a lot", () => {
  const aLot: Schemas["StoresLot"] = {
    code: "25-012-dropper",
    part: "",
    material: "softener",
    material_name: "Silicone softener",
    family: "softener",
    supplier: "the counter",
    received_on: "2025-11-02T00:00:00Z",
    expires_on: "2026-11-02T00:00:00Z",
    open_life_days: 180,
    on_hand_g: 200,
    shelf: "bench",
    status: "ok",
    status_reason: "",
    from_lot: "25-012",
  };

  it("fills a vessel of its own, writes off a loss, and pours back what was filled", async () => {
    server
      .get("/api/kept-files", [
        {
          id: 3,
          what: "safety sheet",
          words: "of May",
          sha256: "ab12",
          media_type: "application/pdf",
          added_at: "2026-01-12T08:15:00Z",
          who: "Pip Sallow",
        },
      ])
      .delete("/api/kept-files/{id}", () => [])
      .get("/api/lots/{code}", { parts: [aLot], movements: [], journal: [], went_into: { lot: ["25-012-tube"] } })
      .post("/api/lots/{code}/decant", () => [aLot])
      .post("/api/lots/{code}/take-out", () => new No(422, "out_of_range", "amount", "Lot 25-012-dropper holds 200 g."))
      .post("/api/lots/{code}/join", () => [aLot]);
    showAt("/stores/25-012-dropper", <LotPage code="25-012-dropper" />);
    fireEvent.change(await screen.findByLabelText("How much"), { target: { value: "50 g" } });
    screen.getByText("25-012-tube");
    fireEvent.change(screen.getByLabelText("Code on the vessel"), { target: { value: "25-012-2" } });
    fireEvent.click(screen.getByText("Fill it"));
    await waitFor(() => expect(server.posted("/api/lots/{code}/decant")).toEqual([{ part: "", amount: "50 g", code: "25-012-2", shelf: "" }]));
    await waitFor(() => expect((screen.getByLabelText("How much") as HTMLInputElement).value).toBe(""));
    const form = within(screen.getByText("Take from it").closest("div[data-take]") as HTMLElement);
    fireEvent.change(form.getByLabelText("It is"), { target: { value: "lost" } });
    fireEvent.change(form.getByLabelText("How much"), { target: { value: "5 kg" } });
    fireEvent.change(form.getByLabelText("What happened"), { target: { value: "knocked over" } });
    fireEvent.click(form.getByText("Write it off"));
    await form.findByText("Lot 25-012-dropper holds 200 g.");
    expect((form.getByLabelText("What happened") as HTMLInputElement).value).toBe("knocked over");
    fireEvent.click(form.getByText("Pour what is left back"));
    await waitFor(() => expect(server.posted("/api/lots/{code}/join")).toHaveLength(1));
    expect((screen.getByText("safety sheet: of May, PDF") as HTMLAnchorElement).download).toBe("25-012-dropper-safety-sheet.pdf");
    fireEvent.click(screen.getByLabelText("Take safety sheet: of May away"));
    await waitFor(() => expect(server.asked.some((a) => a.path === "/api/kept-files/{id}" && a.params.id === "3")).toBe(true));
  });
});

describe("deliveries", () => {
  it("takes lines in once, and keeps what was typed where one is refused", async () => {
    server.post("/api/receipts", () => new No(422, "missing", "lines[0].code", "Write down the lot's code from the label."));
    showAt("/deliveries", <Deliveries />);
    await screen.findByText("Glycerin");
    fireEvent.change(screen.getByLabelText("What"), { target: { value: "glycerin" } });
    fireEvent.change(screen.getByLabelText("Amount"), { target: { value: "2 kg" } });
    fireEvent.click(screen.getByText("Take it in"));
    await screen.findAllByText("Write down the lot's code from the label.");
    expect((screen.getByLabelText("Amount") as HTMLInputElement).value).toBe("2 kg");
    const first = server.posted("/api/receipts")[0] as Schemas["StoresDelivery"];
    fireEvent.change(screen.getByLabelText("Lot"), { target: { value: "26-001" } });
    fireEvent.click(screen.getByText("Take it in"));
    await waitFor(() => expect(server.posted("/api/receipts")).toHaveLength(2));
    const second = server.posted("/api/receipts")[1] as Schemas["StoresDelivery"];
    expect(second.key).toBe(first.key);
    expect(second.lines[0]).toMatchObject({ material: "glycerin", code: "26-001", amount: "2 kg" });
  });

  it("looks at a list before anything is done", async () => {
    server.post("/api/lists/read", () => ({
      good: 1,
      bad: 1,
      headings: { Product: "material", Colour: "" },
      rows: [
        { row: 2, does: "lot 26-201: 2.5 kg of Glycerin", lot: { material: "glycerin", code: "26-201", amount: "2500 g", expires_on: "2027-08-31" } },
        { row: 3, does: "", field: "material", fault: "“Fairy dust” is none of the shop's products." },
      ],
    }));
    showAt("/deliveries", <Deliveries />);
    await screen.findByText("Glycerin");
    const file = new File(["Product;Batch\n"], "note.csv", { type: "text/csv" });
    Object.defineProperty(file, "arrayBuffer", { value: async () => new TextEncoder().encode("Product;Batch\n").buffer });
    fireEvent.change(screen.getByLabelText("A list as a file"), { target: { files: [file] } });
    await screen.findByText("lot 26-201: 2.5 kg of Glycerin");
    screen.getByText(/Fairy dust/);
    screen.getByText(/Colour is left out/);
    fireEvent.click(screen.getByText("Put 1 lot on the delivery"));
    expect((screen.getByLabelText("Lot") as HTMLInputElement).value).toBe("26-201");
    expect(server.posted("/api/receipts")).toHaveLength(0);
  });
});

describe("a recall", () => {
  const at = () =>
    showAt(
      "/recalls/C-0001",
      <Routes>
        <Route path="/recalls/:code" element={<Recalls />} />
      </Routes>,
    );

  it("names who has it, and is not closed before everybody knows", async () => {
    server.get("/api/recalls/{code}", recall());
    at();
    await screen.findByText("Jun Abbot");
    screen.getByText(/Copies with it inside: BF-01-a/);
    expect((screen.getByText("1 have not answered yet").closest("button") as HTMLButtonElement).disabled).toBe(true);
    expect(screen.getByText("Print the letters").getAttribute("href")).toBe("/api/recalls/C-0001/letters.pdf");
    server
      .post("/api/recalls/{code}/told", () => recall({ open: 0, letters: [letter({ told_at: "2026-01-12T09:00:00Z", answer: "sent back" })] }))
      .get("/api/recalls/{code}", recall({ open: 0, letters: [letter({ told_at: "2026-01-12T09:00:00Z", answer: "sent back" })] }));
    fireEvent.change(screen.getByLabelText("What they answered"), { target: { value: "sent back" } });
    fireEvent.click(screen.getByText("They know"));
    await screen.findByText(/Knows since/);
    expect(server.posted("/api/recalls/{code}/told")).toEqual([{ kit: "K-001", answer: "sent back" }]);
  });
});

describe("counting", () => {
  it("finds a lot by what its label holds, and asks why where it differs", async () => {
    const lot = {
      code: "25-012",
      part: "",
      material: "x",
      material_name: "Latex, soft",
      family: "latex",
      on_hand_g: 812,
      shelf: "cold 1",
      expires_on: "2026-11-02T00:00:00Z",
    };
    server
      .get("/api/lots", [lot, { ...lot, code: "25-099", material_name: "Remover" }] as never)
      .post("/api/lots/{code}/count", (body) =>
        body.note ? ([lot] as never) : new No(422, "missing", "note", "The books say 812 g, the scale 700 g. Say why."),
      );
    showAt("/count", <Count />);
    await screen.findByText("Remover");
    fireEvent.change(screen.getByLabelText("Find a lot"), { target: { value: "https://shop.test/stores/25-012" } });
    await waitFor(() => expect(screen.queryByText("Remover")).toBeNull());
    fireEvent.change(screen.getByLabelText("Found of 25-012"), { target: { value: "700 g" } });
    fireEvent.click(screen.getByText("Counted"));
    await screen.findByText(/The books say 812 g/);
    fireEvent.change(screen.getByLabelText("Why the difference"), { target: { value: "spilt" } });
    fireEvent.click(screen.getByText("Counted"));
    await screen.findByText("counted: 700 g");
  });
});

describe("what a product holds", () => {
  it("is written down with the sheet that says so, and stays typed when the server says no", async () => {
    server
      .get("/api/substances", [
        { code: "latex", name: "natural rubber latex", words: [] },
        { code: "talc", name: "talc", words: [] },
      ] as never)
      .post("/api/materials/{slug}/contents", () => new No(422, "contradiction", "says", "It is known to hold it."));
    const p = aMaterial({
      slug: "powder",
      name: "Powder",
      family: "powder",
      contains: ["talc"],
      sources: { "substance talc": "data sheet: of May" },
    });
    showAt("/products", <Holds p={p} />);
    await screen.findByText("Holds or gives off: talc (data sheet: of May).");
    await screen.findByText("natural rubber latex");
    fireEvent.change(screen.getByLabelText("Of"), { target: { value: "latex" } });
    fireEvent.change(screen.getByLabelText("the sheet says"), { target: { value: "free of" } });
    fireEvent.change(screen.getByLabelText("Which sheet"), { target: { value: "safety sheet of 3 March" } });
    fireEvent.click(screen.getByText("Write it down"));
    await screen.findByText("It is known to hold it.");
    expect((screen.getByLabelText("Which sheet") as HTMLInputElement).value).toBe("safety sheet of 3 March");
    expect(server.posted("/api/materials/{slug}/contents")).toEqual([{ substance: "latex", says: "free of", source: "safety sheet of 3 March" }]);
  });
});
