// Builds the page of the desk: static files in dist/desk-page, each beside a copy that is compressed already.
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants } from "node:zlib";
import subsetFont from "subset-font";
import { build } from "vite";

const root = join(import.meta.dirname, "..");
const out = join(root, "dist/desk-page");

const fonts = join(root, "src/desk-page/fonts");

/** Latin 1, and what names and sentences hold besides. */
const letters = [
  ...Array.from({ length: 0x5f }, (_, i) => String.fromCharCode(0x20 + i)),
  ...Array.from({ length: 0x60 }, (_, i) => String.fromCharCode(0xa0 + i)),
  "–—‘’“”„…•‹›€→←↑↓−×≥≤≠ŒœŠšŽžŸŁłıŐőŰű",
].join("");

/** The typeface of the page, with the letters and weights that it uses. */
async function makeFonts() {
  mkdirSync(fonts, { recursive: true });
  for (const style of ["normal", "italic"]) {
    const path = `node_modules/@fontsource-variable/literata/files/literata-latin-wght-${style}.woff2`;
    const wght = style === "normal" ? { min: 400, max: 700, default: 400 } : 400;
    const options = { targetFormat: "woff2", variationAxes: { wght } };
    const font = await subsetFont(readFileSync(join(root, path)), letters, options);
    writeFileSync(join(fonts, `literata-${style}.woff2`), font);
  }
}

export async function buildDesk() {
  await makeFonts();
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
    // A font is compressed already.
    if (!path.isFile() || path.name.endsWith(".woff2")) continue;
    const file = join(path.parentPath, path.name);
    writeFileSync(
      `${file}.br`,
      brotliCompressSync(readFileSync(file), { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }),
    );
  }
}
