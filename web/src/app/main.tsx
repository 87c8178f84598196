import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter } from "react-router";
import { RouterProvider } from "react-router/dom";
import { Problem } from "../api/client";
import { colorModes } from "../shared/colorMode";
import { Notices } from "../shared/notices";
import { routes } from "./App";
import { system } from "./theme";

// The server is on this machine: it is asked also where the browser believes itself offline, and what it refuses it
// would refuse again.
const queries = new QueryClient({
  defaultOptions: {
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      retry: (failures, problem) =>
        failures < 1 && problem instanceof Problem && problem.code === "unreachable",
    },
    mutations: { networkMode: "always" },
  },
});
colorModes.start();
const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <ChakraProvider value={system}>
        <QueryClientProvider client={queries}>
          {/* Without transitions: a key right after a link meets the screen that it led to. */}
          <RouterProvider router={createBrowserRouter(routes)} useTransitions={false} />
          <Notices />
        </QueryClientProvider>
      </ChakraProvider>
    </StrictMode>,
  );
