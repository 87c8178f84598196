/** Sending a file as the body of one request, with progress. fetch() tells none, XMLHttpRequest does. */
import { Problem, problemFrom, type Source } from "./client";

export function upload(
  job: string,
  file: File,
  onProgress: (share: number) => void,
  signal: AbortSignal,
): Promise<Source> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/jobs/${job}/sources?${new URLSearchParams({ name: file.name })}`);
    request.responseType = "json";
    request.upload.onprogress = (event) => onProgress(event.total ? event.loaded / event.total : 0);
    request.onload = () =>
      request.status === 201
        ? resolve(request.response as Source)
        : reject(problemFrom(request.response, request.status));
    request.onerror = () =>
      reject(
        new Problem("unreachable", `${file.name} could not be sent`, "Look whether Wedge Turn is running."),
      );
    request.onabort = () => reject(new Problem("stopped", `${file.name} was stopped`, ""));
    signal.addEventListener("abort", () => request.abort());
    request.send(file);
  });
}
