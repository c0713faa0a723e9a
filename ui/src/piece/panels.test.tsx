import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { Cut, Layer } from "../parts/section/geometry";
import { around, show } from "../testing";
import { AddLayer } from "./AddLayer";
import { BandMore } from "./BandMore";
import { Findings, keyOf, placeOf } from "./Findings";
import { freshLayer, halves, type KindFacts, kindsFor, type Product } from "./kinds";
import { asMeasured, type Found, MeasuredBand, planned } from "./Measured";
import { Order } from "./Order";
import { fitTo } from "./Whole";

afterEach(cleanup);

const kinds: KindFacts[] = [
  { kind: "encapsulator", text: "Encapsulating film", nature: "film", families: ["encapsulator"], methods: ["sprayed", "brushed"], appliance: true },
  { kind: "silicone", text: "Silicone", nature: "body", families: ["silicone_addition"], methods: ["cast", "direct"], appliance: true },
  { kind: "latex", text: "Latex coats", nature: "film", families: ["latex"], methods: ["brushed", "stippled"], appliance: true },
  { kind: "weight", text: "Weight, filling", nature: "things", families: ["filling"], methods: [], appliance: false },
  { kind: "hair", text: "Hair", nature: "hair", families: ["hair"], methods: ["laid", "punched"], appliance: false },
  { kind: "seal", text: "Seal", nature: "film", families: ["sealer", "encapsulator"], methods: [], appliance: false },
  { kind: "paint", text: "Colour", nature: "film", families: ["paint_cream"], methods: [], appliance: false },
];
const product = (slug: string, family: string, more: Partial<Product> = {}): Product => ({
  slug,
  name: slug.replace("-", " "),
  family,
  density: 1,
  ...more,
});
const products = [
  product("encapsulator-acetone", "encapsulator", { coat_mm: 0.025 }),
  product("silicone-direct", "silicone_addition"),
  product("filling-beads", "filling"),
  product("hair-crepe", "hair"),
  product("paint-cream", "paint_cream", { coat_mm: 0.02 }),
];
const finding = (more = {}) => ({
  id: "INH-1",
  severity: "stop" as const,
  reason: "It stays sticky.",
  remedy: "Put a film between them.",
  below: "a",
  above: "b",
  instead: ["encapsulator-acetone"],
  changes: ["its edge melts with acetone only"],
  ...more,
});

describe("a fresh layer", () => {
  const fresh = (slug: string, kind: string) =>
    freshLayer(products.find((p) => p.slug === slug) as Product, kinds.find((k) => k.kind === kind) as KindFacts, "x");
  test("is measured by its nature", () => {
    expect(fresh("silicone-direct", "silicone")).toMatchObject({ centre_mm: 4, method: "direct" });
    expect(fresh("silicone-direct", "silicone").coats).toBeUndefined();
    expect(fresh("filling-beads", "weight")).toMatchObject({ count: 1, each_g: 200 });
    expect(fresh("hair-crepe", "hair")).toMatchObject({ hairs_cm2: 30, method: "laid" });
    expect(fresh("encapsulator-acetone", "encapsulator")).toMatchObject({ coats: 2, coat_mm: 0.025 });
  });
  test("of colour runs on to the skin", () => {
    expect(fresh("paint-cream", "paint")).toMatchObject({ extent: "past_edge", stop_mm: 12 });
  });
  test("a film can be more than one kind", () => {
    expect(kindsFor("encapsulator", kinds).map((k) => k.kind)).toEqual(["encapsulator", "seal"]);
  });
});

describe("a band in two", () => {
  test("halves a body by its height, films and things by their number", () => {
    expect(halves({ id: "b", kind: "silicone", centre_mm: 6, edge_mm: 1 })).toEqual([
      { centre_mm: 3, edge_mm: 0.5, measured: undefined },
      { centre_mm: 3, edge_mm: 0.5, measured: undefined },
    ]);
    expect(halves({ id: "f", kind: "paint", coats: 5, coat_mm: 0.01 })).toEqual([{ coats: 3 }, { coats: 2 }]);
    expect(halves({ id: "w", kind: "weight", count: 4, each_g: 9 })).toEqual([{ count: 2 }, { count: 2 }]);
  });
  test("leaves whole what has no halves", () => {
    expect(halves({ id: "f", kind: "paint", coats: 1, coat_mm: 0.01 })).toBeUndefined();
    expect(halves({ id: "h", kind: "hair", hairs_cm2: 30, length_mm: 9 })).toBeUndefined();
    expect(halves({ id: "z", kind: "latex", coats: 4, coat_mm: 0.1, zone_coats: [4, 1] })).toBeUndefined();
  });
});

