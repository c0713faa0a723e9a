import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../../app/api";
import { system } from "../../app/theme";
import { Figure, Rows } from "./Rows";

afterEach(cleanup);

interface Step {
  text: string;
  where: string;
  hours: number;
  cost: number;
}

const columns = [
  { name: "text" as const, label: "Step", width: "1fr" },
  {
    name: "where" as const,
    label: "Where",
    width: "1fr",
    kind: "choice" as const,
    choices: [
      ["workshop", "workshop"],
      ["chair", "chair"],
    ] as [string, string][],
  },
  { name: "hours" as const, label: "Hours", width: "1fr", kind: "number" as const },
  { name: "cost" as const, label: "Cost", width: "1fr", kind: "money" as const },
];

function draw(rows: Step[], set = vi.fn(), problem?: Problem) {
  render(
    <ChakraProvider value={system}>
      <Rows
        name="steps"
        rows={rows}
        set={set}
        columns={columns}
        blank={() => ({ text: "", where: "workshop", hours: 0, cost: 0 })}
        add="Add a step"
        empty="nothing yet"
        problem={problem}
      />
    </ChakraProvider>,
  );
  return set;
}

const cast: Step = { text: "cast", where: "workshop", hours: 3, cost: 1250 };

describe("a list of a brief", () => {
  it("teaches when it is empty, and adds", () => {
    const set = draw([]);
    expect(screen.getByText("nothing yet")).toBeTruthy();
    fireEvent.click(screen.getByText("Add a step"));
    expect(set).toHaveBeenCalledWith([{ text: "", where: "workshop", hours: 0, cost: 0 }]);
  });

  it("writes each cell in place and leaves the others", () => {
    const set = draw([cast, { ...cast, text: "paint" }]);
    fireEvent.change(screen.getByLabelText("Step, 2"), { target: { value: "colour" } });
    expect(set).toHaveBeenLastCalledWith([cast, { ...cast, text: "colour" }]);
    fireEvent.change(screen.getByLabelText("Where, 1"), { target: { value: "chair" } });
    expect(set).toHaveBeenLastCalledWith([
      { ...cast, where: "chair" },
      { ...cast, text: "paint" },
    ]);
    fireEvent.click(screen.getByLabelText("take out row 1"));
    expect(set).toHaveBeenLastCalledWith([{ ...cast, text: "paint" }]);
  });

  it("shows money in whole units and keeps hundredths", () => {
    const set = draw([cast]);
    expect((screen.getByLabelText("Cost, 1") as HTMLInputElement).value).toBe("12.5");
    fireEvent.change(screen.getByLabelText("Cost, 1"), { target: { value: "19.99" } });
    expect(set.mock.calls[0][0][0].cost).toBe(1999);
  });

  it("says the server's no of one of its rows", () => {
    draw([cast], vi.fn(), new Problem(422, "out_of_range", "steps[0].hours", "That cannot be meant."));
    expect(screen.getByRole("alert").textContent).toBe("That cannot be meant.");
    cleanup();
    draw([cast], vi.fn(), new Problem(422, "missing", "wishes", "Decide first."));
    expect(screen.queryByRole("alert")).toBeNull();
  });
});

function Typed() {
  const [n, setN] = useState(4);
  return (
    <ChakraProvider value={system}>
      <Figure label="Hours" value={n} set={setN} />
      <output>{n}</output>
    </ChakraProvider>
  );
}

describe("a figure", () => {
  it("keeps what is typed until it is one", () => {
    render(<Typed />);
    const entry = screen.getByLabelText("Hours") as HTMLInputElement;
    fireEvent.change(entry, { target: { value: "4,x" } });
    expect(entry.value).toBe("4,x");
    expect(entry.getAttribute("aria-invalid")).toBe("true");
    expect(screen.getByRole("status").textContent).toBe("4");
    fireEvent.change(entry, { target: { value: "4.5" } });
    expect(screen.getByRole("status").textContent).toBe("4.5");
  });
});
