import { type Files, filesFrom, type LocatedProblem, ToolError } from "../../files/index.ts";
import type { ShelfOptions } from "../../flags/index.ts";
import { placeOf, type Shelf } from "../../follow/index.ts";
import { compareSets, type PartChange } from "../../insight/index.ts";
import type { Definitions } from "../../model/index.ts";
import {
  defaultSet,
  type Edition,
  editionList,
  furthestStep,
  type Place,
  type PublishingPlace,
  type PublishKey,
  publicHalf,
} from "../../shelf/index.ts";
import { NothingToChange } from "../change-folder.ts";
import { emptySet } from "./empty-set.ts";
import { hashLists } from "./hash-lists.ts";
import { type CurrentEdition, type Found, ShelfReader } from "./shelf-reader.ts";
import { signedFor } from "./signing.ts";
import { contentsOfFolder, type Snapshot, takeSnapshot } from "./snapshot.ts";
import { mustKeepStops } from "./stops-kept.ts";

/** How something is published. */
export interface PublishRequest {
  /** The private key to sign with; without one the edition bears no signature. */
  readonly key?: PublishKey | undefined;
  /** The keys by which what stands on the shelf is verified; the public half of `key` if left out. */
  readonly keys?: ShelfOptions["keys"];
  /** Who publishes. */
  readonly by: string;
  /** Why. */
  readonly note?: string | undefined;
  /** The name of the set, on a shelf that does not say it; that of what stands there if left out, else “flags”. */
  readonly set?: string | undefined;
  /** Takes a number above this one, for a shelf that has lost what followers have seen. */
  readonly above?: number | undefined;
  /** Goes over what stands there and cannot be verified. */
  readonly despiteUnverified?: boolean | undefined;
  /** Puts out what cannot be verified where what stands there is signed. */
  readonly unsigned?: boolean | undefined;
  /** Publishes although a standing stop would then stop less, or give another value. */
  readonly despiteStops?: boolean | undefined;
  /** Goes through everything, and writes nothing. */
  readonly trial?: boolean | undefined;
  /**
   * Removes files afterwards that none of so many newest editions names, once nobody has used them for a day. The lists of
   * earlier editions stay. All files stay if left out.
   */
  readonly keep?: number | undefined;
  /** Epoch milliseconds, for the checks; now if left out. */
  readonly at?: number | undefined;
  /** Sees the plan before anything is put; false leaves the shelf as it is. */
  confirm?(plan: PublishPlan): Promise<boolean>;
}

/** An edition, worked out and not yet put. */
export interface PublishPlan {
  readonly set: string;
  readonly number: number;
  /** What stands on the shelf; undefined where it is empty, or not to be trusted. */
  readonly before: Definitions | undefined;
  /** Undefined where the files cannot be used. */
  readonly after: Definitions | undefined;
  /** What publishing changes; the whole set where nothing stands on the shelf. */
  readonly changes: readonly PartChange[];
  /** Errors that keep it from being published. */
  readonly refused: readonly LocatedProblem[];
  /** How many files there are, and how many of them the edition before did not have, with their bytes. */
  readonly files: { readonly all: number; readonly fresh: number; readonly freshBytes: number };
  /** What else the publisher should know. */
  readonly remarks: readonly string[];
  /** The text of a file, for showing problems in it. */
  textOf(file: string): string | undefined;
}

/** What came of publishing. */
export interface Published {
  readonly plan: PublishPlan;
  /** Undefined where it was refused or declined. */
  readonly edition: Edition | undefined;
  /** How many files were removed; undefined if not asked for, or if the shelf did not allow it. */
  readonly removed?: number | undefined;
}

export interface FolderRequest extends PublishRequest {
  readonly folder: string;
  /** Tells the ids of list cohorts as salted digests only. False by default. */
  readonly hashLists?: boolean | undefined;
}

export function publishFolder(shelf: Shelf, request: FolderRequest): Promise<Published> {
  const at = request.at ?? Date.now();
  return putOut(shelf, request, async (reader, newest) => {
    const own = await contentsOfFolder(request.folder);
    const files = filesFrom(own);
    const current = newest && (await reader.read(newest, files));
    if (!request.hashLists) return { current, files };
    const { loaded } = await takeSnapshot(files, at, current?.loaded.content);
    return { current, files: filesFrom(hashLists(own, loaded, current?.loaded)) };
  });
}

export function publishAgain(shelf: Shelf, number: number, request: PublishRequest): Promise<Published> {
  return putOut(shelf, request, async (reader, newest) => {
    const current = newest && (await reader.read(newest));
    return { current, files: (await reader.earlier(number)).loaded.content.source };
  });
}

/** The files of an edition to be, and what stands on the shelf. */
interface ToPublish {
  readonly files: Files;
  readonly current: CurrentEdition | undefined;
}

async function putOut(
  shelf: Shelf,
  request: PublishRequest,
  read: (reader: ShelfReader, newest: Edition | undefined) => Promise<ToPublish>,
): Promise<Published> {
  const place = shelf[placeOf];
  const publishing = publishingAt(place);
  await publishing.begin?.();
  const reader = new ShelfReader(place, keysFor(request));
  try {
    const found = await reader.newest();
    mustBeTrusted(found, request);
    const { current, files } = await read(reader, found.current);
    const snapshot = await takeSnapshot(files, request.at ?? Date.now(), current?.loaded.content);
    const plan = planOf(snapshot, current, found, place.set, request);
    if (plan.refused.length > 0 || !plan.after) return { plan, edition: undefined };
    if (!request.despiteStops) mustKeepStops(found.stops.suspended, current?.loaded.definitions, plan.after);
    const edition = editionOf(plan, plan.after, snapshot, found, request);
    if (current && sameFiles(current.edition, edition))
      throw new NothingToChange(`Edition ${current.edition.number} holds the same already.`);
    return await carriedOut(publishing, { edition, plan, snapshot, found, request, shelf });
  } finally {
    await reader.close();
  }
}

