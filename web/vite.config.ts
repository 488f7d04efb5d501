import { defineConfig } from "vite";

export default defineConfig({
  esbuild: { jsx: "automatic" },
  build: {
    target: "es2022",
    // Beside the code that serves it, so that a wheel carries it.
    outDir: "../sorvan/page",
    emptyOutDir: true,
    chunkSizeWarningLimit: 1200,
    assetsInlineLimit: 0,
    rollupOptions: {
      // Libraries mark their client components; there is no server side here for the mark to matter to.
      onwarn: (warning, warn) =>
        warning.code === "MODULE_LEVEL_DIRECTIVE" || warning.message.includes("canvaskit") ? undefined : warn(warning),
    },
  },
  css: {
    preprocessorOptions: {
      scss: { quietDeps: true, silenceDeprecations: ["import", "color-functions", "global-builtin"] },
    },
  },
  server: { proxy: { "/api": { target: "http://127.0.0.1:8765", ws: true } } },
});
