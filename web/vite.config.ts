import { defineConfig } from "vite";

export default defineConfig({
  esbuild: { jsx: "automatic" },
  build: { target: "es2022", chunkSizeWarningLimit: 1200, assetsInlineLimit: 0 },
  css: { preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ["import", "if-function", "color-functions", "global-builtin"] } } },
  server: { proxy: { "/api": { target: "http://127.0.0.1:8765", ws: true } } },
});
