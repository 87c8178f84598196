import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

// Without React's compiler, which takes longer than the tests: what it makes is tested in the browser.
export default defineConfig({
  plugins: [react()],
  // The guide's pages and pictures are beside the web's folder.
  server: { fs: { allow: [".."] } },
  test: {
    environment: "jsdom",
    // As patient as a busy machine needs.
    testTimeout: 60_000,
    setupFiles: "src/shared/testSetup.ts",
    pool: "threads",
    // One page and one set of libraries for all files: loading them anew for each takes ten times as long as the tests.
    isolate: false,
  },
});
