import { ChakraProvider } from "@chakra-ui/react";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { system } from "../../app/theme";
import type { Cut } from "./geometry";
import { SectionDrawing } from "./SectionDrawing";

beforeEach(() => {
  vi.useFakeTimers();
  Element.prototype.setPointerCapture = () => {};
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const cut: Cut = {
  half_width_mm: 30,
  area_cm2: 28,
  layers: [
    { id: "skin", kind: "skin" },
    { id: "glue", kind: "adhesive", material: "glue", coats: 2, coat_mm: 0.04 },
    { id: "body", kind: "silicone", material: "gel", centre_mm: 6, edge_mm: 0 },
  ],
};
const heights = (id: string, centre: number, coat = 0) => ({
  id,
  centre_mm: centre,
  edge_mm: 0,
  mean_mm: 0,
  coat_mm: coat,
  mass_g: 0,
  hands_s: 0,
  wait_s: 0,
  cost_minor: 0,
});
const result = {
  layers: [heights("skin", 0), heights("glue", 0.08, 0.04), heights("body", 6)],
  words: ["Skin.", "Silicone gel, 6 mm at the centre."],
} as never;
const products = new Map([
  ["glue", { slug: "glue", name: "Acrylic adhesive", family: "adhesive_acrylic" }],
  ["gel", { slug: "gel", name: "Silicone gel", family: "silicone_addition" }],
]) as never;
const finding = { id: "ADH-1", severity: "stop" as const, reason: "It does not hold.", remedy: "", below: "glue", above: "body" };

function draw(more: Partial<Parameters<typeof SectionDrawing>[0]> = {}) {
  return render(
    <ChakraProvider value={system}>
      <SectionDrawing
        cut={cut}
        result={result}
        findings={[finding, { ...finding, id: "INH-1" }]}
        numbers={[3, 4]}
        products={products}
        trueScale={false}
        wearer="Oren Thale"
        {...more}
      />
    </ChakraProvider>,
  );
}

describe("the drawn section", () => {
  test("says its build-up to who cannot see it, and names every band", () => {
    draw();
    expect(screen.getByLabelText("Section: Skin. Silicone gel, 6 mm at the centre.")).toBeTruthy();
    const names = screen.getAllByRole("button").map((b) => b.textContent);
    expect(names).toEqual(["Skin Oren Thale", "Acrylic adhesive 2 coats, 0.08 mm", "Silicone gel 6 mm"]);
  });

  test("is chosen by keys as by hand", () => {
    const choose = vi.fn();
    draw({ onSelect: choose });
    fireEvent.keyDown(screen.getAllByRole("button")[2], { key: "Enter" });
    fireEvent.click(document.querySelector("[data-layer=glue]") as Element);
    expect(choose.mock.calls).toEqual([["body"], ["glue"]]);
  });

  test("keeps knots apart, with their numbers of the list", () => {
    const told = vi.fn();
    const { container } = draw({ onFinding: told });
    const knots = [...container.querySelectorAll("[data-knot]")];
    expect(knots.map((k) => k.querySelector("text")?.textContent)).toEqual(["3", "4"]);
    const x = knots.map((k) => Number(k.querySelector("rect")?.getAttribute("x")));
    expect(Math.abs(x[0] - x[1])).toBeGreaterThanOrEqual(25);
    fireEvent.click(knots[1]);
    expect(told).toHaveBeenCalledWith(1);
  });

  test("a dragged body shows its thickness at once, and the page is told when the hand rests and when it lets go", () => {
    const resize = vi.fn();
    const { container } = draw({ selected: "body", onResize: resize });
    const svg = container.querySelector("svg") as SVGSVGElement;
    svg.getBoundingClientRect = () => ({ height: 560, width: 900 }) as DOMRect;
    const handle = [...container.querySelectorAll("circle")].find((c) => c.getAttribute("r") === "22")?.parentElement as Element;
    const before = container.querySelector("[data-layer=body]")?.getAttribute("d");
    fireEvent.pointerDown(handle, { clientY: 200, pointerId: 1 });
    fireEvent.pointerMove(handle, { clientY: 150, pointerId: 1 });
    act(() => void vi.advanceTimersByTime(40));
    expect(container.querySelector("[data-layer=body]")?.getAttribute("d")).not.toBe(before);
    expect(screen.getByText("7 mm")).toBeTruthy();
    expect(resize).not.toHaveBeenCalled();
    act(() => void vi.advanceTimersByTime(200));
    expect(resize).toHaveBeenCalledWith("body", "centre", 7, false);
    fireEvent.pointerUp(handle, { clientY: 150, pointerId: 1 });
    expect(resize).toHaveBeenLastCalledWith("body", "centre", 7, true);
  });
});
