import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, test } from "vitest";
import { day } from "./format";
import { PotGlass } from "./Pot";

afterEach(cleanup);

const pot = { label: "BF-03-d", left: "demould in 1 h 27", fill: 0.42, family: "silicone_addition", state: "running" as const, marks: [] };

describe("a pot", () => {
  test("says in words what it shows", () => {
    render(<PotGlass pot={pot} />);
    expect(screen.getByTitle("BF-03-d: demould in 1 h 27, 42 % full")).toBeTruthy();
  });
  test("rings only when it needs a hand", () => {
    const { container, rerender } = render(<PotGlass pot={pot} />);
    expect(container.querySelector("circle")).toBeNull();
    rerender(<PotGlass pot={{ ...pot, state: "ready" }} />);
    expect(container.querySelector("circle")).not.toBeNull();
  });
  test("marks its stages on the glass", () => {
    const marks = [
      { stage: "pot", text: "no longer pourable", level: 0.2, reached: true },
      { stage: "demould", text: "may come out", level: 0.9, reached: false },
    ];
    const { container } = render(<PotGlass pot={{ ...pot, marks }} />);
    const said = [...container.querySelectorAll("path > title")].map((t) => t.textContent);
    expect(said).toEqual(["no longer pourable", "may come out"]);
  });
});

describe("a day", () => {
  test("has its year when it is not this one", () => {
    const now = new Date().getFullYear();
    expect(day(`${now}-01-23T09:00:00Z`)).not.toContain(String(now));
    expect(day("2019-01-23T09:00:00Z")).toContain("2019");
  });
});
