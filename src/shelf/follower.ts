import type { RefusedEdition } from "../flags/index.ts";
import { isObject, own } from "../values/index.ts";

/** A process that follows a shelf, as it has noted itself. */
export interface Follower {
  /** Its own, a random one. */
  readonly id: string;
  /** What the program is called. */
  readonly name: string;
  readonly host: string;
  readonly process: number;
  readonly environment: string | undefined;
  /** The number of the edition in force. */
  readonly edition: number;
  /** The number of the list of stops in force; 0 where there is none. */
  readonly stops: number;
  /** The revision of what it gives: the edition's, with the stops. */
  readonly revision: string;
  /** Whether it was made to go back to an earlier revision. */
  readonly goneBack: boolean;
  /** Since when it is in force, by the follower's clock. */
  readonly since: string;
  /** The newest edition, where it was refused. */
  readonly refused?: RefusedEdition | undefined;
}

/** A note in the list of followers, and how long ago it was written: an unsigned claim of who can write there. */
export interface Noted extends Follower {
  /** Milliseconds since its process was heard of, by the shelf's clock. */
  readonly silent: number;
}

/** A process that has not been heard of for so long is silent; milliseconds. */
const silentAfter = 60_000;

/** Whether a process speaks: what a silent one gives is not known. */
export function isSilent({ silent }: Noted): boolean {
  return silent > silentAfter;
}

/** What a shelf holds: the numbers of an edition and of a list of stops. */
export interface Numbers {
  readonly edition: number;
  readonly stops: number;
}

/** Whether a process gives an edition or a later one, with the stops of a list or a later one, going by what it says. */
export function isUpToDate({ edition, stops, goneBack }: Follower, wanted: Numbers): boolean {
  return edition >= wanted.edition && stops >= wanted.stops && !goneBack;
}

/** A note as somebody has written it; undefined for what is not one. */
export function readFollower(text: string): Follower | undefined {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    return undefined;
  }
  if (!isObject(data)) return undefined;
  const word = (key: string) => String(own(data, key) ?? "").slice(0, 200);
  const number = (value: unknown) => (Number.isSafeInteger(value) ? (value as number) : 0);
  const refused = own(data, "refused");
  const environment = own(data, "environment");
  return {
    id: word("id"),
    name: word("name"),
    host: word("host"),
    process: number(own(data, "process")),
    environment: typeof environment === "string" ? environment.slice(0, 200) : undefined,
    edition: number(own(data, "edition")),
    stops: number(own(data, "stops")),
    revision: word("revision"),
    goneBack: own(data, "goneBack") === true,
    since: word("since"),
    ...(isObject(refused) ? { refused: readRefused(refused) } : {}),
  };
}

function readRefused(note: object): RefusedEdition {
  const edition = own(note, "edition");
  const why = String(own(note, "why") ?? "").slice(0, 200);
  return Number.isSafeInteger(edition) ? { edition: edition as number, why } : { why };
}
