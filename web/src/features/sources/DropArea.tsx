/** Files and folders may be dropped anywhere on the page; folders are gone through. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { tellProblem } from "../../shared/notices";
import type { DroppedFile } from "./uploadStore";

export function DropArea({ onFiles }: { onFiles: (files: DroppedFile[]) => void }) {
  const [over, setOver] = useState(false);
  useEffect(() => {
    let depth = 0;
    const carriesFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const enter = (event: DragEvent) => {
      if (!carriesFiles(event)) return;
      event.preventDefault();
      depth += 1;
      setOver(true);
    };
    const leave = () => {
      depth = Math.max(0, depth - 1);
      if (depth === 0) setOver(false);
    };
    const drop = async (event: DragEvent) => {
      if (!carriesFiles(event)) return;
      event.preventDefault();
      depth = 0;
      setOver(false);
      const items = [...(event.dataTransfer?.items ?? [])];
      // Entries and files must be taken before the first await: the list is emptied when the event is over.
      const dropped = items.map((item) => ({
        entry: item.webkitGetAsEntry?.() ?? null,
        file: item.getAsFile(),
      }));
      const files = await Promise.all(
        dropped.map(({ entry, file }) =>
          entry?.isDirectory ? filesBelow(entry) : file ? [{ file, folder: "" }] : [],
        ),
      );
      onFiles(files.flat());
    };
    const take = (event: DragEvent) => drop(event).catch(tellProblem);
    const allow = (event: DragEvent) => carriesFiles(event) && event.preventDefault();
    const listeners = { dragenter: enter, dragleave: leave, dragover: allow, drop: take } as const;
    for (const [name, listen] of Object.entries(listeners))
      window.addEventListener(name, listen as EventListener);
    return () => {
      for (const [name, listen] of Object.entries(listeners))
        window.removeEventListener(name, listen as EventListener);
    };
  }, [onFiles]);
  if (!over) return null;
  return (
    <Flex
      position="fixed"
      inset={3}
      zIndex="overlay"
      layerStyle="dropping"
      align="center"
      justify="center"
      pointerEvents="none"
    >
      <Box textAlign="center">
        <Text textStyle="page">Drop to add</Text>
        <Text layerStyle="quiet">Files are copied. The originals are never changed.</Text>
      </Box>
    </Flex>
  );
}

async function filesBelow(entry: FileSystemEntry): Promise<DroppedFile[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) =>
      (entry as FileSystemFileEntry).file(resolve, reject),
    );
    const folder = entry.fullPath.split("/").slice(1, -1).join("/");
    return file.name.startsWith(".") ? [] : [{ file, folder }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const taken: DroppedFile[] = [];
  // A reader gives at most a hundred entries at a time, and none when it is through.
  for (;;) {
    const entries = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (entries.length === 0) return taken;
    for (const entry of entries) taken.push(...(await filesBelow(entry)));
  }
}