describe("a body that was measured", () => {
  const found = {
    scan: 7,
    name: "cheek.stl",
    profile_mm: [5, 3, 0.4],
    mean_mm: 2.4,
    area_cm2: 31,
    at: "2026-01-09T15:00:00Z",
    places: [],
  } as unknown as Found;
  const body: Layer = { id: "b", kind: "silicone", material: "gel", centre_mm: 6, edge_mm: 0, extent: "centre_only", stop_mm: 9 };
  test("takes centre, edge and profile, and is planned again by another centre", () => {
    const taken = asMeasured(body, found);
    expect(taken).toMatchObject({ centre_mm: 5, edge_mm: 0.4, extent: "to_edge", measured: { scan: 7, profile_mm: [5, 3, 0.4] } });
    expect(planned(taken, { centre_mm: 5.5 })).toMatchObject({ centre_mm: 5.5, edge_mm: 0.4, measured: undefined });
  });
  test("is offered once: taken, only a newer scan is offered", () => {
    const take = vi.fn();
    const { rerender } = show(<MeasuredBand code="BF-01" layer={body} found={found} take={take} />);
    fireEvent.click(screen.getByText("Take the measured thickness"));
    expect(take).toHaveBeenCalledWith(found);
    rerender(around(<MeasuredBand code="BF-01" layer={asMeasured(body, found)} found={found} take={take} />));
    expect(screen.queryByText("Take the measured thickness")).toBeNull();
    rerender(around(<MeasuredBand code="BF-01" layer={asMeasured(body, found)} found={{ ...found, scan: 8 }} take={take} />));
    expect(screen.getByText(/A newer scan/)).toBeTruthy();
  });
  test("is not spoken of where nothing was measured", () => {
    show(<MeasuredBand code="BF-01" layer={body} found={{ ...found, scan: 0, profile_mm: [] }} take={() => {}} />);
    expect(screen.queryByTestId("measured")).toBeNull();
  });
});

describe("a cut of another width", () => {
  const zoned: Cut = {
    half_width_mm: 30,
    area_cm2: 28,
    zones: [
      { name: "bridge", to_mm: 10 },
      { name: "slope", to_mm: 20 },
      { name: "rim", to_mm: 30 },
    ],
    layers: [{ id: "l", kind: "latex", coats: 3, coat_mm: 0.1, zone_coats: [5, 3, 1] }],
  };
  test("keeps zones and coats in step", () => {
    expect(fitTo(zoned, 40).zones?.at(-1)).toEqual({ name: "rim", to_mm: 40 });
    const narrow = fitTo(zoned, 15);
    expect(narrow.zones?.map((z) => z.name)).toEqual(["bridge", "rim"]);
    expect(narrow.layers?.[0].zone_coats).toEqual([5, 1]);
    expect(fitTo({ ...zoned, zones: undefined }, 15)).toEqual({ half_width_mm: 15 });
  });
});

describe("adding a layer", () => {
  test("narrows by typing, and Enter takes the first", () => {
    const pick = vi.fn();
    show(<AddLayer products={products} kinds={kinds} pick={pick} close={() => {}} />);
    const box = screen.getByLabelText("Narrow the list");
    fireEvent.change(box, { target: { value: "crepe" } });
    expect(screen.queryByText("paint cream")).toBeNull();
    fireEvent.keyDown(box, { key: "Enter" });
    expect(pick).toHaveBeenCalledWith(products[3], kinds[4]);
  });
  test("says when nothing is called that", () => {
    show(<AddLayer products={products} kinds={kinds} pick={() => {}} close={() => {}} />);
    fireEvent.change(screen.getByLabelText("Narrow the list"), { target: { value: "unobtainium" } });
    expect(screen.getByText("Nothing on the shelf is called that.")).toBeTruthy();
  });
});

