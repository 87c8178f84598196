/** Sending a file so that a lost connection or a reload does not lose what has come: the tus protocol (tus.io). */
import { DetailedError, Upload } from "tus-js-client";
import { Problem, problemFrom } from "./client";

/** Another request has the upload, or what is between here and the server is out for a moment. */
const PASSING = [409, 423, 502, 503, 504];
const RETRY_AFTER = [0, 300, 1000, 3000, 5000, 10_000, 20_000];

/** Resolves with the id of the source; to `salvage` is to take what can be read of an incomplete file. `onProgress` is told the share that has come, and whether it waits to go on. */
export function upload(
  job: string,
  { file, folder, salvage }: { file: File; folder: string; salvage: boolean },
  onProgress: (share: number, waiting: boolean) => void,
  signal: AbortSignal,
): Promise<string> {
  if (file.size === 0) {
    const help = "Check that this is the audio file itself, and that it was copied whole.";
    return Promise.reject(new Problem("not-audio", `${file.name} is empty: 0 bytes`, help));
  }
  return new Promise((resolve, reject) => {
    let share = 0;
    let source = "";
    const sending = new Upload(file, {
      endpoint: `/api/jobs/${job}/uploads`,
      metadata: { filename: file.name, folder, ...(salvage && { salvage: "yes" }) },
      uploadDataDuringCreation: true,
      removeFingerprintOnSuccess: true,
      retryDelays: RETRY_AFTER,
      fingerprint: async () =>
        [
          "wedge-turn",
          job,
          folder,
          file.name,
          file.size,
          file.lastModified,
          ...(salvage ? ["salvage"] : []),
        ].join("|"),
      onProgress: (sent, total) => {
        share = total ? sent / total : 0;
        onProgress(share, false);
      },
      onAfterResponse: (_, response) => {
        source = response.getHeader("Wedge-Turn-Source") ?? source;
      },
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        const again = status === 0 || PASSING.includes(status);
        if (again) onProgress(share, true);
        return again;
      },
      onSuccess: () => resolve(source),
      onError: (error) => reject(problemOf(error, file.name)),
    });
    signal.addEventListener("abort", () => {
      void sending.abort(true).catch(() => {});
      reject(new Problem("stopped", `${file.name} was stopped`, ""));
    });
    sending.findPreviousUploads().then((previous) => {
      if (previous[0]) sending.resumeFromPreviousUpload(previous[0]);
      if (!signal.aborted) sending.start();
    }, reject);
  });
}

function problemOf(error: Error | DetailedError, name: string): Problem {
  const response = error instanceof DetailedError ? error.originalResponse : null;
  if (!response?.getStatus())
    return new Problem(
      "unreachable",
      `${name} could not be uploaded`,
      "Check that Wedge Turn is still running.",
    );
  let body: unknown = null;
  try {
    body = JSON.parse(response.getBody());
  } catch {
    // An answer that is no JSON is told by its status alone.
  }
  return problemFrom(body, response.getStatus());
}
