// Builds the page of the desk: static files in dist/desk-page, each beside a copy that is compressed already.
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants } from "node:zlib";
import { build } from "vite";

const root = join(import.meta.dirname, "..");
const out = join(root, "dist/desk-page");

export async function buildDesk() {
  await build({
    root: join(root, "src/desk-page"),
    configFile: false,
    logLevel: "warn",
    // The page is reached under whatever path the desk is mounted at.
    base: "./",
    esbuild: { jsx: "automatic", jsxImportSource: "preact" },
    resolve: { alias: [{ find: /^#late\/(.*)$/, replacement: join(root, "src/late/$1.ts") }] },
    build: {
      outDir: out,
      emptyOutDir: true,
      target: "es2023",
      modulePreload: { polyfill: false },
      assetsInlineLimit: 0,
      // A test weighs what is loaded first, as it is sent; in kB before that.
      chunkSizeWarningLimit: 800,
    },
  });
  for (const path of readdirSync(out, { recursive: true, withFileTypes: true })) {
    if (!path.isFile()) continue;
    const file = join(path.parentPath, path.name);
    writeFileSync(
      `${file}.br`,
      brotliCompressSync(readFileSync(file), { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }),
    );
  }
}
