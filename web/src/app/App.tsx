/** Which page is shown. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { lazy, Suspense } from "react";
import { Link, Route, Routes } from "react-router";
import { useServerEvents } from "../api/queries";
import { Jobs } from "../features/jobs";
import { Mark } from "../shared/Mark";
import { Empty } from "../shared/parts";
import { ColorModeButton } from "./ColorModeButton";
import { type ColorMode, useColorMode } from "./colorMode";

const JobPage = lazy(() => import("./JobPage").then((module) => ({ default: module.JobPage })));

export function App() {
  useServerEvents();
  const [mode, toggle] = useColorMode();
  return (
    <Suspense>
      <Routes>
        <Route path="/" element={<Home mode={mode} onToggle={toggle} />} />
        <Route path="/jobs/:job/*" element={<JobPage mode={mode} onToggle={toggle} />} />
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

function Home({ mode, onToggle }: { mode: ColorMode; onToggle: () => void }) {
  return (
    <Box minH="100%">
      <Flex as="header" align="center" gap={3} px={4} h={14} borderBottomWidth={1} borderColor="line">
        <Mark />
        <Text fontWeight={700} fontSize="lg" flex={1}>
          Wedge Turn
        </Text>
        <ColorModeButton mode={mode} onToggle={onToggle} />
      </Flex>
      <main>
        <Jobs />
      </main>
    </Box>
  );
}
