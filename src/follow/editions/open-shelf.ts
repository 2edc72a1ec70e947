import { Keep } from "../../files/index.ts";
import type { Opened, ShelfOptions } from "../../flags/index.ts";
import type { Place } from "../../shelf/index.ts";
import { EditionReader } from "./edition-reader.ts";
import { FileStore } from "./file-store.ts";
import { readEditions, readKeptStops } from "./kept-editions.ts";
import { unseen } from "./newest-list.ts";
import { originOf } from "./origin-of.ts";
import { ShelfFeed } from "./shelf-feed.ts";
import { ShelfLists } from "./shelf-lists.ts";
import { startingPoint } from "./starting-point.ts";

/**
 * Opens a shelf: its newest edition, or the newest good copy where it cannot be had.
 *
 * @throws {FlagsError} that says why there is neither
 */
export async function openShelf(place: Place, options: ShelfOptions<unknown>): Promise<Opened> {
  const { lastGood, keys, keptAs = place.called } = options;
  const called = place.set === undefined ? keptAs : `${keptAs}, ${place.set}`;
  const keep = lastGood === undefined ? undefined : new Keep(lastGood, { kind: "shelf", called });
  const store = new FileStore(keep?.blobs);
  const kept = keep && (await readEditions(keep));
  const keptStops = await readKeptStops(keep, keys);
  const reader = new EditionReader(place, store);
  const [newestKept] = kept?.editions ?? [];
  const seen = { set: newestKept?.set, edition: kept?.seen ?? unseen, stops: keptStops.seen };
  const lists = new ShelfLists(place, keys, seen);
  try {
    const start = await startingPoint({ place, lists, reader, kept, keptStops, options });
    const { definitions } = start.read.loaded;
    const newest = originOf(place, start.read.edition, start.stops.number);
    const origin = start.kept ? { ...newest, kept: true, confirmed: new Date(kept!.confirmed) } : newest;
    const notes = [...start.notes, ...(keep?.faults ?? [])];
    if (keys === undefined) notes.push(`Nothing that comes from ${place.called} is verified: no keys are given.`);
    const parts = { place, options, store, lists, reader, keep, start: { ...start, notes } };
    return {
      definitions: definitions!,
      stops: start.stops.suspended,
      origin,
      feed: (feeding) => new ShelfFeed({ ...parts, feeding }),
    };
  } catch (error) {
    reader.close();
    await store.close();
    throw error;
  }
}
