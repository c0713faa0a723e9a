import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { FakeServer } from "../fakeServer";
import { show } from "../testing";
import { type Fact, type NewFact, Sensitivities } from "./Sensitivities";

beforeEach(() => {
  new FakeServer()
    .get("/api/substances", [
      { code: "latex", name: "natural rubber latex" },
      { code: "nuts", name: "nuts and their oils" },
    ])
    .get("/api/materials", [{ slug: "adhesive-gum", name: "Spirit gum", family: "adhesive_gum", density: 1 }])
    .install();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const fact = (more: Partial<Fact>): Fact => ({
  id: 1,
  substance: "latex",
  words: "",
  status: "allergic",
  note: "",
  name: "natural rubber latex",
  asked: false,
  ...more,
});

const shown = (facts: Fact[], open = false) => {
  const recorded: NewFact[] = [];
  const erased: number[] = [];
  show(
    <Sensitivities
      facts={facts}
      none="nothing"
      record={async (f) => recorded.push(f)}
      erase={async (id) => erased.push(id)}
      open={open}
      setOpen={() => {}}
    />,
  );
  return { recorded, erased };
};

test("chosen from the list, or in words", async () => {
  const { recorded } = shown([], true);
  await screen.findByRole("option", { name: "nuts and their oils" });
  fireEvent.change(screen.getByLabelText("To what"), { target: { value: "nuts" } });
  fireEvent.click(screen.getByText("Record it"));
  await waitFor(() => expect(recorded).toEqual([{ substance: "nuts", status: "allergic", note: "" }]));
  fireEvent.change(screen.getByLabelText("To what"), { target: { value: "in words" } });
  fireEvent.change(screen.getByLabelText("In their words"), { target: { value: "the blue one" } });
  fireEvent.click(screen.getByText("Record it"));
  await waitFor(() => expect(recorded[1]).toEqual({ substance: "the blue one", status: "allergic", note: "" }));
});

test("erasing asks once, and is put back within the minute", async () => {
  const { recorded, erased } = shown([fact({ note: "letter" })]);
  fireEvent.click(screen.getByText("erase"));
  expect(erased).toEqual([]);
  fireEvent.click(screen.getByText("keep"));
  fireEvent.click(screen.getByText("erase"));
  fireEvent.click(screen.getByText("erase for good"));
  await waitFor(() => expect(erased).toEqual([1]));
  fireEvent.click(await screen.findByText("Put it back"));
  await waitFor(() => expect(recorded).toEqual([{ substance: "latex", status: "allergic", note: "letter" }]));
});

test("words that mean nothing of the list are asked about", async () => {
  const { recorded } = shown([fact({ substance: "the blue one", name: "the blue one", asked: true })]);
  await screen.findByRole("option", { name: "nuts and their oils" });
  fireEvent.change(screen.getByLabelText("It is"), { target: { value: "nuts" } });
  fireEvent.click(screen.getByText("That is it"));
  await waitFor(() => expect(recorded).toEqual([{ substance: "the blue one", status: "allergic", note: "", means: "nuts" }]));
});
