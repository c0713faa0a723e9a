import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { KeysProvider } from "./app/keys";
import { system } from "./app/theme";

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
