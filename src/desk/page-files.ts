import { existsSync } from "node:fs";
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

/** A file of the page, as it is sent. */
export interface PageFile {
  readonly body: Uint8Array<ArrayBuffer>;
  readonly headers: Readonly<Record<string, string>>;
}

const types: Readonly<Record<string, string>> = {
  html: "text/html; charset=utf-8",
  js: "text/javascript; charset=utf-8",
  css: "text/css; charset=utf-8",
  svg: "image/svg+xml",
  woff2: "font/woff2",
};

/** The built page, wherever the code that serves it was bundled to. */
const home = ["./desk-page/", "../desk-page/", "../../desk-page/"]
  .map((path) => fileURLToPath(new URL(path, import.meta.url)))
  .find((path) => existsSync(join(path, "index.html")));

/** Reads a file of the page; undefined for anything that is none. */
export async function pageFile(name: string, acceptEncoding: string | undefined): Promise<PageFile | undefined> {
  const [, folder, ending] = /^(assets\/)?[A-Za-z0-9_-]+\.(html|js|css|svg|woff2)$/.exec(name) ?? [];
  if (ending === undefined || home === undefined) return undefined;
  const path = join(home, name);
  const packed = /\bbr\b/.test(acceptEncoding ?? "") ? await bytesOf(`${path}.br`) : undefined;
  const body = packed ?? (await bytesOf(path));
  if (!body) return undefined;
  return {
    body,
    headers: {
      "content-type": types[ending]!,
      // Names under assets hold a digest of what they name.
      "cache-control": folder ? "private, max-age=31536000, immutable" : "no-cache",
      vary: "accept-encoding",
      ...(packed ? { "content-encoding": "br" } : {}),
    },
  };
}

async function bytesOf(path: string): Promise<Uint8Array<ArrayBuffer> | undefined> {
  try {
    return new Uint8Array(await readFile(path));
  } catch {
    return undefined;
  }
}
