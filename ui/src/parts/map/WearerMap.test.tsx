import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { system } from "../../app/theme";
import { type Net, Sight } from "./form";
import { type MapMark, WearerMap } from "./WearerMap";

afterEach(cleanup);
Element.prototype.setPointerCapture = () => {}; // the test's document has no pointers to hold

// A flat sheet of 100 by 100 mm.
const net: Net = {
  name: "palm_L",
  stamp: "x",
  columns: 11,
  rows: 11,
  u0: -50,
  u1: 50,
  v0: 0,
  v1: 100,
  wraps: false,
  net: Array.from({ length: 121 }, (_, k) => [(k % 11) * 100 - 500, 500 - Math.floor(k / 11) * 100, 100]).flat(),
  keep_out: [
    {
      name: "left eye",
      text: "keep-out",
      outline: [
        { u: -10, v: 10 },
        { u: 0, v: 10 },
        { u: -5, v: 20 },
      ],
    },
  ],
  openings: [
    {
      name: "mouth",
      text: "mouth",
      outline: [
        { u: 10, v: 60 },
        { u: 20, v: 60 },
        { u: 15, v: 66 },
      ],
    },
  ],
  landmarks: {},
  regions: [],
  yaws: [0],
  pitches: [0],
};
const view = {
  yaw: 0,
  pitch: 0,
  left: -50,
  top: -50,
  width: 100,
  height: 100,
  outline: "M-50 -50L50 -50L50 50Z",
  ridges: "",
  contours: "M0 0L9 9",
  heavy: "",
  step_mm: 3,
};
const cheek: MapMark = {
  id: "piece  a",
  kind: "region",
  closed: true,
  name: "left cheek",
  label: ["BF-03", "34.0 cm²"],
  points: [
    { u: -20, v: 30 },
    { u: 20, v: 30 },
    { u: 20, v: 70 },
    { u: -20, v: 70 },
  ],
};

function draw(over: Partial<Parameters<typeof WearerMap>[0]> = {}) {
  return render(
    <ChakraProvider value={system}>
      <WearerMap view={view} net={net} sight={new Sight(net, 0, 0)} marks={[cheek]} label="The wearer's map" {...over} />
    </ChakraProvider>,
  );
}

const opening = { name: "mouth", text: "mouth", wide_mm: 50, high_mm: 12, asked: true, covered_by: ["BF-03"] };

describe("the wearer's map", () => {
  it("shows marks with their label, and hides a layer", () => {
    draw();
    expect(screen.getByText("34.0 cm²")).toBeTruthy();
    cleanup();
    draw({ hidden: new Set(["region"]) });
    expect(screen.queryByText("34.0 cm²")).toBeNull();
  });

  it("says of an opening whether it is free", () => {
    draw({ openings: [{ ...opening, open: 0.4, pass: false }] });
    expect(screen.getByText("mouth: 40 % free")).toBeTruthy();
    cleanup();
    draw({ openings: [{ ...opening, open: 1, pass: true }] });
    expect(screen.getByText("mouth: free")).toBeTruthy();
  });

  it("turns by keys", () => {
    const turn = vi.fn();
    draw({ turn });
    const map = screen.getByRole("application");
    for (const key of ["ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "x"]) fireEvent.keyDown(map, { key });
    expect(turn.mock.calls).toEqual([
      [-1, 0],
      [1, 0],
      [0, 1],
      [0, -1],
    ]);
  });

  it("moves, adds and takes away points by keys", () => {
    const edit = vi.fn();
    draw({ edit, selected: cheek.id });
    const points = screen.getAllByRole("button");
    expect(points).toHaveLength(4);
    expect(points[0].getAttribute("aria-label")).toBe("point 1 of 4, left cheek");
    fireEvent.keyDown(points[0], { key: "ArrowRight" });
    expect(edit.mock.calls[0][0][0].u).toBeCloseTo(-18.5, 5);
    expect(edit.mock.calls[0][0].slice(1)).toEqual(cheek.points.slice(1));
    fireEvent.keyDown(points[1], { key: "Enter" });
    expect(edit.mock.calls[1][0]).toHaveLength(5);
    fireEvent.keyDown(points[2], { key: "Delete" });
    expect(edit.mock.calls[2][0]).toHaveLength(3);
  });

  it("keeps as many points as an area needs", () => {
    const edit = vi.fn();
    draw({ edit, selected: cheek.id, marks: [{ ...cheek, points: cheek.points.slice(0, 3) }] });
    fireEvent.keyDown(screen.getAllByRole("button")[0], { key: "Delete" });
    expect(edit).not.toHaveBeenCalled();
  });

  it("does not let another piece be taken hold of", () => {
    const select = vi.fn();
    const { container } = draw({ select, marks: [{ ...cheek, faint: true }] });
    const path = [...container.querySelectorAll("path")].find((p) => p.querySelector("title")?.textContent === "left cheek");
    fireEvent.pointerDown(path as Element);
    expect(select).not.toHaveBeenCalledWith(cheek.id);
  });
});
