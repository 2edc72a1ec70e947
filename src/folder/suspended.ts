import { realpath } from "node:fs/promises";
import type { Definitions } from "../model/index.ts";
import { readSuspensions, saysSuspensions } from "../model/index.ts";
import { Problems } from "../problems/index.ts";
import type { Loaded } from "./judge-content.ts";
import { documentOf } from "./parsed-file.ts";
import { readText } from "./read-text.ts";
import { lookAtFile, suspendedFile } from "./scan.ts";
import { readSource } from "./text-reader.ts";
import { tooLarge } from "./too-large.ts";

export interface ReadSuspended {
  /** Changes whenever the file does; undefined where there certainly is none. */
  readonly stamp: string | undefined;
  /** Undefined where they cannot be read: then the last ones stay. */
  readonly suspensions: Definitions["suspensions"] | undefined;
}

/** Reads `suspended.yaml` on its own, if it is not as it was; undefined if it is, or if that cannot be told. */
export async function readSuspended(
  folder: string,
  stampBefore: string | undefined,
): Promise<ReadSuspended | undefined> {
  const root = await realpath(folder);
  const found = await lookAtFile(root, suspendedFile);
  if (found === "gone") return stampBefore === undefined ? undefined : { stamp: undefined, suspensions: new Map() };
  if (found === undefined || found.stamp === stampBefore) return undefined;
  const text = tooLarge(found.size) ? undefined : await readText(found.path);
  if (typeof text !== "string") return undefined;
  const document = documentOf(suspendedFile, await readSource(suspendedFile, text));
  // What cannot be parsed, or says nothing, may be half written; the reading of the whole folder will tell of it.
  if (!saysSuspensions(document)) return undefined;
  return { stamp: found.stamp, suspensions: readSuspensions(document, new Problems()) };
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
