import type { Keep } from "../../files/index.ts";
import { type Edition, payloadOf, readPayload } from "../../shelf/index.ts";

/** What is kept of a shelf. */
export interface KeptEditions {
  /** The highest number that was ever seen and verified. */
  readonly seen: number;
  /** When the shelf last confirmed the newest of them; epoch milliseconds. */
  readonly confirmed: number;
  /** Newest first. */
  readonly editions: readonly Edition[];
}

/**
 * Notes that an edition is good. What came from a publisher whose key has gone since is good all the same; what somebody
 * else put there is not.
 */
export async function keepEdition(keep: Keep, edition: Edition, seen: number): Promise<void> {
  const before = await readEditions(keep);
  const files = edition.files.map(({ path: name, sha256, bytes: size }) => ({ name, sha256, size }));
  await keep.keep(
    { savedAt: new Date().toISOString(), files, edition: payloadOf(edition) },
    { seen: Math.max(seen, before?.seen ?? 0), confirmed: Date.now() },
  );
}

/** What is kept; undefined where there is nothing that can be used. */
export async function readEditions(keep: Keep): Promise<KeptEditions | undefined> {
  const record = await keep.record();
  if (!record) return undefined;
  const editions = record.sets.flatMap(({ edition }) => (edition === undefined ? [] : [readPayload(edition)]));
  return { seen: record.seen ?? 0, confirmed: record.confirmed ?? 0, editions };
}
