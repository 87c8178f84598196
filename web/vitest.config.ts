import { mergeConfig } from "vite";
import { defineConfig } from "vitest/config";
import build from "./vite.config";

export default mergeConfig(
  build,
  defineConfig({
    test: {
      // As patient as a busy machine needs.
      testTimeout: 60_000,
      setupFiles: "src/shared/patience.ts",
      // One environment for all files: a new one for each takes six times as long as the tests themselves.
      pool: "threads",
      isolate: false,
    },
  }),
);
