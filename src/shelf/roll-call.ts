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
  /** Since when it is in force, by the follower's clock. */
  readonly since: string;
  /** The newest edition, where it was refused. */
  readonly refused?: RefusedEdition | undefined;
}

/** A note as somebody has written it; undefined for what is none. */
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
    since: word("since"),
    ...(isObject(refused) ? { refused: readRefused(refused) } : {}),
  };
}

function readRefused(note: object): RefusedEdition {
  const edition = own(note, "edition");
  const why = String(own(note, "why") ?? "").slice(0, 500);
  return Number.isSafeInteger(edition) ? { edition: edition as number, why } : { why };
}
