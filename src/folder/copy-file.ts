import { createHmac, type Hmac, randomBytes, randomUUID, timingSafeEqual } from "node:crypto";
import { createReadStream } from "node:fs";
import { type FileHandle, link, mkdir, open, readFile, rename, rm, stat } from "node:fs/promises";
import { join } from "node:path";

const keyFile = "key";
const keyBytes = 32;

/**
 * The key by which the copies of a folder are signed: a file of the folder's own, which only its owner may read. It is
 * made when there is none; copies that were signed by another are no copies.
 */
export async function keyOf(directory: string): Promise<Buffer> {
  const path = join(directory, keyFile);
  const known = await readFile(path).catch(() => undefined);
  if (known === undefined) await makeKey(directory, path);
  const key = known ?? (await readFile(path));
  if (key.length !== keyBytes)
    throw new Error(`“${path}” is no key of ${keyBytes} bytes; remove it to have another made`);
  return key;
}

/** Written aside and linked to its name, so that it is there whole or not at all, and never two of them. */
async function makeKey(directory: string, path: string): Promise<void> {
  const aside = join(directory, `.${randomUUID()}.tmp`);
  const file = await open(aside, "wx", 0o600);
  try {
    await file.writeFile(randomBytes(keyBytes));
    await file.sync();
  } finally {
    await file.close();
  }
  try {
    await link(aside, path);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
  } finally {
    await rm(aside, { force: true });
  }
}

/** The key of a folder, if it has a good one. */
export async function knownKeyOf(directory: string): Promise<Buffer | undefined> {
  const key = await readFile(join(directory, keyFile)).catch(() => undefined);
  return key?.length === keyBytes ? key : undefined;
}

/** What stands behind the lines of a copy: their HMAC with SHA-256, on a line of its own. */
const signatureLength = 64 + 1;

/** A line in the middle, with the signature of those before it: what comes first can be read without the rest. */
interface Seal {
  readonly sealed: string;
}

const sealStart = Buffer.from('{"sealed":');

/** Writes a copy line by line: each is signed as it is written, so that nothing large is worked on at once. */
export class CopyWriter {
  readonly #file: FileHandle;
  readonly #hmac: Hmac;
  /** Of the lines before the seal. */
  readonly #first: Hmac;
  #isSealed = false;

  private constructor(file: FileHandle, key: Buffer) {
    this.#file = file;
    this.#hmac = createHmac("sha256", key);
    this.#first = createHmac("sha256", key);
  }

  static async open(path: string, key: Buffer): Promise<CopyWriter> {
    return new CopyWriter(await open(path, "wx", 0o600), key);
  }

  async line(value: unknown): Promise<void> {
    const line = `${JSON.stringify(value)}\n`;
    this.#hmac.update(line);
    if (!this.#isSealed) this.#first.update(line);
    await this.#file.write(line);
  }

  /** Signs what was written so far, once. */
  async seal(): Promise<void> {
    this.#isSealed = true;
    await this.line({ sealed: this.#first.digest("hex") } satisfies Seal);
  }

  /** Signs and flushes what was written. */
  async finish(): Promise<void> {
    await this.#file.write(`${this.#hmac.digest("hex")}\n`);
    await this.#file.sync();
  }

  async close(): Promise<void> {
    await this.#file.close();
  }
}

/**
 * Writes a copy aside, signed and flushed, and renames it to its name: it is there whole or not at all.
 *
 * @returns the key by which it is signed
 */
export async function writeCopyFile(
  directory: string,
  name: string,
  write: (writer: CopyWriter) => Promise<void>,
): Promise<Buffer> {
  // Copies are never more open than their sources: lists of ids are in them.
  await mkdir(directory, { recursive: true, mode: 0o700 });
  const key = await keyOf(directory);
  const aside = join(directory, `.${randomUUID()}.tmp`);
  const writer = await CopyWriter.open(aside, key);
  try {
    await write(writer);
    await writer.finish();
  } catch (error) {
    await rm(aside, { force: true });
    throw error;
  } finally {
    await writer.close();
  }
  await rename(aside, join(directory, name));
  return key;
}

/** Whether a copy is whole, and signed by this key. It is read a piece at a time. */
export async function isSigned(path: string, key: Buffer): Promise<boolean> {
  try {
    const { size } = await stat(path);
    const end = size - signatureLength;
    if (end < 1) return false;
    const hmac = createHmac("sha256", key);
    for await (const piece of createReadStream(path, { end: end - 1 })) hmac.update(piece as Buffer);
    const signature: Buffer[] = [];
    for await (const piece of createReadStream(path, { start: end })) signature.push(piece as Buffer);
    return isSame(Buffer.concat(signature).toString("latin1").trimEnd(), hmac);
  } catch {
    return false;
  }
}

function isSame(given: string, hmac: Hmac): boolean {
  return given.length === 64 && timingSafeEqual(Buffer.from(given), Buffer.from(hmac.digest("hex")));
}

/** The lines of a copy before its seal, read, if they are signed by this key; undefined if not. */
export async function readSealedLines(path: string, key: Buffer): Promise<unknown[] | undefined> {
  const hmac = createHmac("sha256", key);
  const lines: Buffer[] = [];
  try {
    for await (const line of linesIn(path)) {
      if (line.subarray(0, sealStart.length).equals(sealStart)) {
        const { sealed } = JSON.parse(line.toString()) as Seal;
        return isSame(sealed, hmac) ? lines.map((each) => JSON.parse(each.toString()) as unknown) : undefined;
      }
      hmac.update(line);
      lines.push(line);
    }
  } catch {
    // As good as none.
  }
  return undefined;
}

const lineBreak = 10;

/** The lines of a file with their line breaks; no more of it is read than is asked for. */
async function* linesIn(path: string): AsyncGenerator<Buffer> {
  let begun: Buffer[] = [];
  for await (const piece of createReadStream(path)) {
    let rest = piece as Buffer;
    for (let end = rest.indexOf(lineBreak); end >= 0; end = rest.indexOf(lineBreak)) {
      yield Buffer.concat([...begun, rest.subarray(0, end + 1)]);
      begun = [];
      rest = rest.subarray(end + 1);
    }
    begun.push(rest);
  }
}

/** The lines of a signed copy, read. @throws where one cannot be read */
export async function readCopyLines(path: string): Promise<unknown[]> {
  const lines = (await readFile(path, "utf8")).split("\n");
  // The signature and the end of its line.
  return lines.slice(0, -2).map((line) => JSON.parse(line) as unknown);
}
