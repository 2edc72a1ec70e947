import { readFile } from "node:fs/promises";
import type { ProblemCode } from "../problems/index.ts";

export interface ReadFault {
  readonly code: ProblemCode;
  readonly message: string;
  readonly expected: string;
}

/** Reads a file as UTF-8 text without its byte order mark, or says why it cannot be. */
export async function readText(path: string): Promise<string | ReadFault> {
  let bytes: Buffer;
  try {
    bytes = await readFile(path);
  } catch (error) {
    return {
      code: "file-unreadable",
      message: `This file cannot be read: ${reasonOf(error)}.`,
      expected: "a file that this process may read",
    };
  }
  return decodeText(bytes) ?? { code: "file-not-text", message: "This file is not UTF-8 text.", expected: "UTF-8" };
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
