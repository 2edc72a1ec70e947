import { join } from "node:path";
import { type Definitions, readSuspensions, saysSuspensions } from "../model/index.ts";
import { Problems } from "../problems/index.ts";
import { limits } from "../values/index.ts";
import { isSigned, knownKeyOf, readCopyLines, writeCopyFile } from "./copy-file.ts";
import { documentOf } from "./parsed-file.ts";
import { suspendedFile } from "./scan.ts";
import { readSource } from "./text-reader.ts";

type Suspensions = Definitions["suspensions"];

/** What was suspended at a moment. */
export interface KeptSuspensions {
  readonly suspensions: Suspensions;
  readonly savedAt: string;
}

/** The shape of the file, in its name; one of another shape is passed over. */
const fileName = "suspended.v1.kept";

interface Line {
  readonly savedAt: string;
  readonly suspended: string;
}

/**
 * Keeps what is suspended, beside the copies of good sets: an emergency stop is made, and ended, while the other files are
 * broken too, and no copy of those is made then.
 */
export async function keepSuspensions(directory: string, suspensions: Suspensions): Promise<void> {
  const line: Line = { savedAt: new Date().toISOString(), suspended: suspendedText(suspensions) };
  await writeCopyFile(directory, fileName, (writer) => writer.line(line));
}

/** What was kept last; undefined where there is nothing, and for what was tampered with. */
export async function loadSuspensions(directory: string): Promise<KeptSuspensions | undefined> {
  const key = await knownKeyOf(directory);
  const path = join(directory, fileName);
  if (!key || !(await isSigned(path, key))) return undefined;
  // Signed by this folder's key, so it is of the shape that its name says.
  const [line] = (await readCopyLines(path).catch(() => [])) as readonly Line[];
  if (!line) return undefined;
  const document = documentOf(suspendedFile, await readSource(suspendedFile, line.suspended));
  if (!saysSuspensions(document)) return undefined;
  return { suspensions: readSuspensions(document, new Problems()), savedAt: line.savedAt };
}

/** A text of `suspended.yaml` that says the same. */
export function suspendedText(suspensions: Suspensions): string {
  return JSON.stringify({ iudex: limits.formatVersion, suspended: suspendedData(suspensions) });
}

/** Suspensions as `suspended.yaml` holds them, by flag. */
export function suspendedData(suspensions: Suspensions): Readonly<Record<string, object>> {
  return Object.fromEntries(
    [...suspensions].map(([flag, { since, who, note, in: environments }]) => {
      const entry = Object.entries({ since, who, note, in: environments });
      return [flag, Object.fromEntries(entry.filter(([, value]) => value !== undefined))];
    }),
  );
}
