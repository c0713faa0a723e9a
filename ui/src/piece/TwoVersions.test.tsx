import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { system } from "../app/theme";
import type { Section } from "../parts/section/geometry";
import { TwoVersions } from "./TwoVersions";

afterEach(cleanup);

const skin = { id: "skin", kind: "skin" as const };
const body = (mm: number) => ({ id: "body", kind: "silicone" as const, material: "gel", centre_mm: mm });
const powder = { id: "powder", kind: "powder" as const, material: "dust", coats: 1, coat_mm: 0.01 };
const doc = (...layers: Section["layers"]): Section => ({ area_cm2: 34, half_width_mm: 33, layers });
const products = new Map([
  ["gel", { slug: "gel", name: "Silicone gel" }],
  ["dust", { slug: "dust", name: "Setting powder" }],
]) as never;

function said(yours: Section, theirs: Section, who = "Maud Tarn"): string {
  render(
    <ChakraProvider value={system}>
      <TwoVersions both={{ yours, theirs, who, state: {} as never }} products={products} />
    </ChakraProvider>,
  );
  return screen.getByTestId("two-versions").textContent ?? "";
}

test("what differs stands side by side, with whose it is", () => {
  const text = said(doc(skin, body(5), powder), doc(skin, body(7)));
  expect(text).toContain("The other, Maud Tarn");
  expect(text).toContain("Silicone gel, 5 mm at the centre");
  expect(text).toContain("Silicone gel, 7 mm at the centre");
  expect(text).toContain("Setting powder, 1 coat, 0.01 mm a coat");
  expect(text).toContain("not there");
  expect(text).toContain("One band is the same.");
});

test("bands in another order are said to be", () => {
  expect(said(doc(skin, body(5), powder), doc(skin, powder, body(5)))).toContain("3 bands are the same. They lie in another order.");
});

test("a further cut and what a band says besides count too", () => {
  const more = (note: string): Section => ({
    ...doc(skin),
    more: [{ id: "brow", name: "brow", half_width_mm: 20, area_cm2: 9, layers: [{ ...powder, id: "p2", note }] }],
  });
  expect(said(more("thin"), more("thick"))).toContain("thick");
});
