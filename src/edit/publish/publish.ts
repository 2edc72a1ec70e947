import { type LocatedProblem, requireFileName, suspendedFile, ToolError } from "../../files/index.ts";
import type { ShelfOptions } from "../../flags/index.ts";
import { placeOf, type Shelf } from "../../follow/index.ts";
import { compareSets, type PartChange } from "../../insight/index.ts";
import type { Definitions } from "../../model/index.ts";
import {
  defaultSet,
  type Edition,
  EditionFault,
  type PublishingPlace,
  type PublishKey,
  publicHalf,
  signEdition,
} from "../../shelf/index.ts";
import { NothingToChange } from "../change-folder.ts";
import { reinstate, type SuspendRequest, suspend } from "../suspend.ts";
import { emptySet } from "./empty-set.ts";
import { hashLists } from "./hash-lists.ts";
import { type CurrentEdition, type Found, ShelfReader } from "./shelf-reader.ts";
import { type Contents, contentsOf, contentsOfFolder, type Snapshot, takeSnapshot } from "./snapshot.ts";

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
  /** Takes a number above this one, and goes over what stands there and cannot be verified. */
  readonly above?: number | undefined;
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
  /** What whoever publishes should know besides. */
  readonly remarks: readonly string[];
  /** The text of a file, for showing problems in it. */
  textOf(file: string): string | undefined;
}

/** What came of publishing. */
export interface Published {
  readonly plan: PublishPlan;
  /** Undefined where it was refused or declined. */
  readonly edition: Edition | undefined;
}

/** What is to stand on the shelf. */
interface Draft {
  readonly files: Contents;
  readonly suspending?: true;
  readonly remarks?: readonly string[];
}

export interface FolderRequest extends PublishRequest {
  readonly folder: string;
  /** Tells the ids of list cohorts as salted digests only. False by default. */
  readonly hashLists?: boolean | undefined;
}

export function publishFolder(shelf: Shelf, request: FolderRequest): Promise<Published> {
  return putOut(shelf, request, async (standing, reader) => {
    const before = standing?.loaded.content;
    const own = await contentsOfFolder(request.folder);
    const files = request.hashLists
      ? hashLists(own, (await takeSnapshot(own, request.at ?? Date.now(), before)).loaded, standing?.loaded)
      : own;
    if (standing) await mustKnowOfStops(files, standing, reader);
    return { files };
  });
}

/** An edition that only suspends is newer than any folder; a folder that has not taken it in would undo it unseen. */
async function mustKnowOfStops(files: Contents, { edition }: CurrentEdition, reader: ShelfReader): Promise<void> {
  let base = edition;
  while (base.suspending && base.number > 1) base = await reader.edition(base.number - 1);
  if (base === edition || digestIn(base) === digestIn(edition)) return;
  const own = await digestOfFile(files.get(suspendedFile));
  if (own !== digestIn(base)) return;
  throw new ToolError(
    `What was suspended or reinstated at the shelf by edition ${edition.number} (${edition.by}${edition.note ? `: ${edition.note}` : ""}) is not in the folder, and publishing would undo it.`,
    `write it into the folder's ${suspendedFile} too (iudex suspend, iudex reinstate), or undo it at the shelf (--at)`,
  );
}

function digestIn({ files }: Edition): string | undefined {
  return files.find(({ path }) => path === suspendedFile)?.sha256;
}

async function digestOfFile(bytes: Uint8Array | undefined): Promise<string | undefined> {
  if (!bytes) return undefined;
  return Buffer.from(await crypto.subtle.digest("SHA-256", bytes as BufferSource)).toString("hex");
}

export function publishAgain(shelf: Shelf, number: number, request: PublishRequest): Promise<Published> {
  return putOut(shelf, request, async (standing, reader) => {
    const files = await contentsOf((await reader.earlier(number)).loaded);
    const now = await standing?.loaded.content.source.entries.get(suspendedFile)?.bytes();
    const before = files.get(suspendedFile);
    files.delete(suspendedFile);
    if (now) files.set(suspendedFile, now);
    const isSame = Buffer.from(before ?? []).equals(Buffer.from(now ?? []));
    return { files, remarks: isSame ? [] : ["What is suspended stays as it is now."] };
  });
}

export function suspendAtShelf(shelf: Shelf, stop: StopRequest, request: PublishRequest): Promise<Published> {
  return putOut(shelf, { note: stop.note, ...request }, changingStops(stop, suspend), maxAttempts);
}

export function reinstateAtShelf(shelf: Shelf, stop: StopRequest, request: PublishRequest): Promise<Published> {
  return putOut(shelf, request, changingStops(stop, reinstate), maxAttempts);
}

/** Which flag is stopped or started again. */
export type StopRequest = Omit<SuspendRequest, "at">;

