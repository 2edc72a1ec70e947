import { type Loaded, suspendedFile, ToolError } from "../files/index.ts";
import { type Definitions, readSuspensions, type Stop, writtenStop } from "../model/index.ts";
import { Problems } from "../problems/index.ts";
import { didYouMean, isObject, noSuch, own, sentenceList } from "../values/index.ts";
import { NothingToChange } from "./change-folder.ts";
import type { Edit } from "./edit.ts";
import type { FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { type StopRequest, withoutStop, withStop } from "./stops.ts";
import { type SuspendedText, saysNothing, suspendedTextOf } from "./suspended-text.ts";

/** Which flag is stopped or started again, where, by whom and why. */
export interface SuspendRequest extends StopRequest {
  /** Epoch milliseconds. */
  readonly at: number;
  /** What was suspended last, if that is known: a file that cannot tell is written anew with it. */
  readonly known?: Definitions["suspensions"] | undefined;
}

/** `suspended.yaml` with a flag stopped; in an environment, or in every one. */
export function suspend(loaded: Loaded, request: SuspendRequest): FileChange {
  const { flag, environment, known } = request;
  mustBeKnown(flag, loaded);
  if (environment !== undefined) mustBeEnvironment(environment, loaded);
  const before = suspendedTextOf(loaded, known);
  return changed(before, flag, withStop(stopsIn(before, flag), request, request.at));
}

/** `suspended.yaml` with a flag judged by its rules again; in an environment, or in every one. */
export function reinstate(loaded: Loaded, { flag, environment, known }: Omit<SuspendRequest, "at">): FileChange {
  if (!loaded.suspensions && !known) throw saysNothing(loaded);
  const before = suspendedTextOf(loaded, known);
  const stops = stopsIn(before, flag);
  if (environment !== undefined) mustBeEnvironment(environment, loaded);
  if (stops.length === 0) throw isNotSuspended(flag, loaded, before);
  return changed(before, flag, withoutStop(stops, { flag, environment }));
}

function isNotSuspended(flag: string, loaded: Loaded, { held }: SuspendedText): Error {
  const help = didYouMean(flag, Object.keys(held));
  if (help) return new ToolError(`“${flag}” is not suspended.`, help);
  mustBeKnown(flag, loaded);
  return new NothingToChange(`${flag} is not suspended.`);
}

function stopsIn({ held }: SuspendedText, flag: string): readonly Stop[] {
  const data = { suspended: Object.hasOwn(held, flag) ? { [flag]: own(held, flag) } : {} };
  return readSuspensions({ file: suspendedFile, data }, new Problems()).get(flag)?.stops ?? [];
}

/** The text with other stops of a flag; those that stay the same stay as they are written. */
function changed({ text, held }: SuspendedText, flag: string, stops: readonly (Stop | undefined)[]): FileChange {
  const path = ["suspended", flag];
  const entry = own(held, flag);
  const isThere = Object.hasOwn(held, flag);
  const isList = Array.isArray(entry) && entry.length > 0;
  const entries: readonly unknown[] = isList ? entry : isThere ? [entry] : [];
  const values = stops.flatMap((stop, i) => (stop ? [written(stop, entries[i])] : []));
  const isListed = isList || values.length > 1;
  const edits: Edit[] = [
    ...(isListed && !isList ? [{ edit: "enlist", path } as const] : []),
    values.length === 0 ? { edit: "remove", path } : { edit: "set", path, value: isListed ? values : values[0] },
  ];
  return { file: suspendedFile, text: editText(suspendedFile, text, edits) };
}

interface Limits {
  readonly in?: unknown;
  readonly except?: unknown;
}

/** A stop in the place of an entry, which may say more than can be read of it. */
function written(stop: Stop, entry: unknown): object {
  const { in: only, except, ...said } = writtenStop(stop) as Limits;
  const { in: _, except: __, ...kept }: Limits = isObject(entry) ? entry : said;
  return { ...kept, ...(only ? { in: only } : {}), ...(except ? { except } : {}) };
}

/** Where files are broken, the flags of those that can be read are known; the others are taken on trust. */
function mustBeKnown(flag: string, loaded: Loaded): void {
  const { definitions } = loaded;
  const names = definitions ? [...definitions.flags.keys()] : namesIn(loaded, "flags");
  if (names.includes(flag) || (!definitions && isBroken(loaded))) return;
  const help =
    didYouMean(flag, names) ?? (names.length > 0 ? `there are ${sentenceList([...names].sort())}` : "none is defined");
  throw new ToolError(noSuch("flag", flag), help);
}

function isBroken({ content }: Loaded): boolean {
  return [...content.files.values()].some(({ parsed }) => parsed.faults.length > 0);
}

function namesIn({ content: { files } }: Loaded, section: "flags" | "environments"): string[] {
  return [...files.values()].flatMap(({ parsed: { data } }) => {
    const members = isObject(data) ? own(data, section) : undefined;
    return isObject(members) ? Object.keys(members) : [];
  });
}

function environmentsOf(loaded: Loaded): string[] {
  return loaded.definitions ? [...loaded.definitions.environments.keys()] : namesIn(loaded, "environments");
}

/** A misspelt environment is an error also while other files are broken, if any that can be read declares some. */
export function mustBeEnvironment(name: string, loaded: Loaded): void {
  const known = environmentsOf(loaded);
  if (known.includes(name) || (!loaded.definitions && known.length === 0)) return;
  const help =
    didYouMean(name, known) ??
    (known.length > 0 ? `there are ${sentenceList(known)}` : "leave --env out: the files declare no environments");
  throw new ToolError(noSuch("environment", name), help);
}
