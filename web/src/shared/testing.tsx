/** What component tests share: things of a job, and a page to put components on. */
import { ChakraProvider, defaultSystem } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";

/** Show a component, and nothing from before it. */
export function show(children: ReactNode) {
  cleanup();
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false, staleTime: Infinity } } });
  const page = (inside: ReactNode) => (
    <ChakraProvider value={defaultSystem}>
      <QueryClientProvider client={queries}>
        <MemoryRouter>{inside}</MemoryRouter>
      </QueryClientProvider>
    </ChakraProvider>
  );
  const shown = render(page(children));
  return { ...shown, queries, again: (inside: ReactNode) => shown.rerender(page(inside)) };
}
