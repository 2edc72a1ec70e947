// What a page loads for a module: built as a page is built, minified, compressed by brotli.
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { brotliCompressSync } from "node:zlib";
import { build } from "vite";

/** The files that are loaded for some lines of code, the first of them first: what each imports, and its bytes. */
export async function filesLoadedFor(code, external = []) {
  const home = await mkdtemp(join(tmpdir(), "iudex-size-"));
  const input = join(home, "entry.js");
  await writeFile(input, code);
  const rollupOptions = { input, preserveEntrySignatures: "strict", external };
  const options = { write: false, target: "es2022", modulePreload: false, rollupOptions };
  try {
    const { output } = await build({ configFile: false, logLevel: "error", build: options });
    return output.map(({ code = "", imports = [] }) => ({ imports, bytes: brotliCompressSync(code).length }));
  } finally {
    await rm(home, { recursive: true, force: true });
  }
}
