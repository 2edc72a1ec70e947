import { ToolError } from "../../files/index.ts";
import type { ShelfOptions } from "../../flags/index.ts";
import { placeOf, type Shelf } from "../../follow/index.ts";
import { compareSets, type PartChange, whereStopped } from "../../insight/index.ts";
import { DefinitionSet, type Definitions, joinedStops, type Stop, type Suspensions } from "../../model/index.ts";
import { defaultSet, EditionFault, type Place, readList, type ShelfStops, stopsList } from "../../shelf/index.ts";
import { didYouMean, isObject, noSuch, own, sentenceList } from "../../values/index.ts";
import { NothingToChange } from "../change-folder.ts";
import { type StopRequest, withoutStop, withStop } from "../stops.ts";
import { keysFor, nextNumber, type PublishRequest, publishingAt } from "./publish.ts";
import { type CurrentEdition, type Found, ShelfReader } from "./shelf-reader.ts";
import { signedFor } from "./signing.ts";

/** How stops are put on a shelf. */
export interface StopsRequest extends Omit<PublishRequest, "confirm" | "by" | "note"> {
  /** Sees the plan before anything is put; false leaves the shelf as it is. */
  confirm?(plan: StopsPlan): Promise<boolean>;
}

/** A list of stops, worked out and not yet put. */
export interface StopsPlan {
  readonly set: string;
  readonly number: number;
  /** What the newest edition gives under the stops that stand; undefined where it cannot be read or trusted. */
  readonly before: Definitions | undefined;
  /** The same under those that are to stand. */
  readonly after: Definitions | undefined;
  readonly changes: readonly PartChange[];
  /** What else the stopper should know. */
  readonly remarks: readonly string[];
}

/** What came of stopping. */
export interface StopsPut {
  readonly plan: StopsPlan;
  /** Undefined where it was declined. */
  readonly stops: ShelfStops | undefined;
}

/** How often a list that others were quicker than is worked out again. */
const maxAttempts = 20;

export function suspendAtShelf(shelf: Shelf, stop: StopRequest, request: StopsRequest): Promise<StopsPut> {
  return putStops(shelf, request, ({ stops }, current) => {
    mustBeKnown(stop, current?.loaded.definitions);
    const before = stops.suspended.get(stop.flag);
    return changed(stops.suspended, stop.flag, withStop(before?.stops ?? [], stop, request.at ?? Date.now()));
  });
}

export function reinstateAtShelf(
  shelf: Shelf,
  stop: Pick<StopRequest, "flag" | "environment">,
  request: StopsRequest,
): Promise<StopsPut> {
  return putStops(shelf, request, ({ stops }, current) => {
    const suspension = stops.suspended.get(stop.flag);
    if (!suspension) throw isNotStopped(stop.flag, stops.suspended, current?.loaded.definitions);
    return changed(stops.suspended, stop.flag, withoutStop(suspension.stops, stop));
  });
}

export async function signStopsAgain(
  shelf: Shelf,
  { kept, ...request }: StopsRequest & { readonly kept?: string | undefined },
): Promise<StopsPut> {
  const before = kept === undefined ? undefined : await keptStops(kept, keysFor(request));
  return putStops(shelf, request, ({ stops }) => (before ? joinedStops(stops.suspended, before) : stops.suspended));
}

/** A list of stops as it was signed; what a follower keeps holds it as `list`. */
async function keptStops(text: string, keys: ShelfOptions["keys"]): Promise<Suspensions> {
  let data: unknown;
  try {
    data = JSON.parse(text.split("\n")[0]!);
  } catch {
    data = undefined;
  }
  const list = isObject(data) ? own(data, "list") : undefined;
  try {
    return (await readList(stopsList, typeof list === "string" ? list : text, keys)).list.suspended;
  } catch (error) {
    if (!(error instanceof EditionFault)) throw error;
    throw new ToolError(`The kept stops are not to be trusted: ${error.message}.`);
  }
}

async function putStops(
  shelf: Shelf,
  request: StopsRequest,
  change: (found: Found, current: CurrentEdition | undefined) => Suspensions,
): Promise<StopsPut> {
  const place = shelf[placeOf];
  const publishing = publishingAt(place);
  const keys = keysFor(request);
  for (let attempt = 1; ; attempt++) {
    const reader = new ShelfReader(place, keys);
    try {
      const found = await reader.newest();
      mustBeShelf(found, place, request);
      // It says what the stop means; the stop itself needs no edition, nor its being sound.
      const current = found.current && (await reader.read(found.current).catch(() => undefined));
      const suspended = change(found, current);
      const plan = planOf(suspended, current?.loaded.definitions, found, place.set, request);
      const stops = { set: plan.set, number: plan.number, changed: new Date().toISOString(), suspended };
      const text = await signedFor(stopsList, stops, found.isSigned, request);
      if (request.confirm && !(await request.confirm(plan))) return { plan, stops: undefined };
      const list = { name: "stops" as const, set: stops.set, number: stops.number, text };
      if (request.trial || (await publishing.put(list, [], found.base.stops))) return { plan, stops };
      if (attempt >= maxAttempts)
        throw new ToolError(`Others changed the stops of ${place.called} each time.`, "try it again");
    } finally {
      await reader.close();
    }
  }
}

