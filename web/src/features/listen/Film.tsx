/** The picture of a film at the playhead, so that its sound can be checked against it. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useCallback, useRef, useState } from "react";
import { clock } from "../../shared/format";
import { useFrames, useSession } from "./context";

/** A source with a picture, and by how many seconds of it what is heard begins later. */
export type FilmShown = { job: string; source: string; name: string; later: number };

/** Pictures in a second at most. */
const PER_SECOND = 5;

export function Film({ film: { job, source, name, later } }: { film: FilmShown }) {
  const session = useSession();
  const [at, setAt] = useState(0);
  const loading = useRef(false);
  const [problem, setProblem] = useState(false);
  const look = useCallback(() => {
    const { rate } = session.store.getState();
    const seconds = Math.round((session.player.position / rate + later) * PER_SECOND) / PER_SECOND;
    if (loading.current) return;
    setAt((before) => {
      if (before !== seconds) loading.current = true;
      return seconds;
    });
  }, [session, later]);
  useFrames(
    useCallback(() => {
      look();
      return false;
    }, [look]),
  );
  /** One picture that can't be read says nothing about the next. */
  const arrived = (failed: boolean) => {
    loading.current = false;
    setProblem(failed);
    if (!failed) look();
  };
  return (
    <Flex direction="column" flexShrink={0} gap={1}>
      {problem && <Text layerStyle="note">Can’t read this frame.</Text>}
      <Box layerStyle="outlined" overflow="hidden" hidden={problem}>
        <img
          key={source}
          fetchPriority="low"
          src={`/api/jobs/${job}/sources/${source}/picture?at=${at}`}
          alt={`${name} at ${clock(at, 1)}`}
          style={{ width: "100%", display: "block" }}
          onLoad={() => arrived(false)}
          onError={() => arrived(true)}
        />
      </Box>
      <Text layerStyle="figures">Frame at {clock(at, 1)}</Text>
    </Flex>
  );
}
