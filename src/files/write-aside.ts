import { randomUUID } from "node:crypto";
import { open, rename, rm } from "node:fs/promises";
import { join } from "node:path";

/** Readable by its owner only. */
const own = 0o600;

/** Written beside its place, flushed and renamed: it is there whole or not at all. */
export async function writeAside(path: string, bytes: string | Uint8Array, mode = own): Promise<void> {
  const aside = join(path, "..", `.${randomUUID()}.tmp`);
  try {
    await writeNew(aside, bytes, mode);
    await rename(aside, path);
  } finally {
    await rm(aside, { force: true });
  }
}

/** Writes a file that is not there yet, and flushes it. @throws where something is there */
export async function writeNew(path: string, bytes: string | Uint8Array, mode = own): Promise<void> {
  const file = await open(path, "wx", mode);
  try {
    await file.writeFile(bytes);
    await file.sync();
  } finally {
    await file.close();
  }
}
