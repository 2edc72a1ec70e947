import { Keep } from "../../files/index.ts";
import type { Opened, ShelfOptions } from "../../flags/index.ts";
import type { Place } from "../../shelf/index.ts";
import { EditionReader } from "./edition-reader.ts";
import { FileStore } from "./file-store.ts";
import { readEditions } from "./kept-editions.ts";
import { originOf } from "./origin-of.ts";
import { ShelfFeed } from "./shelf-feed.ts";
import { startingPoint } from "./starting-point.ts";

/**
 * Opens a shelf: its newest edition, or the newest good copy where it cannot be had.
 *
 * @throws {FlagsError} that says why there is neither
 */
export async function openShelf(place: Place, options: ShelfOptions<unknown>): Promise<Opened> {
  const { lastGood, keys } = options;
  const called = place.set === undefined ? place.called : `${place.called}, ${place.set}`;
  const keep = lastGood === undefined ? undefined : new Keep(lastGood, { kind: "shelf", called });
  const store = new FileStore(keep?.blobs);
  const kept = keep && (await readEditions(keep));
  const reader = new EditionReader(place, keys, store, kept);
  try {
    const start = await startingPoint(place, reader, kept, options);
    const { definitions } = start.read.loaded;
    const newest = originOf(place, start.read.edition);
    const origin = start.kept ? { ...newest, kept: true, confirmed: new Date(kept!.confirmed) } : newest;
    const notes = [...start.notes, ...(keep?.faults ?? [])];
    if (keys === undefined) notes.push(`Nothing that comes from ${place.called} is verified: no keys are given.`);
    return {
      definitions: definitions!,
      origin,
      feed: (feeding) => new ShelfFeed({ place, options, store, reader, keep, feeding, start: { ...start, notes } }),
    };
  } catch (error) {
    reader.close();
    await store.close();
    throw error;
  }
}
