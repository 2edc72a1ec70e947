import { createHash } from "node:crypto";
import type { FolderContent } from "./content.ts";
import type { LoadedFile } from "./loaded-file.ts";

/** The digest of a file's text is worked out once for as long as the file stays as it is. */
const digests = new WeakMap<LoadedFile["document"], string>();

/**
 * Says what a folder holds: the same for the same files, whenever they were read and however young they are, and another
 * as soon as anything of a file, a list or a schema is.
 */
export function versionOf({ files, lists, schemas }: FolderContent): string {
  const hash = createHash("sha256");
  const say = (...words: readonly string[]) => hash.update(`${JSON.stringify(words)}\n`);
  for (const [file, loaded] of [...files].sort(([one], [other]) => (one < other ? -1 : 1)))
    say("file", file, digestOf(loaded));
  for (const [key, { result }] of [...lists].sort())
    say("list", key, result.fault ? result.fault.message : result.digest);
  for (const [file, { schema }] of [...schemas].sort()) say("schema", file, JSON.stringify(schema));
  return hash.digest("base64url").slice(0, 22);
}

function digestOf({ document, text, parsed }: LoadedFile): string {
  let digest = digests.get(document);
  if (digest === undefined) {
    digest = createHash("sha256")
      .update(text)
      .update(JSON.stringify(parsed.faults.map(({ message }) => message)))
      .digest("base64");
    digests.set(document, digest);
  }
  return digest;
}
