import { createHash, randomUUID } from "node:crypto";
import { mkdir, open, readdir, rename, rm, stat } from "node:fs/promises";
import { join } from "node:path";
import { diskTime } from "../abandoned.ts";
import { readRegular } from "../read-regular.ts";

/** What no record names is removed when it is older than this; younger ones may be another's work. Milliseconds. */
const abandonedAfter = 3_600_000;

/** Some bytes that are kept, by their digest. */
export interface Blob {
  /** SHA-256, as hex. */
  readonly sha256: string;
  /** In bytes. */
  readonly size: number;
}

/** Bytes by their digest, each whole or not at all, open to their owner only. */
export class Blobs {
  readonly directory: string;

  constructor(directory: string) {
    this.directory = directory;
  }

  path({ sha256 }: Blob): string {
    return join(this.directory, sha256);
  }

  /** True if there is such a file; what is in it is looked at when it is read. */
  async has(blob: Blob): Promise<boolean> {
    const found = await stat(this.path(blob)).catch(() => undefined);
    return found?.isFile() === true && found.size === blob.size;
  }

  /** @throws where it is not there, or not what its name says */
  async read(blob: Blob): Promise<Buffer> {
    const bytes = await readRegular(this.path(blob), blob.size);
    if (bytes.length !== blob.size || digestOf(bytes) !== blob.sha256) throw new Error("it is not what was kept");
    return bytes;
  }

  async put(bytes: Uint8Array): Promise<Blob> {
    const blob = { sha256: digestOf(bytes), size: bytes.length };
    if (await this.has(blob)) return blob;
    return this.write([bytes]);
  }

  /** Writes pieces one after the other, so that nothing large is worked on at once. */
  async write(pieces: Iterable<string | Uint8Array>): Promise<Blob> {
    await mkdir(this.directory, { recursive: true, mode: 0o700 });
    const aside = join(this.directory, `.${randomUUID()}.tmp`);
    const hash = createHash("sha256");
    let size = 0;
    try {
      const file = await open(aside, "wx", 0o600);
      try {
        for (const piece of pieces) {
          const bytes = Buffer.from(piece as string);
          hash.update(bytes);
          size += bytes.length;
          await file.write(bytes);
        }
        await file.sync();
      } finally {
        await file.close();
      }
      const blob = { sha256: hash.digest("hex"), size };
      await rename(aside, this.path(blob));
      return blob;
    } finally {
      await rm(aside, { force: true });
    }
  }

  /** Removes what nobody wants any more, and what was left half-written, but for what is young. */
  async forget(wanted: ReadonlySet<string>): Promise<void> {
    const now = await diskTime(this.directory).catch(() => Number.NEGATIVE_INFINITY);
    for (const name of await readdir(this.directory).catch(() => [])) {
      if (wanted.has(name)) continue;
      const path = join(this.directory, name);
      const found = await stat(path).catch(() => undefined);
      if (found && now - found.mtimeMs > abandonedAfter) await rm(path, { force: true }).catch(() => {});
    }
  }
}

function digestOf(bytes: Uint8Array): string {
  return createHash("sha256").update(bytes).digest("hex");
}
