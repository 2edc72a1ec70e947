import type { Definitions } from "../model/index.ts";
import { readSuspensions, saysSuspensions } from "../model/index.ts";
import { Problems } from "../problems/index.ts";
import { suspendedFile } from "./file-name.ts";
import type { Disk } from "./from/disk.ts";
import type { Loaded } from "./judge-content.ts";
import { documentOf } from "./parse/parsed-file.ts";
import { readSource } from "./parse/text-reader.ts";
import { tooLarge } from "./parse/too-large.ts";
import { decodeText } from "./read-text.ts";

export interface ReadSuspended {
  /** The mark of the file; undefined where there certainly is none. */
  readonly mark: string | undefined;
  /** Undefined where they cannot be read: then the last ones stay. */
  readonly suspensions: Definitions["suspensions"] | undefined;
}

/** Reads `suspended.yaml` on its own, if it is not as it was; undefined if it is, or if that cannot be told. */
export async function readSuspended(disk: Disk, markBefore: string | undefined): Promise<ReadSuspended | undefined> {
  const { entries, faults, isListed } = await disk.some([suspendedFile]);
  const entry = entries.get(suspendedFile);
  if (!entry) {
    const isGone = isListed && faults.length === 0;
    return isGone && markBefore !== undefined ? { mark: undefined, suspensions: new Map() } : undefined;
  }
  if (entry.stamp !== undefined && entry.stamp === markBefore) return undefined;
  const text = tooLarge(entry.size) ? undefined : decodeText(await entry.bytes());
  if (text === undefined) return undefined;
  const document = documentOf(suspendedFile, await readSource(suspendedFile, text));
  // What cannot be parsed, or says nothing, may be half written; the reading of the whole folder will tell of it.
  if (!saysSuspensions(document)) return undefined;
  return { mark: entry.mark, suspensions: readSuspensions(document, new Problems()) };
}

/**
 * That `suspended.yaml` does not say what is suspended, and why, without a full stop: running programs then go on with what
 * was suspended last, and nobody else can tell what that is. Undefined where it does say so.
 */
export function unsaidSuspensions({ suspensions: said, problems }: Loaded): string | undefined {
  if (said) return undefined;
  const fault = problems.find(({ file }) => file === suspendedFile);
  const why = fault ? ` (line ${fault.line}: ${fault.message.replace(/\.$/, "")})` : "";
  return `${suspendedFile} does not say what is suspended${why}`;
}
