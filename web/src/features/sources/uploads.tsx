/** Taking files in: dropped anywhere or chosen in a dialog, two at a time, each with its progress. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useCallback, useEffect, useRef, useState } from "react";
import { Problem } from "../../api/client";
import { upload } from "../../api/upload";

export type Upload = { id: number; file: File; share: number; problem: Problem | null };
const AT_ONCE = 2;

export function useUploads(job: string) {
  const [uploads, setUploads] = useState<Upload[]>([]);
  const aborts = useRef(new Map<number, AbortController>());
  const waiting = useRef<Upload[]>([]);
  const running = useRef(0);
  const next = useRef(0);

  const patch = useCallback((id: number, change: Partial<Upload>) => {
    setUploads((all) => all.map((one) => (one.id === id ? { ...one, ...change } : one)));
  }, []);
  const dismiss = useCallback((id: number) => {
    aborts.current.get(id)?.abort();
    waiting.current = waiting.current.filter((one) => one.id !== id);
    setUploads((all) => all.filter((one) => one.id !== id));
  }, []);

  const pump = useCallback(() => {
    while (running.current < AT_ONCE) {
      const one = waiting.current.shift();
      if (!one) return;
      running.current++;
      const abort = new AbortController();
      aborts.current.set(one.id, abort);
      upload(job, one.file, (share) => patch(one.id, { share }), abort.signal)
        .then(
          () => dismiss(one.id),
          (problem: unknown) => {
            if (problem instanceof Problem && problem.code !== "stopped") patch(one.id, { problem });
          },
        )
        .finally(() => {
          running.current--;
          aborts.current.delete(one.id);
          pump();
        });
    }
  }, [job, patch, dismiss]);

  const add = useCallback(
    (files: File[]) => {
      const fresh = files.map((file) => ({ id: next.current++, file, share: 0, problem: null }));
      waiting.current.push(...fresh);
      setUploads((all) => [...all, ...fresh]);
      pump();
    },
    [pump],
  );
  // A page that is left would lose what is still on its way.
  const busy = uploads.some((one) => !one.problem);
  useEffect(() => {
    if (!busy) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [busy]);
  return { uploads, add, dismiss };
}

/** Files may be dropped anywhere on the page; folders are gone through. */
export function DropArea({ onFiles }: { onFiles: (files: File[]) => void }) {
  const [over, setOver] = useState(false);
  useEffect(() => {
    let depth = 0;
    const carriesFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const enter = (event: DragEvent) => {
      if (!carriesFiles(event)) return;
      event.preventDefault();
      depth++;
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
        dropped.map(({ entry, file }) => (entry?.isDirectory ? filesBelow(entry) : file ? [file] : [])),
      );
      onFiles(files.flat());
    };
    const allow = (event: DragEvent) => carriesFiles(event) && event.preventDefault();
    const listeners = { dragenter: enter, dragleave: leave, dragover: allow, drop } as const;
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
      borderWidth={2}
      borderStyle="dashed"
      borderColor="right"
      borderRadius="xl"
      bg="ground/85"
      align="center"
      justify="center"
      pointerEvents="none"
    >
      <Box textAlign="center">
        <Text fontSize="2xl" fontWeight={700}>
          Drop to take in
        </Text>
        <Text color="fg.quiet">Files are copied. The originals are never changed.</Text>
      </Box>
    </Flex>
  );
}

async function filesBelow(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) =>
      (entry as FileSystemFileEntry).file(resolve, reject),
    );
    return file.name.startsWith(".") ? [] : [file];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: File[] = [];
  // A reader gives at most a hundred entries at a time, and none when it is through.
  for (;;) {
    const entries = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (entries.length === 0) return found;
    for (const one of entries) found.push(...(await filesBelow(one)));
  }
}
