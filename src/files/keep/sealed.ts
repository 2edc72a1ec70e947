import { createHmac, randomBytes, randomUUID, timingSafeEqual } from "node:crypto";
import { link, lstat, mkdir, rm, stat } from "node:fs/promises";
import { join } from "node:path";
import { readRegular } from "../read-regular.ts";
import { writeAside, writeNew } from "../write-aside.ts";

const keyFile = "key";
const keyBytes = 32;

/** A record names files, and holds none: more than this is none of ours. In bytes. */
const largestRecord = 8 * 2 ** 20;

/**
 * What is wrong with a directory; undefined if nothing is, or if it does not exist yet. Nobody can forge what
 * is in it, since the key is ours alone; anybody who may write in it can remove copies.
 */
export async function remarkOnDirectory(directory: string): Promise<string | undefined> {
  const found = await stat(directory).catch(() => undefined);
  if (!found?.isDirectory() || process.platform === "win32" || (found.mode & 0o022) === 0) return undefined;
  return `“${directory}” can be written by others, who can take kept copies away. Write: chmod go-w ${directory}`;
}

/** The key by which the records of a directory are signed; made when there is none. */
export async function keyOf(directory: string): Promise<Buffer> {
  await mkdir(directory, { recursive: true, mode: 0o700 });
  const known = await knownKeyOf(directory);
  if (known) return known;
  await makeKey(directory);
  const key = await knownKeyOf(directory);
  if (key) return key;
  const path = join(directory, keyFile);
  throw new Error(`“${path}” is not a key of ${keyBytes} bytes that is ours alone; remove it to have another made`);
}

/** The key of a directory, if it has a good one: what somebody else owns, or may read, is none. */
export async function knownKeyOf(directory: string): Promise<Buffer | undefined> {
  const key = await readRegular(join(directory, keyFile), keyBytes, isOurs).catch(() => undefined);
  return key?.length === keyBytes ? key : undefined;
}

function isOurs({ uid, mode }: { readonly uid: bigint; readonly mode: bigint }): boolean {
  const own = process.getuid?.();
  return own === undefined || (uid === BigInt(own) && (mode & 0o077n) === 0n);
}

/** Written aside and linked to its name, so that it is there whole or not at all, and never two of them. */
async function makeKey(directory: string): Promise<void> {
  const path = join(directory, keyFile);
  const aside = join(directory, `.${randomUUID()}.tmp`);
  await writeNew(aside, randomBytes(keyBytes));
  try {
    await link(aside, path);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
  } finally {
    await rm(aside, { force: true });
  }
}

/** Writes a record aside, signed and flushed, and renames it to its name: it is there whole or not at all. */
export async function writeSealed(directory: string, path: string, record: object): Promise<void> {
  const key = await keyOf(directory);
  const text = JSON.stringify(record);
  await writeAside(path, `${text}\n${signatureOf(text, key)}\n`);
}

/**
 * A record that was signed by the directory's key; undefined where there is none.
 *
 * @throws where there is one and it cannot be used: torn, tampered with, signed by another key
 */
export async function readSealed(directory: string, path: string): Promise<object | undefined> {
  if ((await lstat(path).catch(() => undefined)) === undefined) return undefined;
  const key = await knownKeyOf(directory);
  if (!key) throw new Error("there is no key for it that is ours alone");
  const [text = "", signature = ""] = (await readRegular(path, largestRecord)).toString("utf8").split("\n");
  const wanted = Buffer.from(signatureOf(text, key));
  if (signature.length !== wanted.length || !timingSafeEqual(Buffer.from(signature), wanted))
    throw new Error("its signature is wrong, or it is cut off");
  return JSON.parse(text) as object;
}

function signatureOf(text: string, key: Buffer): string {
  return createHmac("sha256", key).update(text).digest("hex");
}
