import { fileURLToPath } from "node:url";
import { defineConfig } from "vite";

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  root: here("."),
  esbuild: { jsx: "automatic", jsxImportSource: "preact" },
  build: { outDir: here("../dist/page"), emptyOutDir: true, target: "es2022" },
});
