import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  // One chunk of 680 kB comes from the same machine in no time: a warning about it would only worry whoever builds.
  build: { outDir: "../src/wedge_turn/webapp", emptyOutDir: true, chunkSizeWarningLimit: 1_000 },
  server: { proxy: { "/api": "http://127.0.0.1:8470" } },
  // As patient as a busy machine needs.
  test: { testTimeout: 60_000, setupFiles: "src/shared/patience.ts" },
});
