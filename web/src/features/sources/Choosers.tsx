/** The dialogs of the browser: one for files, one for a folder with its structure. */
import type { RefObject } from "react";
import type { DroppedFile } from "./uploadStore";

type Props = {
  files: RefObject<HTMLInputElement | null>;
  folder: RefObject<HTMLInputElement | null>;
  onFiles: (files: DroppedFile[]) => void;
};

export function Choosers({ files, folder, onFiles }: Props) {
  const take = (input: HTMLInputElement) => {
    onFiles(
      [...(input.files ?? [])]
        .filter((file) => !file.name.startsWith("."))
        .map((file) => ({ file, folder: file.webkitRelativePath.split("/").slice(0, -1).join("/") })),
    );
    input.value = "";
  };
  return (
    <>
      <input
        ref={files}
        type="file"
        multiple
        hidden
        data-testid="file-input"
        onChange={(event) => take(event.target)}
      />
      <input
        ref={folder}
        type="file"
        {...{ webkitdirectory: "" }}
        hidden
        data-testid="folder-input"
        onChange={(event) => take(event.target)}
      />
    </>
  );
}
