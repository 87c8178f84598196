/** Which page is shown. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { lazy, type ReactNode, Suspense } from "react";
import { Link, Route, Routes } from "react-router";
import { useServerEvents } from "../api/events";
import { Jobs } from "../features/jobs";
import { ColorModeButton } from "../shared/ColorModeButton";
import { Mark } from "../shared/Mark";
import { Empty, QuietButton } from "../shared/parts";

const Why = lazy(() => import("../features/why").then((module) => ({ default: module.Why })));
const JobPage = lazy(() => import("./JobPage").then((module) => ({ default: module.JobPage })));

export function App() {
  useServerEvents();
  return (
    <Suspense>
      <Routes>
        <Route
          path="/"
          element={
            <Home>
              <Jobs />
            </Home>
          }
        />
        <Route
          path="/why/:page?"
          element={
            <Home>
              <Why />
            </Home>
          }
        />
        <Route path="/jobs/:job/*" element={<JobPage />} />
        <Route
          path="*"
          element={
            <Flex h="100%">
              <Empty title="There is nothing at this address">
                <Link to="/">Go to the jobs</Link>
              </Empty>
            </Flex>
          }
        />
      </Routes>
    </Suspense>
  );
}

function Home({ children }: { children: ReactNode }) {
  return (
    <Box minH="100%">
      <Flex as="header" align="center" gap={3} px={4} h={14} borderBottomWidth={1} borderColor="line">
        <Link to="/" title="All jobs">
          <Mark />
        </Link>
        <Text fontWeight={700} fontSize="lg" flex={1}>
          Wedge Turn
        </Text>
        <QuietButton asChild>
          <Link to="/why">Why it works</Link>
        </QuietButton>
        <ColorModeButton />
      </Flex>
      <main>{children}</main>
    </Box>
  );
}
