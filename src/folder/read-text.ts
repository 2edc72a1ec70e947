import { constants } from "node:fs";
import { open } from "node:fs/promises";
import type { ProblemCode } from "../problems/index.ts";
import { limits } from "../values/index.ts";

export interface ReadFault {
  readonly code: ProblemCode;
  readonly message: string;
  readonly expected: string;
}

/**
 * Reads a regular file as UTF-8 text without its byte order mark, or says why it cannot be. Nothing is waited for: what
 * has become a pipe since it was looked at is opened without blocking, and found out.
 *
 * @param most bytes, since it may have grown as well
 */
export async function readText(path: string, most: number = limits.listBytes): Promise<string | ReadFault> {
  let bytes: Buffer | undefined;
  try {
    bytes = await readRegular(path, most);
  } catch (error) {
    return unreadable(reasonOf(error));
  }
  if (!bytes) return unreadable("it is no regular file, or has grown too large");
  return decodeText(bytes) ?? { code: "file-not-text", message: "This file is not UTF-8 text.", expected: "UTF-8" };
}

function unreadable(reason: string): ReadFault {
  return {
    code: "file-unreadable",
    message: `This file cannot be read: ${reason}.`,
    expected: "a file that this process may read",
  };
}

async function readRegular(path: string, most: number): Promise<Buffer | undefined> {
  const file = await open(path, constants.O_RDONLY | (constants.O_NONBLOCK ?? 0));
  try {
    const found = await file.stat();
    if (!found.isFile() || found.size > most) return undefined;
    // Not more than it held when it was opened: somebody may go on writing, and it will be looked at again.
    const bytes = Buffer.alloc(found.size);
    let length = 0;
    while (length < bytes.length) {
      const { bytesRead } = await file.read(bytes, length, bytes.length - length, length);
      if (bytesRead === 0) break;
      length += bytesRead;
    }
    return bytes.subarray(0, length);
  } finally {
    await file.close();
  }
}

/** Bytes as UTF-8 text without a byte order mark; undefined if they are none. */
export function decodeText(bytes: Uint8Array): string | undefined {
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    return undefined;
  }
}

const reasons: Readonly<Record<string, string>> = {
  EACCES: "permission denied",
  EPERM: "permission denied",
  ENOENT: "it does not exist",
  ENOTDIR: "a part of its path is no folder",
  EISDIR: "it is a folder",
  ELOOP: "its links go round in a circle",
  EMFILE: "too many files are open",
  EIO: "the disk reports an error",
};

export function reasonOf(error: unknown): string {
  const code = (error as { code?: string }).code ?? "";
  return reasons[code] ?? (error instanceof Error ? error.message : String(error));
}
