import { transformAsync } from "@babel/core";
import react from "@vitejs/plugin-react";
import type { Plugin } from "vite";
import { defineConfig } from "vite";

/**
 * React's compiler, before everything else: a setting that moves draws only what depends on it, without every component
 * saying so by hand. What it cannot compile stops the build; such a function says "use no memo".
 */
const reactCompiler = (): Plugin => ({
  name: "react-compiler",
  enforce: "pre",
  transform: {
    filter: { id: { include: /\/src\/.*\.tsx?$/, exclude: /\.test\./ } },
    handler: async (code, id) => {
      const compiled = await transformAsync(code, {
        filename: id,
        plugins: [["babel-plugin-react-compiler", { panicThreshold: "all_errors" }]],
        parserOpts: { plugins: ["typescript", "jsx"] },
        sourceMaps: true,
        configFile: false,
        babelrc: false,
      });
      return compiled?.code ? { code: compiled.code, map: compiled.map ?? null } : null;
    },
  },
});

export default defineConfig({
  plugins: [reactCompiler(), react()],
  // One chunk of 680 kB comes from the same machine in no time: a warning about it would only worry whoever builds.
  build: { outDir: "../src/wedge_turn/webapp", emptyOutDir: true, chunkSizeWarningLimit: 1_000 },
  server: { proxy: { "/api": "http://127.0.0.1:8470" }, fs: { allow: [".."] } },
});
