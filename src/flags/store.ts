import { DefinitionSet, type Definitions, joinedStops, type Suspensions } from "../model/index.ts";

/** Where the definitions in force come from. */
export type Origin =
  | { readonly kind: "files"; readonly folder: string }
  | { readonly kind: "last-good"; readonly file: string; readonly savedAt: string }
  | ShelfOrigin
  | { readonly kind: "history"; readonly revision: string }
  | { readonly kind: "code" };

/** An edition of a shelf, and how sure it is that there is no newer one. */
export interface ShelfOrigin {
  readonly kind: "shelf";
  /** What the shelf is called; without secrets. */
  readonly shelf: string;
  /** The name of the definition set on the shelf. */
  readonly set: string;
  /** The number of the edition in force. */
  readonly edition: number;
  /** The number of the list of stops in force; 0 where there is none. */
  readonly stops: number;
  /** Whether it was opened from the copy in `lastGood`, and the shelf has not been heard since. */
  readonly kept: boolean;
  /** When the shelf last said that this is its newest edition, by this machine's clock. */
  readonly confirmed: Date;
  /** The newest edition, where it was refused; the one in force goes on. */
  readonly refused?: RefusedEdition | undefined;
}

/** An edition that is not taken. */
export interface RefusedEdition {
  /** Its number, where its list can be read that far. */
  readonly edition?: number | undefined;
  /** Why, without a full stop at the end. */
  readonly why: string;
}

/** A revision that has been in force. */
export interface PastRevision {
  readonly revision: string;
  readonly at: Date;
  /** What the change to it meant, in one line. */
  readonly summary: string;
}

interface Held {
  readonly entry: PastRevision;
  readonly definitions: Definitions;
}

/** What a program's flags stand on at one moment. */
export interface State {
  readonly inForce: Definitions;
  /** What the last good files say, with their suspensions of now; going back leaves it alone. */
  readonly files: Definitions;
  /** What those files stopped when they were taken. */
  readonly taken: Suspensions;
  /** The stops of a shelf, which stand beside the files: nothing that the files say ends one. */
  readonly stops: Suspensions;
  readonly origin: Origin;
  /** The last revisions, newest first, with what is needed to go back to them. */
  readonly history: readonly Held[];
}

/** Revisions that are kept to go back to. */
const maxKept = 10;

const none: Suspensions = new Map();

/** @param stops of a shelf */
export function opened(definitions: Definitions, origin: Origin, stops: Suspensions = none): State {
  const inForce = withSuspensions(definitions, joinedStops(definitions.suspensions, stops));
  const taken = definitions.suspensions;
  return remembered({ inForce, files: definitions, taken, stops, origin, history: [] }, "as opened");
}

/** Good files: they are in force, unless somebody went back and they say nothing new. */
export function accepted(state: State, definitions: Definitions, origin: Origin): State {
  const isNews = definitions.revision !== state.files.revision;
  const said = { files: definitions, taken: definitions.suspensions };
  if (state.origin.kind === "history" && !isNews) return { ...state, ...said };
  return stoppedAsSaid({ ...state, ...said, inForce: definitions, origin });
}

/** Other suspensions of the files, whatever the rest of them is like; what is in force stays the same but for them. */
export function suspended(state: State, suspensions: Suspensions): State {
  const files = withSuspensions(state.files, withRenamed(state, suspensions));
  if (files === state.files) return state;
  // Without stops of a shelf, what is in force is what the files say, and not a copy of it.
  if (state.inForce === state.files && state.stops.size === 0) return { ...state, files, inForce: files };
  return stoppedAsSaid({ ...state, files });
}

/**
 * A new stop of a flag that the files in force do not define: it has been given another name, and the rest of that is still
 * to be taken. Until then no other stop ends.
 */
function withRenamed({ files: { flags, suspensions: before }, taken }: State, suspensions: Suspensions): Suspensions {
  if ([...suspensions.keys()].every((flag) => flags.has(flag) || taken.has(flag))) return suspensions;
  return new Map([...[...before].filter(([flag]) => flags.has(flag)), ...suspensions]);
}

/** Other stops of a shelf. */
export function stopped(state: State, stops: Suspensions): State {
  return sameSuspensions(state.stops, stops) ? state : stoppedAsSaid({ ...state, stops });
}

/** What is in force, with what the files and the shelf say is stopped. */
function stoppedAsSaid(state: State): State {
  const inForce = withSuspensions(state.inForce, joinedStops(state.files.suspensions, state.stops));
  return inForce === state.inForce ? state : { ...state, inForce };
}

/** Files that cannot be used: nothing changes but the suspensions, where it is certain what they are. */
export function rejected(state: State, suspensions: Suspensions | undefined): State {
  return suspensions === undefined ? state : suspended(state, suspensions);
}

/**
 * An earlier revision again, until the files say something new. Suspensions stay as the files say, since an emergency
 * stop must not be undone by going back. Undefined for a revision that the history does not hold.
 */
export function goneBack(state: State, revision: string): State | undefined {
  const earlier = state.history.find(({ entry }) => entry.revision === revision)?.definitions;
  if (!earlier) return undefined;
  return stoppedAsSaid({ ...state, inForce: earlier, origin: { kind: "history", revision } });
}

/** Notes what is in force now, and what the change to it meant. */
export function remembered(state: State, summary: string): State {
  const { inForce: definitions } = state;
  const entry = { revision: definitions.revision, at: new Date(), summary };
  return { ...state, history: [{ entry, definitions }, ...state.history].slice(0, maxKept) };
}

/** The set with other suspensions; itself where they are the same. */
export function withSuspensions(definitions: Definitions, suspensions: Suspensions): Definitions {
  if (sameSuspensions(definitions.suspensions, suspensions)) return definitions;
  return new DefinitionSet(definitions).withSuspensions(suspensions);
}

export function sameSuspensions(one: Suspensions, other: Suspensions): boolean {
  if (one === other) return true;
  return one.size === other.size && [...one].every(([name, each]) => isSame(each, other.get(name)));
}

function isSame(one: unknown, other: unknown): boolean {
  return JSON.stringify(one) === JSON.stringify(other);
}

/** Holds the state of one program's flags; whoever feeds it hands in the next one. */
export class DefinitionStore {
  #state: State;

  constructor(state: State) {
    this.#state = state;
  }

  get state(): State {
    return this.#state;
  }

  put(state: State): void {
    this.#state = state;
  }

  get entries(): readonly PastRevision[] {
    return this.#state.history.map(({ entry }) => entry);
  }
}
