import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { configure, render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import type { Schemas } from "./app/api";
import { KeysProvider } from "./app/keys";
import { system } from "./app/theme";

// What a test waits for comes when it comes: a machine with much to do is slow, not wrong.
configure({ asyncUtilTimeout: 8000 });

/** For tests: reads nothing twice that failed. */
export const freshClient = () => new QueryClient({ defaultOptions: { queries: { retry: false } } });

/** For tests: a part of the interface with all that stands around it in the application. */
export const around = (node: ReactNode, client = freshClient(), at = "/") => (
  <ChakraProvider value={system}>
    <QueryClientProvider client={client}>
      <MemoryRouter initialEntries={[at]}>
        <KeysProvider>{node}</KeysProvider>
      </MemoryRouter>
    </QueryClientProvider>
  </ChakraProvider>
);

export const show = (node: ReactNode) => render(around(node));

/** The same at an address. */
export const showAt = (at: string, node: ReactNode) => render(around(node, freshClient(), at));

/** For tests: a copy as the lists give it. */
export const aCopy = (more: Partial<Schemas["BuildCopy"]>): Schemas["BuildCopy"] => ({
  code: "NM-01-L-a",
  piece: "NM-01-L",
  run: "R-0009",
  way: "cast",
  mixes: "",
  state: "made",
  reason: "",
  section_number: 1,
  left_to_do: 0,
  made_at: "2026-01-12T08:05:00Z",
  ...more,
});

/** For tests: a row of the round. */
export const aPiece = (more: Partial<Schemas["Piece"]>): Schemas["Piece"] => ({
  code: "NM-01-L",
  name: "Salt-cracked hand",
  character_code: "NM",
  character_name: "The Net-mender",
  production: "The Drowned Quay",
  production_id: 1,
  region: "hand",
  side: "L",
  place: "build",
  family: "latex",
  copies_good: 0,
  copies_wanted: 1,
  brief_number: 1,
  section_number: 1,
  created_at: "2026-01-05T08:00:00Z",
  ...more,
});

/** For tests: a shooting day of the run-up. */
export const aDay = (more: Partial<Schemas["PlanDay"]>): Schemas["PlanDay"] => ({
  id: 1,
  day: "2026-01-19",
  place: "the quay",
  temp_c: 6,
  rh: 0.8,
  light: "day",
  working_days: 5,
  needs: [],
  kits: 0,
  received: 0,
  ...more,
});

/** For tests: a product of the library. */
export const aMaterial = (more: Partial<Schemas["CraftMaterialProduct"]>): Schemas["CraftMaterialProduct"] =>
  ({ slug: "latex-balloon", name: "Latex, soft", family: "latex", ...more }) as Schemas["CraftMaterialProduct"];
