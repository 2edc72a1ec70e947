// Rooms that no entry shows, built for measuring as the library is built.
import { join } from "node:path";
import { build } from "vite";

const root = join(import.meta.dirname, "..");

/** @returns {Promise<Record<string, unknown>>} what a room's door shows */
export async function inside(room) {
  const outDir = join(root, "bench", ".built");
  await build({
    root,
    configFile: false,
    logLevel: "warn",
    build: {
      ssr: join(root, "src", room, "index.ts"),
      outDir,
      emptyOutDir: false,
      target: "node20",
      minify: false,
      rollupOptions: { output: { entryFileNames: `${room}.js`, chunkFileNames: `${room}-[name].js` } },
    },
  });
  return import(join(outDir, `${room}.js`));
}