/** Where lists are put. @throws {ToolError} for a shelf that can only be read */
export function publishingAt(place: Place): PublishingPlace {
  if (place.publishing) return place.publishing;
  throw new ToolError(`${place.called} can only be read.`, "publish to the folder that its web server serves");
}

/** The keys by which what stands on the shelf is verified. */
export function keysFor({ keys, key }: Pick<PublishRequest, "keys" | "key">): ShelfOptions["keys"] {
  return keys ?? (key && publicHalf(key));
}

function mustBeTrusted({ fault, stops }: Found, { despiteUnverified }: PublishRequest): void {
  if (despiteUnverified) return;
  const why = fault ?? (stops.fault === undefined ? undefined : `the stops: ${stops.fault}`);
  if (why === undefined) return;
  throw new ToolError(
    `What stands on the shelf is not to be trusted: ${why}.`,
    "name the keys of all who publish or stop there (--keys), or go over it (--despite-unverified, mostly with --above and the highest number that followers have seen)",
  );
}

function planOf(
  { loaded, files, errors }: Snapshot,
  current: CurrentEdition | undefined,
  { base }: Found,
  placeSet: string | undefined,
  request: PublishRequest,
): PublishPlan {
  const before = current?.loaded.definitions;
  const after = loaded.definitions;
  const known = new Set(current?.edition.files.map(({ sha256 }) => sha256));
  const fresh = files.filter(({ sha256 }) => !known.has(sha256));
  return {
    set: placeSet ?? request.set ?? current?.edition.set ?? defaultSet,
    number: nextNumber(current ? (base.edition ?? 0) : 0, request.above),
    before,
    after,
    changes: after ? compareSets(before ?? emptySet(after), after) : [],
    refused: errors,
    files: { all: files.length, fresh: fresh.length, freshBytes: fresh.reduce((sum, { bytes }) => sum + bytes, 0) },
    remarks: [],
    textOf: (file) => loaded.content.files.get(file)?.text,
  };
}

/** The number of the next list. @throws {ToolError} for one so far above that followers would refuse it */
export function nextNumber(known: number, above = 0): number {
  if (known > 0 && above > known + furthestStep - 1)
    throw new ToolError(
      `A number is at most ${furthestStep.toLocaleString("en")} above the one that stands, which is ${known}.`,
      "name the highest number that followers have seen",
    );
  return Math.max(known, above) + 1;
}

function editionOf(
  plan: PublishPlan,
  after: Definitions,
  { files }: Snapshot,
  { stops }: Found,
  { by, note = "" }: PublishRequest,
): Edition {
  return {
    set: plan.set,
    number: plan.number,
    revision: after.revision,
    published: new Date().toISOString(),
    by,
    note,
    stops: stops.number,
    files: files.map(({ path, sha256, bytes }) => ({ path, sha256, bytes })),
  };
}

interface Publishing {
  readonly edition: Edition;
  readonly plan: PublishPlan;
  readonly snapshot: Snapshot;
  readonly found: Found;
  readonly request: PublishRequest;
  readonly shelf: Shelf;
}

async function carriedOut(
  publishing: PublishingPlace,
  { edition, plan, snapshot, found, request, shelf }: Publishing,
): Promise<Published> {
  const text = await signedFor(editionList, edition, found.isSigned, request);
  if (request.confirm && !(await request.confirm(plan))) return { plan, edition: undefined };
  if (request.trial) return { plan, edition };
  const list = { name: "edition" as const, set: edition.set, number: edition.number, text };
  if (await publishing.put(list, snapshot.files, found.base.edition))
    return { plan, edition, removed: await tidied(shelf, publishing, edition, request) };
  throw await overtaken(shelf, keysFor(request));
}

/**
 * Removes files that no kept edition names. The edition is published already, so a fault here is not a failure: undefined
 * then, as when the list of a kept edition cannot be read.
 */
async function tidied(
  shelf: Shelf,
  publishing: PublishingPlace,
  { number }: Edition,
  { keep }: PublishRequest,
): Promise<number | undefined> {
  if (keep === undefined || !publishing.forget) return undefined;
  const named = new Set<string>();
  try {
    for (let kept = number; kept > Math.max(0, number - keep); kept--)
      for (const { sha256 } of (await shelf.edition(kept))?.files ?? []) named.add(sha256);
    return await publishing.forget(named);
  } catch {
    return undefined;
  }
}

function sameFiles(one: Edition, other: Edition): boolean {
  const inOrder = ({ files }: Edition) =>
    files
      .map(({ path, sha256 }) => `${sha256} ${path}`)
      .sort()
      .join("\n");
  return inOrder(one) === inOrder(other);
}

async function overtaken(shelf: Shelf, keys: ShelfOptions["keys"]): Promise<ToolError> {
  const newest = await shelf.newest(keys).catch(() => undefined);
  const which = newest
    ? `edition ${newest.number} (${newest.by}${newest.note ? `: ${newest.note}` : ""})`
    : "another edition";
  return new ToolError(
    `Meanwhile ${which} was published; yours was not.`,
    "look at what it changes, and publish again",
  );
}
