import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { Problem } from "../app/api";
import { system } from "../app/theme";
import { Entry, Refusal, WrongAt } from "./controls";

afterEach(cleanup);

const no = (field: string) => new Problem(422, "missing", field, "Say which lot.");
const form = (problem?: Problem, lot = true) => (
  <ChakraProvider value={system}>
    {lot && <Entry label="Lot" name="lot" value="" set={() => {}} problem={problem} />}
    <WrongAt problem={problem} name="tags" />
    <Refusal problem={problem} />
  </ChakraProvider>
);

test("a no stands once: at its field, else at the form", () => {
  const { rerender } = render(form(no("lot")));
  expect(screen.getAllByText("Say which lot.")).toHaveLength(1);
  expect(screen.getByLabelText("Lot").getAttribute("aria-invalid")).toBe("true");
  rerender(form(no("note")));
  expect(screen.getAllByText("Say which lot.")).toHaveLength(1);
  expect(screen.getByLabelText("Lot").getAttribute("aria-invalid")).not.toBe("true");
  rerender(form());
  expect(screen.queryByText("Say which lot.")).toBeNull();
});

test("a field that has gone from the screen hides nothing", () => {
  const problem = no("lot");
  const { rerender } = render(form(problem));
  rerender(form(problem, false));
  expect(screen.getAllByText("Say which lot.")).toHaveLength(1);
});

test("a no about a part is shown by the part's own name", () => {
  const problem = no("layers[2].lot");
  render(
    <ChakraProvider value={system}>
      <Entry label="Lot" name="lot" value="" set={() => {}} problem={problem.at("layers[2].lot", "lot")} />
      <Refusal problem={problem} />
    </ChakraProvider>,
  );
  expect(screen.getAllByText("Say which lot.")).toHaveLength(1);
  expect(problem.at("layers[1].lot", "lot")).toBeUndefined();
});
