/** Which page is shown at which address. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { Link, Outlet, type RouteObject, useRouteError } from "react-router";
import { useStore } from "zustand";
import { access } from "../api/client";
import { SignIn, SignOut } from "../features/access";
import { Jobs, Storage } from "../features/jobs";
import { connection, useServerEvents } from "../model/events";
import { Announcer } from "../shared/announce";
import { ColorModeButton } from "../shared/ColorModeButton";
import { Mark } from "../shared/Mark";
import { Empty, QuietButton } from "../shared/parts";

export const routes: RouteObject[] = [
  {
    Component: Application,
    ErrorBoundary: Broken,
    HydrateFallback: () => null,
    children: [
      {
        Component: Home,
        ErrorBoundary: Broken,
        children: [
          { index: true, Component: Jobs },
          { path: "storage", Component: Storage },
          {
            path: "guide/:page?",
            lazy: async () => ({ Component: (await import("../features/guide")).Guide }),
          },
          { path: "why/:page?", lazy: async () => ({ Component: (await import("../features/why")).Why }) },
        ],
      },
      {
        path: "jobs/:job",
        lazy: async () => ({ Component: (await import("../workbench")).JobPage }),
        ErrorBoundary: Broken,
        children: [
          {
            path: "delivery",
            lazy: async () => ({ Component: (await import("../workbench")).DeliveryPage }),
            ErrorBoundary: Broken,
          },
          // One route for a line, a file, or neither: the workbench stays as it is while they change.
          {
            path: ":kind?/:item?",
            lazy: async () => ({ Component: (await import("../workbench")).WorkbenchPage }),
            ErrorBoundary: Broken,
          },
        ],
      },
      { path: "*", Component: Nothing },
    ],
  },
];

function Application() {
  useServerEvents();
  const asked = useStore(access, (state) => state.asked);
  if (asked) return <SignIn />;
  return (
    <Flex direction="column" h="100%">
      <SkipLink />
      <Announcer />
      <ConnectionBanner />
      <Box flex={1} minH={0} overflow="auto">
        <Outlet />
      </Box>
    </Flex>
  );
}

/** The first stop of the keyboard: past the header, to what the page is for. */
function SkipLink() {
  const skip = () => {
    const main = document.querySelector("main");
    main?.setAttribute("tabindex", "-1");
    main?.focus();
  };
  return (
    <QuietButton
      position="absolute"
      top={2}
      left={2}
      zIndex="skipNav"
      variant="subtle"
      transform="translateY(-200%)"
      _focusVisible={{ transform: "none" }}
      onClick={skip}
    >
      Skip to main content
    </QuietButton>
  );
}

/** Goes by itself when the server answers again. */
function ConnectionBanner() {
  const lost = useStore(connection, (state) => state.lost);
  return (
    <Box layerStyle="banner" textStyle="strong" role="status">
      {lost && (
        <Text py={1} px={4}>
          No connection to Wedge Turn. Reconnecting; changes are saved once it answers.
        </Text>
      )}
    </Box>
  );
}

function Home() {
  return (
    <Box minH="100%">
      <Flex as="header" layerStyle="bar" gap={3}>
        <Link to="/" aria-label="All jobs">
          <Mark />
        </Link>
        <Text textStyle="title" flex={1}>
          Wedge Turn
        </Text>
        <QuietButton asChild>
          <Link to="/storage">Storage</Link>
        </QuietButton>
        <QuietButton asChild>
          <Link to="/guide">Guide</Link>
        </QuietButton>
        <QuietButton asChild>
          <Link to="/why">Background</Link>
        </QuietButton>
        <SignOut />
        <ColorModeButton />
      </Flex>
      <main>
        <Outlet />
      </main>
    </Box>
  );
}

function Nothing() {
  return (
    <Flex as="main" h="100%">
      <Empty page title="Page not found">
        <Link to="/">Back to all jobs</Link>
      </Empty>
    </Flex>
  );
}

/** In place of a page that could not be drawn. */
function Broken() {
  const problem = useRouteError();
  return (
    <Flex as="main" h="100%">
      <Empty page title="Something went wrong">
        {problem instanceof Error ? problem.message : String(problem)}
        <Box mt={2}>
          <QuietButton onClick={() => window.location.reload()}>Try again</QuietButton> ·{" "}
          <Link to="/">Back to all jobs</Link>
        </Box>
      </Empty>
    </Flex>
  );
}