describe("findings", () => {
  test("are told apart by their place, as the server does", () => {
    expect(placeOf(finding())).toBe("a|b");
    expect(placeOf(finding({ cut: "brow" }))).toBe("brow|a|b");
    expect(placeOf(finding({ below: undefined }))).toBe("b");
    expect(keyOf(finding({ below: undefined, above: undefined }))).toBe("INH-1@");
  });
  test("take a lead's reason each for itself", () => {
    const set = vi.fn();
    const two = [finding(), finding({ above: "c", reason: "It stays sticky too." })];
    show(<Findings findings={two} setOpen={() => {}} reasons={{}} setReason={set} products={new Map()} />);
    const boxes = screen.getAllByPlaceholderText("a lead's reason to go on");
    expect(boxes).toHaveLength(2);
    fireEvent.change(boxes[1], { target: { value: "seen from the gate" } });
    expect(set).toHaveBeenCalledWith("INH-1@a|c", "seen from the gate");
  });
  test("open to the remedy and what to take instead", () => {
    show(<Findings findings={[finding()]} open={0} setOpen={() => {}} reasons={{}} products={new Map(products.map((p) => [p.slug, p]))} />);
    expect(screen.getByText(/Put a film between them/).textContent).toContain("Take instead, no known conflict:");
    expect(screen.getByText("encapsulator acetone: its edge melts with acetone only")).toBeTruthy();
    expect(screen.queryByPlaceholderText("a lead's reason to go on")).toBeNull();
  });
});

describe("the order of work", () => {
  const step = (more = {}) => ({
    act: "film",
    where: "bench" as const,
    text: "Film first.",
    why: "cast pieces are built from the outside in",
    swap: "The film tears.",
    layers: ["out"],
    hands_s: 300,
    wait_s: 900,
    cautions: ["Acetone never near the eyes."],
    ...more,
  });
  test("says why, what goes wrong the other way round, and what to mind", () => {
    const go = vi.fn();
    show(
      <Order
        steps={[step(), step({ where: "chair", text: "Powder.", layers: [], swap: "" })]}
        cautions={[finding({ id: "MAK-7", reason: "It is sprayed." })]}
        show={go}
      />,
    );
    expect(screen.getByText("At the bench")).toBeTruthy();
    expect(screen.getByText("At the chair")).toBeTruthy();
    expect(screen.getByText("The other way round: The film tears.")).toBeTruthy();
    expect(screen.getAllByText("Acetone never near the eyes.")).toHaveLength(2);
    expect(screen.getByText(/It is sprayed/)).toBeTruthy();
    fireEvent.click(screen.getByText("Film first."));
    expect(go).toHaveBeenCalledWith("out");
  });
  test("of nothing yet says so", () => {
    show(<Order steps={[]} cautions={[]} show={() => {}} />);
    expect(screen.getByText(/stands here in its order/)).toBeTruthy();
  });
});

/** jsdom opens no details by a click: it is opened and told so. */
function unfold() {
  const details = document.querySelector("details") as HTMLDetailsElement;
  details.open = true;
  fireEvent(details, new Event("toggle"));
}

describe("what a band can say", () => {
  const cut: Cut = {
    half_width_mm: 30,
    area_cm2: 28,
    layers: [],
    zones: [
      { name: "bridge", to_mm: 10 },
      { name: "rim", to_mm: 30 },
    ],
  };
  const latex: Layer = { id: "l", kind: "latex", material: "latex-balloon", coats: 3, coat_mm: 0.1 };
  test("latex: stretched, and coats by zone that begin as they were", () => {
    const set = vi.fn();
    show(<BandMore layer={latex} cut={cut} kind={kinds[2]} set={set} here={() => undefined} />);
    unfold();
    fireEvent.click(screen.getByLabelText("powdered while stretched"));
    expect(set).toHaveBeenCalledWith({ stretched: true });
    fireEvent.click(screen.getByLabelText("coats differ by zone"));
    expect(set).toHaveBeenCalledWith({ zone_coats: [3, 3] });
  });
  test("a zone's coats are changed alone", () => {
    const set = vi.fn();
    show(<BandMore layer={{ ...latex, zone_coats: [3, 1] }} cut={cut} kind={kinds[2]} set={set} here={() => undefined} />);
    unfold();
    fireEvent.change(screen.getByLabelText("bridge"), { target: { value: "5" } });
    expect(set).toHaveBeenCalledWith({ zone_coats: [5, 1] });
  });
  test("a colour has a role and may show through; it is not stretched", () => {
    show(<BandMore layer={{ id: "c", kind: "paint", coats: 1, coat_mm: 0.02 }} cut={cut} kind={kinds[6]} set={() => {}} here={() => undefined} />);
    unfold();
    expect(screen.getByLabelText("meant to show through")).toBeTruthy();
    expect(screen.queryByLabelText("powdered while stretched")).toBeNull();
    expect(screen.getByLabelText("What the colour does")).toBeTruthy();
  });
});
