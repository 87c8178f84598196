import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

// Without React's compiler, which takes longer than the tests: what it makes is tested in the browser.
export default defineConfig({
  plugins: [react()],
  test: {
    // As patient as a busy machine needs.
    testTimeout: 60_000,
    setupFiles: "src/shared/patience.ts",
    pool: "threads",
  },
});