/** A mistyped instant, or the path of something else, does not become a shelf. */
function mustBeShelf({ base, stops, fault }: Found, { called }: Place, request: StopsRequest): void {
  const isEmpty = base.edition === undefined && base.stops === undefined && fault === undefined;
  if (isEmpty && request.above === undefined)
    throw new ToolError(
      `${called} holds no edition, so there is nothing to stop or to start again.`,
      "--at takes a shelf that was published to (iudex publish), or an instant such as 2026-12-02T10:00Z",
    );
  if (stops.fault === undefined || request.despiteUnverified) return;
  throw new ToolError(
    `The stops that stand on the shelf are not to be trusted: ${stops.fault}.`,
    "name the keys of all who stop there (--keys), or go over them (--despite-unverified with --above)",
  );
}

function planOf(
  suspended: Suspensions,
  definitions: Definitions | undefined,
  { current, fault, stops }: Found,
  placeSet: string | undefined,
  request: StopsRequest,
): StopsPlan {
  const under = (stopped: Suspensions) =>
    definitions && new DefinitionSet(definitions).withSuspensions(joinedStops(definitions.suspensions, stopped));
  const [before, after] = [under(stops.suspended), under(suspended)];
  return {
    set: placeSet ?? request.set ?? current?.set ?? stops.set ?? defaultSet,
    number: nextNumber(stops.number, request.above),
    before,
    after,
    changes: before && after ? compareSets(before, after) : [],
    remarks: [
      ...(fault === undefined ? [] : [`The edition that stands there is not to be trusted: ${fault}.`]),
      ...stillStopped(stops.suspended, suspended, after),
    ],
  };
}

/** Where flags are still stopped of which some stop has ended. */
function stillStopped(before: Suspensions, after: Suspensions, definitions: Definitions | undefined): string[] {
  const ended = [...before].filter(([flag, { stops }]) => (after.get(flag)?.stops.length ?? 0) < stops.length);
  return ended.flatMap(([flag]) => {
    const left = (definitions?.suspensions ?? after).get(flag);
    if (!left) return [];
    const byFiles = after.has(flag) ? "" : ", by the files of the edition";
    return [`${flag} is still suspended${left.stops.map((stop) => whereStopped(stop)).join(", and")}${byFiles}.`];
  });
}

function changed(suspended: Suspensions, flag: string, stops: readonly (Stop | undefined)[]): Suspensions {
  const left = stops.filter((stop) => stop !== undefined);
  const next = new Map(suspended);
  if (left.length === 0) next.delete(flag);
  else next.set(flag, { flag, place: { file: "stops.json", path: ["suspended", flag] }, stops: left });
  return next;
}

/** Where no edition can be read, names are taken on trust: better a stop too many than none. */
function mustBeKnown({ flag, environment }: StopRequest, definitions: Definitions | undefined): void {
  if (!definitions) return;
  mustBeOneOf(flag, "flag", definitions.flags);
  if (environment !== undefined) mustBeOneOf(environment, "environment", definitions.environments);
}

function mustBeOneOf(name: string, what: string, known: ReadonlyMap<string, unknown>): void {
  if (known.has(name)) return;
  const names = [...known.keys()];
  const help =
    didYouMean(name, names) ?? (names.length > 0 ? `there are ${sentenceList(names.sort())}` : "there is none");
  throw new ToolError(noSuch(what, name), help);
}

/** One that is stopped by the files is started again where it was stopped. */
function isNotStopped(flag: string, stopped: Suspensions, definitions: Definitions | undefined): Error {
  const help = didYouMean(flag, [...stopped.keys()]);
  if (help) return new ToolError(`“${flag}” is not stopped at the shelf.`, help);
  if (definitions) mustBeOneOf(flag, "flag", definitions.flags);
  if (definitions?.suspensions.has(flag))
    return new ToolError(
      `${flag} is not stopped at the shelf; the files of its edition stop it.`,
      "take it out of suspended.yaml (iudex reinstate), and publish",
    );
  return new NothingToChange(`${flag} is not stopped at the shelf.`);
}
