import type { Keep } from "../../files/index.ts";
import type { ShelfOptions } from "../../flags/index.ts";
import {
  type Edition,
  payloadOf,
  type ReadList,
  readList,
  readPayload,
  type ShelfStops,
  stopsList,
} from "../../shelf/index.ts";
import { CurrentStops } from "./current-stops.ts";
import { type Seen, unseen } from "./newest-list.ts";

/** What is kept of a shelf. */
export interface KeptEditions {
  /** The highest number that was ever seen and verified. */
  readonly seen: Seen;
  /** When the shelf last confirmed the newest of them; epoch milliseconds. */
  readonly confirmed: number;
  /** Newest first. */
  readonly editions: readonly Edition[];
}

/**
 * Notes that an edition is good. What came from a publisher whose key has gone since is good all the same; what somebody
 * else put there is not.
 */
export async function keepEdition(keep: Keep, edition: Edition, seen: Seen): Promise<void> {
  const before = await readEditions(keep);
  const files = edition.files.map(({ path: name, sha256, bytes: size }) => ({ name, sha256, size }));
  const highest = before && before.seen.number > seen.number ? before.seen : seen;
  await keep.keep(
    { savedAt: new Date().toISOString(), files, edition: payloadOf(edition) },
    { seen: highest.number, kid: highest.kid, confirmed: Date.now() },
  );
}

/** What is kept; undefined where there is nothing that can be used. */
export async function readEditions(keep: Keep): Promise<KeptEditions | undefined> {
  const record = await keep.record();
  if (!record) return undefined;
  const editions = record.sets.flatMap(({ edition }) => {
    const read = edition === undefined ? undefined : readKept(edition);
    return read ? [read] : [];
  });
  const number = record.seen ?? 0;
  const newest = editions.find((edition) => edition.number === number);
  const seen = { number, kid: record.kid, payload: newest && payloadOf(newest) };
  return { seen, confirmed: record.confirmed ?? 0, editions };
}

/** One of an earlier shape is not used. */
function readKept(payload: string): Edition | undefined {
  try {
    return readPayload(payload);
  } catch {
    return undefined;
  }
}

/** The stops that were seen, and what is remembered of their newest list. */
export interface KeptStops {
  readonly standing: CurrentStops;
  readonly seen: Seen;
}

/**
 * The lists of stops that are kept and still valid: what is by a key that has been withdrawn is forgotten. Before the newest
 * those count, too, of which it may have ended nothing.
 */
export async function readKeptStops(keep: Keep | undefined, keys: ShelfOptions["keys"]): Promise<KeptStops> {
  const read: ReadList<ShelfStops>[] = [];
  for (const text of (await keep?.stopsLists()) ?? []) {
    const list = await readList(stopsList, text, keys).catch(() => undefined);
    if (list) read.push(list);
  }
  const standing = new CurrentStops();
  for (const each of read.toReversed()) standing.remember(each);
  const [newest] = read;
  if (!newest) return { standing, seen: unseen };
  return { standing, seen: { number: newest.list.number, kid: newest.kid, payload: stopsList.write(newest.list) } };
}
