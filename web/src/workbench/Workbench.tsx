/** The workbench: its panes, each with the slices of the store that it shows. */
import { Flex } from "@chakra-ui/react";
import { useEffect } from "react";
import { CopyTo } from "../features/jobs";
import { Transport } from "../features/listen";
import { EmptyJob, type Uploads } from "../features/sources";
import { Place } from "../features/turns";
import { Splitter, useSplit } from "../shared/Splitter";
import { Aside } from "./Aside";
import { usePictureInAddress } from "./address";
import { PicturesPane } from "./PicturesPane";
import { SourcesPane } from "./SourcesPane";
import { usePlace } from "./usePlace";
import { useBench, useWorkbench } from "./useWorkbench";
import { WorksheetPane } from "./WorksheetPane";

/** Per cent of the height, until the splitter is moved. */
const WORKSHEET_SHARE = 42;

export function Workbench({ uploads }: { uploads: Uploads }) {
  const bench = useBench();
  const job = useWorkbench((state) => state.job);
  const copied = useWorkbench((state) => state.copied);
  const [share, setShare] = useSplit("worksheet", WORKSHEET_SHARE);
  const place = usePlace();
  usePictureInAddress();
  useEffect(() => () => bench.session.player.pause(), [bench]);
  if (!job.sources.length && !job.steps.length && !uploads.all.length && !uploads.unfinished.length)
    return <EmptyJob onFiles={uploads.add} />;
  return (
    <Flex direction="column" flex={1} minH={0}>
      <Place value={place}>
        <Flex flex={1} minH={0} direction={{ base: "column", lg: "row" }}>
          <SourcesPane uploads={uploads} />
          <Flex direction="column" flex={{ base: "none", lg: 1 }} h={{ base: "48rem", lg: "auto" }} minW={0}>
            <WorksheetPane share={share} />
            <Splitter
              label="Height of the worksheet"
              share={share}
              onShare={setShare}
              home={WORKSHEET_SHARE}
            />
            <PicturesPane />
          </Flex>
          <Aside />
        </Flex>
      </Place>
      <CopyTo job={job} copied={copied} onClose={() => bench.startCopy(null)} />
      <Transport />
    </Flex>
  );
}