function changingStops(stop: StopRequest, change: typeof suspend) {
  return async (standing: CurrentEdition | undefined): Promise<Draft> => {
    if (!standing) throw new ToolError("The shelf holds no edition, so there is nothing to suspend or reinstate.");
    const { file, text } = change(standing.loaded, { ...stop, at: Date.now() });
    const files = await contentsOf(standing.loaded);
    return { files: files.set(requireFileName(file), new TextEncoder().encode(text)), suspending: true };
  };
}

/** How often a stop that others were quicker than is worked out anew. */
const maxAttempts = 20;

async function putOut(
  shelf: Shelf,
  request: PublishRequest,
  draftFrom: (standing: CurrentEdition | undefined, reader: ShelfReader) => Promise<Draft>,
  attempts = 1,
): Promise<Published> {
  const place = shelf[placeOf];
  const { publishing } = place;
  if (!publishing)
    throw new ToolError(`${place.called} can only be read.`, "publish to the folder that its web server serves");
  const keys = request.keys ?? (request.key && publicHalf(request.key));
  await publishing.begin?.();
  for (let attempt = 1; ; attempt++) {
    const reader = new ShelfReader(place, keys);
    try {
      const found = await reader.newest();
      mustBeTrusted(found, request.above);
      const draft = await draftFrom(found.standing, reader);
      const snapshot = await takeSnapshot(draft.files, request.at ?? Date.now(), found.standing?.loaded.content);
      const plan = planOf(snapshot, draft, found, place.set, request);
      const published = await carriedOut(publishing, plan, snapshot, draft, found, request);
      if (published) return published;
      if (attempt >= attempts) throw await overtaken(shelf, keys);
    } finally {
      await reader.close();
    }
  }
}

function mustBeTrusted({ fault }: Found, above: number | undefined): void {
  if (fault === undefined || above !== undefined) return;
  throw new ToolError(
    `What stands on the shelf is not to be trusted: ${fault}.`,
    "name the keys of all who publish (--keys), or go over it (--above, with the highest number that followers have seen)",
  );
}

function planOf(
  { loaded, files, errors }: Snapshot,
  { remarks = [] }: Draft,
  { standing, base }: Found,
  placeSet: string | undefined,
  request: PublishRequest,
): PublishPlan {
  const before = standing?.loaded.definitions;
  const after = loaded.definitions;
  const known = new Set(standing?.edition.files.map(({ sha256 }) => sha256));
  const fresh = files.filter(({ sha256 }) => !known.has(sha256));
  return {
    set: placeSet ?? request.set ?? standing?.edition.set ?? defaultSet,
    number: Math.max(standing?.edition.number ?? 0, base !== undefined && standing ? base : 0, request.above ?? 0) + 1,
    before,
    after,
    changes: after ? compareSets(before ?? emptySet(after), after) : [],
    refused: errors,
    files: { all: files.length, fresh: fresh.length, freshBytes: fresh.reduce((sum, { bytes }) => sum + bytes, 0) },
    remarks,
    textOf: (file) => loaded.content.files.get(file)?.text,
  };
}

/** Undefined where somebody else was quicker. */
async function carriedOut(
  publishing: PublishingPlace,
  plan: PublishPlan,
  { files }: Snapshot,
  { suspending }: Draft,
  { standing, base }: Found,
  { key, by, note = "", confirm }: PublishRequest,
): Promise<Published | undefined> {
  if (plan.refused.length > 0 || !plan.after) return { plan, edition: undefined };
  const edition: Edition = {
    set: plan.set,
    number: plan.number,
    revision: plan.after.revision,
    published: new Date().toISOString(),
    by,
    note,
    files: files.map(({ path, sha256, bytes }) => ({ path, sha256, bytes })),
    ...(suspending ? { suspending } : {}),
  };
  if (standing && sameFiles(standing.edition, edition))
    throw new NothingToChange(`Edition ${standing.edition.number} holds the same already.`);
  const list = await signed(edition, key);
  if (confirm && !(await confirm(plan))) return { plan, edition: undefined };
  return (await publishing.publish(edition, list, files, base)) ? { plan, edition } : undefined;
}

function sameFiles(one: Edition, other: Edition): boolean {
  const inOrder = ({ files }: Edition) =>
    files
      .map(({ path, sha256 }) => `${sha256} ${path}`)
      .sort()
      .join("\n");
  return inOrder(one) === inOrder(other);
}

async function signed(edition: Edition, key: PublishKey | undefined): Promise<string> {
  try {
    return await signEdition(edition, key);
  } catch (error) {
    if (error instanceof EditionFault) throw new ToolError(`The edition cannot be signed: ${error.message}.`);
    throw new ToolError("The edition cannot be signed: the key is no private JSON Web Key of its algorithm.");
  }
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
